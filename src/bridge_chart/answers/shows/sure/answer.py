"""How far the rows of a comparison against a start hang on the line, on a school, on the year."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from bridge_chart.answers.against.prior import WhereTheyStarted
from bridge_chart.answers.figures.order import in_order
from bridge_chart.answers.figures.rows import rows_of
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.shows.sure.body import SureBody, SureFigure, SureModel, SureRow
from bridge_chart.answers.shows.sure.models import Tried, column, tried
from bridge_chart.answers.what.measures import innermost
from bridge_chart.answers.who.coverage import coverage
from bridge_chart.answers.words.warnings import warnings_of
from bridge_chart.core.trust.sensitivity import SeveralYears, sensitivity, several_years
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Method, Reading, Row
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.wording import count, interval, listed, signed

Years = list[tuple[str, dict[str, Row]]]


def sure_shown(parts: Sequence[Slice]) -> Shown:
    """Every model on the sitting that is asked about, and the asked model on those before."""
    part = _asked(parts)
    own = part.view.yardstick
    if not isinstance(own, WhereTheyStarted):
        raise InvalidQuestion(
            "How sure is asked of a comparison with where they started.",
            next_step="Measure it against where they started.",
            instead={"against": {"prior": {}}},
        )
    found, why_not = tried(part, own)
    years = _years(parts, part, found[0])
    body = _body(part, found, why_not, years)
    covered = [coverage(part.view, part.people, part.out.reasons)]
    return Shown(
        body=body,
        coverage=covered,
        readings=_readings(body),
        method=_method(),
        warnings=warnings_of([part], covered, found[0].rows),
        about=part,
    )


def _asked(parts: Sequence[Slice]) -> Slice:
    """The sitting that the question names, among all of the test's."""
    named = innermost(parts[0].view.question.what[0]).sitting
    mine = [p for p in parts if p.view.measure.sitting.id == named]
    return mine[0] if mine else max(parts, key=lambda p: p.view.measure.date)


def _years(parts: Sequence[Slice], part: Slice, asked: Tried) -> Years:
    """The sittings before, each with the students of then, and the asked one last."""
    day = part.view.measure.date
    before = sorted(
        (p for p in parts if p.view.measure.date < day and p.out.spans),
        key=lambda p: p.view.measure.date,
    )
    told = [(p.view.measure.sitting.name, {row.key: row for row in rows_of(p)}) for p in before]
    return [*told, (part.view.measure.sitting.name, {row.key: row for row in asked.rows})]


def _body(part: Slice, found: list[Tried], why_not: list[str], years: Years) -> SureBody:
    rows = in_order(found[0].rows, (q.SortBy(by="span"),), ("span",), "How sure", getattr)
    keys = [row.key for row in rows]
    columns = {one.key: column(one.rows, keys) for one in found}
    over = sensitivity({k: spans for k, (spans, _) in columns.items()},
                       {k: told for k, (_, told) in columns.items()})  # fmt: skip
    several = _several(keys, years)
    by_model = [{row.key: row for row in one.rows} for one in found]
    made = []
    for n, row in enumerate(rows):
        made.append(
            SureRow(
                key=row.key, label=row.label, path=row.path, measure=row.measure, n=row.n,
                missing=row.missing, opens=row.opens,
                figures=[_figure(by[row.key]) for by in by_model],
                lowest=_plain(over.lowest[n]), highest=_plain(over.highest[n]),
                flips=bool(over.flips[n]),
                years=[_figure(by[row.key]) if row.key in by else None for _, by in years],
                mean=_plain(several.mean[n]) if several.years[n] > 1 else None,
                mean_low=_plain(several.low[n]),
                mean_high=_plain(several.high[n]),
            )
        )  # fmt: skip
    return SureBody(
        show="sure", dimension=part.grouping.label, unit=part.view.quantity.unit,
        models=[SureModel(key=m.key, label=m.label, asked=not n) for n, m in enumerate(found)],
        years=[name for name, _ in years],
        year_to_year=_plain(several.between) if (several.years >= 2).any() else None,
        rows=made, not_tried=why_not,
    )  # fmt: skip


def _several(keys: list[str], years: Years) -> SeveralYears:
    def table(name: str) -> np.ndarray:
        cells = [[getattr(by.get(key), name, None) for _, by in years] for key in keys]
        return np.array(cells, np.float64).reshape(len(keys), len(years))

    return several_years(table("span"), table("se"), np.nan_to_num(table("n")))


def _figure(row: Row) -> SureFigure:
    return SureFigure(
        span=row.span, low=row.low, high=row.high, n=row.n, verdict=row.verdict,
        because=row.because,
    )  # fmt: skip


def _plain(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None


def _readings(body: SureBody) -> list[Reading]:
    """Whose mark hangs on the model; what the years say; one cohort is said to be one."""
    said = []
    flips = [row for row in body.rows if row.flips]
    models = count(len(body.models), "way")
    marked = [r for r in body.rows if r.figures[0].verdict in ("ahead", "behind")]
    if flips:
        text = (
            f"By {models} of working it out {listed([r.label for r in flips], 4)} "
            f"{'does' if len(flips) == 1 else 'do'} not keep one verdict: don't rest on it."
        )
        said.append(Reading(kind="unclear", rows=[r.key for r in flips], text=text))
    held = [row for row in marked if not row.flips]
    if held:
        text = f"{listed([r.label for r in held], 4)}: the same verdict by {models}."
        said.append(Reading(kind="list", rows=[r.key for r in held], text=text))
    if not flips and not held:
        text = f"No verdict depends on how it is worked out ({models} tried)."
        said.append(Reading(kind="list", rows=[], text=text))
    if len(body.years) < 2:
        text = "This is one cohort. One year is a question, three are an answer."
        return [*said, Reading(kind="unclear", rows=[], text=text)]
    return said + _of_years(body, marked)


def _of_years(body: SureBody, marked: list[SureRow]) -> list[Reading]:
    said = []
    single = [row for row in marked if row.mean is None]
    if single:
        text = f"One cohort only: {listed([row.label for row in single], 4)}."
        said.append(Reading(kind="unclear", rows=[row.key for row in single], text=text))
    for row in [row for row in marked if row.mean is not None][:3]:
        told = [
            f"{signed(f.span)} in {name}"
            for name, f in zip(body.years, row.years, strict=True)
            if f is not None and f.span is not None
        ]
        between = interval(row.mean_low or 0.0, row.mean_high or 0.0)
        text = f"{row.label}: {', '.join(told)}; "
        text += f"together {signed(row.mean or 0.0)} (95% interval {between})."
        said.append(Reading(kind="list", rows=[row.key], text=text))
    return said


def _method() -> Method:
    return Method(
        name="How sure",
        says=[
            "Each row by several lines, each judged as if it had been asked for: a straight line, "
            "a smooth curve, corrected for error in the start, pooled, and without each school "
            "that stands out.",
            "The years before are other students, each year held against the line of its own.",
            "The mean of the years counts how much rows truly change from one to the next.",
        ],
        facts={},
        page="methods/sensitivity.md",
    )
