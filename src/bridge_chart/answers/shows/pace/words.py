"""What pace says, and how it is worked out."""

from __future__ import annotations

from bridge_chart.answers.shows.movement.words import percent
from bridge_chart.answers.shows.pace.body import PaceBody, PaceRow
from bridge_chart.terms.answer import Method, Reading
from bridge_chart.terms.wording import count, interval, number


def pace_readings(body: PaceBody) -> list[Reading]:
    """The whole, or the only row; the order of rows is not told, for nobody is judged here."""
    whole = body.reference or (body.rows if len(body.rows) == 1 else [])
    said = [
        Reading(kind="list", rows=[row.key], text=text) for row in whole for text in _of(row, body)
    ]
    if not said and not any(row.n for row in body.rows):
        said = [Reading(kind="list", rows=[], text="Nobody has both results.")]
    said += [
        Reading(kind="coverage", rows=[], text=f"{text[:1].upper()}{text[1:]}")
        for text in body.lacks
    ]
    caution = (
        "Who started low gains more by chance alone: hold groups against similar starters before "
        "anybody is praised or blamed."
    )
    return [*said, Reading(kind="trust", rows=[], text=caution)]


def _of(row: PaceRow, body: PaceBody) -> list[str]:
    out = []
    if row.share is not None and row.low is not None and row.high is not None:
        out.append(
            f"{row.label}: {percent(row.share)} made {count(body.wanted, 'step')} or more since "
            f"{body.before} ({percent(row.low)} to {percent(row.high)}), of "
            f"{count(row.stepped, 'student')} with both."
        )
    if row.pace.mean is not None and row.pace.low is not None and row.pace.high is not None:
        out.append(
            f"{row.label}: {number(row.pace.mean)} {body.unit} a year from {body.first} on "
            f"({interval(row.pace.low, row.pace.high)}, {count(row.pace.n, 'student')})."
        )
    if row.ends.mean is not None:
        out.append(
            f"At this pace the mean would be {number(row.ends.mean)} a year from now, of the "
            f"{count(row.ends.n, 'student')} whose results span a year; of one student that says "
            "little."
        )
    return out


def pace_method(body: PaceBody) -> Method:
    says = [
        f"Steps are levels or grades now minus those in {body.before}, of those with both. A pace "
        f"is the slope of a straight line through a student's own results from {body.first} on, a "
        "year; the mean over the row.",
        "Where a pace ends lies one year on, and only where results span a year. Intervals are at "
        "95%; classes vary too.",
        "Nothing is allowed for: not where they started, not who they are.",
    ]
    return Method(
        name="Steps made and pace", says=says, facts={"wanted": body.wanted, "ahead_years": 1},
        page="methods/pace.md",
    )  # fmt: skip
