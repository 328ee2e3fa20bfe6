"""Tables of reference as they hold at a version: scales, questions of a test, national figures.

Rows name tests, subjects and sittings as people write them, so a table may come before the
results that it is about. A newer batch replaces what an older one said of the same thing.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from functools import cached_property
from math import isfinite
from typing import Any

from bridge_chart.store.same_names import SameNames

Cells = dict[str, Any]


def same(name: str | None) -> str:
    """How names are compared: whatever their case and outer blanks; None is no name."""
    return (name or "").strip().casefold()


@dataclass(frozen=True)
class Step:
    """A grade or level. `passes`: it is at or above the pass line."""

    name: str
    points: float | None = None
    passes: bool = False
    synonyms: tuple[str, ...] = ()


@dataclass(frozen=True)
class Cut:
    """The lowest score of a step in a year level, form and school year (None: in all). `upper`: the
    lowest score of the step's upper half (None: at its middle); `expected`: whether the step is
    what is expected at that age; `score`: the kind of figure that it is in (blank: the sitting's
    own, scaled before raw)."""

    step: str
    year_level: int | None
    lowest: float
    form: str | None = None
    school_year: str | None = None
    upper: float | None = None
    expected: bool = False
    score: str = ""


@dataclass(frozen=True)
class Scale:
    """Steps from lowest to highest, with their cut scores where the table gives them."""

    steps: tuple[Step, ...]
    cuts: tuple[Cut, ...] = ()

    def place(self, written: str) -> int | None:
        """The place of a step as written, a synonym or blanks inside it allowed; None else."""
        return self._places.get(tidy(written))

    @cached_property
    def _places(self) -> dict[str, int]:
        return {
            tidy(name): at
            for at, step in enumerate(self.steps)
            for name in (*step.synonyms, step.name)
        }


def tidy(step: str) -> str:
    """A step's name without case and blanks.

    >>> tidy("A +"), tidy(" a+ ")
    ('a+', 'a+')
    """
    return "".join(step.split()).casefold()


@dataclass(frozen=True)
class QuestionInfo:
    """A question of a test: what it is worth and what it is about. `whole`: it stands for a whole
    strand, whose questions are not known. `key`: the option that is right, or several of which
    each is; `options`: what each option says. `choice`: the set of questions of which students
    answer some, and `best`: how many of it count. `page`: where it is in the paper; `common`: the
    name of what is the same question in other forms and sittings. `mastered_at`: the share of
    its standard's marks that masters it."""

    name: str
    maximum: float | None = None
    tags: dict[str, str] = field(default_factory=dict)
    key: str | None = None
    whole: bool = False
    title: str = ""
    options: dict[str, str] = field(default_factory=dict)
    choice: str = ""
    best: int | None = None
    page: int | None = None
    common: str = ""
    mastered_at: float | None = None

    def right(self, option: str) -> bool:
        """Whether an option is right by the key.

        >>> QuestionInfo("Q1", key="B|d").right("D"), QuestionInfo("Q1").right("A")
        (True, False)
        """
        return same(option) in {same(one) for one in (self.key or "").split("|")} - {""}


@dataclass(frozen=True)
class National:
    """National figures of one measure in one form and year level (None: any); `part`: of which
    part of the test, blank: of all of it."""

    form: str | None
    year_level: int | None
    score: str
    part: str = ""
    published: str | None = None
    n: float | None = None
    mean: float | None = None
    sd: float | None = None
    percentiles: tuple[tuple[float, float], ...] = ()
    shares: dict[str, float] = field(default_factory=dict)
    facilities: dict[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Exactness:
    """How exactly a score measures in a form and year level (None: any): its reliability, or its
    error of measurement in the score's own unit."""

    form: str | None
    year_level: int | None
    reliability: float | None
    error: float | None


@dataclass(frozen=True)
class ExpectedFrom:
    """What is expected of those who started at some points, in one year level (None: any). The
    start's test and subject are blank where they are the outcome's own, its score where it is that
    of the outcome. `points`: start, expected and ambitious outcome (blank: none) as written, a
    figure or a step."""

    year_level: int | None
    start_test: str
    start_subject: str
    start_score: str
    points: tuple[tuple[str, str, str], ...]
    published: str | None = None


MOVEMENT_CREDIT = "movement credit"
NAMED = {
    "test": "test", "subject": "subject", "start_test": "test", "start_subject": "subject",
    "of_subject": "subject",
}  # fmt: skip
"""Columns that hold a name, and of what."""
OWN_TAG = "tag:"
TAGS = ("paper", "section", "strand", "topic", "objective", "skill", "type")


class ReferenceTables:
    """The rows of all active tables, oldest batch first, by kind."""

    def __init__(self, rows: dict[str, list[Cells]]) -> None:
        self.names = SameNames(rows.get("names", []))
        self._rows = {kind: [self._by_name(row) for row in of] for kind, of in rows.items()}

    def _by_name(self, row: Cells) -> Cells:
        """A row with the names that those which it wrote mean."""
        told = {at: what for at, what in NAMED.items() if row.get(at)}
        out = {**row, **{at: self.names.means(what, row[at]) for at, what in told.items()}}
        if row.get("sitting") and row.get("test"):
            out["sitting"] = self.names.means("sitting", row["sitting"], row["test"])
        return out

    def rows(self, kind: str) -> list[Cells]:
        """Every row of a kind, oldest batch first."""
        return list(self._rows.get(kind, []))

    def _of(self, kind: str, test: str, subject: str | None) -> Iterable[Cells]:
        """Rows of a test; one that names no subject is about all of them."""
        mine = same(subject)
        for about, cells in self._by_test.get((kind, same(test)), []):
            if about in ("", mine):
                yield cells

    @cached_property
    def _by_test(self) -> dict[tuple[str, str], list[tuple[str, Cells]]]:
        """Rows by kind and test, each with its subject as it is compared."""
        out: dict[tuple[str, str], list[tuple[str, Cells]]] = {}
        for kind, rows in self._rows.items():
            for cells in rows:
                if "test" in cells:
                    about = same(cells.get("subject"))
                    out.setdefault((kind, same(cells["test"])), []).append((about, cells))
        return out

    def scale(self, test: str, subject: str | None, score: str) -> Scale | None:
        """The scale that the newest table declares for a test's levels or grades."""
        rows = [r for r in self._of("scale", test, subject) if r.get("score", score) == score]
        if not rows:
            return None
        newest = max(row["batch"] for row in rows)
        steps: dict[str, Step] = {}
        cuts = []
        for row in (r for r in rows if r["batch"] == newest):
            name = row["step"]
            steps.setdefault(
                name,
                Step(name, row.get("points"), bool(row.get("passes")), tuple(row.get("also", ()))),
            )
            if row.get("from") is not None:
                cuts.append(
                    Cut(
                        name, row.get("year_level"), row["from"], row.get("form"),
                        row.get("school_year"), row.get("upper"), bool(row.get("expected")),
                        score_said(row.get("in") or "") or "",
                    )
                )  # fmt: skip
        return Scale(tuple(steps.values()), tuple(cuts))

    def scales(self) -> list[tuple[str, str, str, Scale]]:
        """Every declared scale with its test, subject (blank: all) and kind of score."""
        told: dict[tuple[str, str, str], None] = {}
        for row in self._rows.get("scale", []):
            told[(row["test"], row.get("subject") or "", row.get("score") or "")] = None
        found = [(*key, self.scale(key[0], key[1] or None, key[2])) for key in told]
        return [(test, subject, score, s) for test, subject, score, s in found if s is not None]

    def questions(
        self, test: str, subject: str | None, sitting: str, form: str | None
    ) -> dict[str, QuestionInfo]:
        """What is known of each question, by its name; later rows add to earlier ones."""
        out: dict[str, QuestionInfo] = {}
        for row in self._of("questions", test, subject):
            if same(row.get("sitting")) not in ("", same(sitting)):
                continue
            if same(row.get("form")) not in ("", same(form)):
                continue
            name = same(row["question"])
            out[name] = _told(out.get(name, QuestionInfo(row["question"])), row)
        return out

    def movement(self, test: str, subject: str | None) -> dict[str, dict[tuple[str, str], float]]:
        """The rules for movement between levels by their names, the newest first: the credit of
        each move, from a level to a level as tables write them. A rule without a name is called
        “movement credit”; a newer table of one name takes the place of an older."""
        newest: dict[str, tuple[int, str]] = {}
        found: dict[str, dict[tuple[str, str], float]] = {}
        for row in self._of("movement", test, subject):
            called = row.get("rule") or MOVEMENT_CREDIT
            held = newest.get(same(called))
            if held is None or row["batch"] > held[0]:
                newest[same(called)] = (row["batch"], called)
                found[same(called)] = {}
            found[same(called)][tidy(row["before"]), tidy(row["after"])] = float(row["credit"])
        order = sorted(newest.values(), key=lambda one: -one[0])
        return {called: found[same(called)] for _, called in order}

    def expected_from(
        self, test: str, subject: str | None, sitting: str, score: str
    ) -> list[ExpectedFrom]:
        """The tables of expected outcomes of a score, those of any year level first; a newer one
        of the same year level and start takes the place of an older."""
        cells: dict[tuple[int | None, str, str, str], list[Cells]] = {}
        for row in self._of("expectation", test, subject):
            if (row.get("score") or score) != score:
                continue
            if same(row.get("sitting")) not in ("", same(sitting)):
                continue
            about = (
                row.get("year_level"), row.get("start_test") or "",
                row.get("start_subject") or "", row.get("start_score") or "",
            )  # fmt: skip
            cells.setdefault(about, []).append(row)
        found = [_expected_from(*about, rows=rows) for about, rows in cells.items()]
        return sorted(found, key=lambda one: one.year_level is not None)

    def conversions(
        self, test: str, subject: str | None, score: str
    ) -> dict[str, list[tuple[str, str]]]:
        """The scales that a score is converted onto, each with its values as written and what
        they become; the newest table's rows of each."""
        cells: dict[str, list[Cells]] = {}
        for row in self._of("conversion", test, subject):
            if (row.get("score") or score) == score:
                cells.setdefault(same(row["onto"]), []).append(row)
        out = {}
        for rows in cells.values():
            newest = max(row["batch"] for row in rows)
            rows = [row for row in rows if row["batch"] == newest]
            out[rows[-1]["onto"]] = [(row["value"], row["becomes"]) for row in rows]
        return out

    def movement_rules(self) -> list[tuple[str, str, str, dict[tuple[str, str], float]]]:
        """Every rule with its test, subject (blank: all) and the credit of each move, from a level
        to a level as tables write them; the newest table of each."""
        told: dict[tuple[str, str, str], None] = {}
        for row in self._rows.get("movement", []):
            called = row.get("rule") or MOVEMENT_CREDIT
            told[(row["test"], row.get("subject") or "", called)] = None
        out = []
        for test, subject, called in told:
            moves = self.movement(test, subject or None).get(called)
            if moves is not None:
                out.append((test, subject, called, moves))
        return out

    def exactness(
        self, test: str, subject: str | None, sitting: str, score: str
    ) -> list[Exactness]:
        """What is declared of a score, what says less of whom first; the newest table's rows."""
        rows = [
            row for row in self._of("reliability", test, subject)
            if row["score"] == score and same(row.get("sitting")) in ("", same(sitting))
        ]  # fmt: skip
        newest = max((row["batch"] for row in rows), default=None)
        found = [
            Exactness(
                row.get("form"), row.get("year_level"), row.get("reliability"), row.get("error")
            )
            for row in rows
            if row["batch"] == newest
        ]
        return sorted(found, key=lambda e: (e.form is not None, e.year_level is not None))

    def national(
        self, test: str, subject: str | None, sitting: str, score: str, part: str = ""
    ) -> list[National]:
        """National figures of a measure, or of a part of its test, one for each form and year
        level that has any."""
        cells: dict[tuple[str | None, int | None], list[Cells]] = {}
        mine, at = same(subject), same(sitting)
        for about, row in self._national.get((same(test), score, same(part)), []):
            if about in ("", mine) and same(row.get("sitting")) in ("", at):
                cells.setdefault((row.get("form"), row.get("year_level")), []).append(row)
        return [
            replace(_national(form, level, score, rows), part=part)
            for (form, level), rows in cells.items()
        ]

    @cached_property
    def _national(self) -> dict[tuple[str, str, str], list[tuple[str, Cells]]]:
        """National rows by test, score and part: a table of percentiles has thousands."""
        out: dict[tuple[str, str, str], list[tuple[str, Cells]]] = {}
        for (kind, test), rows in self._by_test.items():
            for about, cells in rows if kind == "national" else []:
                name = (test, cells["score"], same(cells.get("part")))
                out.setdefault(name, []).append((about, cells))
        return out


def score_said(text: str) -> str | None:
    """The kind of figure that a table means; blank for none said, None for what is none.

    >>> score_said("raw marks"), score_said("%"), score_said(" Scaled score"), score_said("x")
    ('raw', 'percent', 'scaled', None)
    """
    plain = same(text)
    for score, starts in (("raw", ("raw", "mark")), ("percent", ("percent", "%")),
                          ("scaled", ("scaled",)), ("", ("",))):  # fmt: skip
        if (plain == "" and score == "") or (plain and score and plain.startswith(starts)):
            return score
    return None


def _told(before: QuestionInfo, row: Cells) -> QuestionInfo:
    """A question with what a row adds to what was known of it."""
    said: Cells = {
        "name": row["question"],
        "maximum": row.get("maximum"),
        "tags": {**before.tags, **_tags(row)},
        "key": row.get("key"),
        "whole": bool(row.get("whole")),
        "title": row.get("title"),
        "options": options_said(row.get("options") or ""),
        "choice": row.get("choice"),
        "best": _count(row.get("best")),
        "page": _count(row.get("page")),
        "common": row.get("common"),
        "mastered_at": row.get("mastered_at"),
    }
    return replace(before, **{key: value for key, value in said.items() if value})


def _tags(row: Cells) -> dict[str, str]:
    """What a row says a question is about; a tag of the district's own is called by its column."""
    own = {role.removeprefix(OWN_TAG): tag for role, tag in row.items() if role.startswith(OWN_TAG)}
    usual = {tag: row[tag] for tag in TAGS if row.get(tag)}
    return usual | {name: tag for name, tag in own.items() if tag and same(name) not in usual}


def _count(value: Any) -> int | None:
    return None if value is None else int(value)


def options_said(text: str) -> dict[str, str]:
    """What each option says, as a table writes it.

    >>> options_said("A: 6 ÷ ½ = 3 | B: 6 ÷ ½ = 12 | C")
    {'A': '6 ÷ ½ = 3', 'B': '6 ÷ ½ = 12', 'C': ''}
    """
    parts = [one.partition(":") for one in text.split("|")]
    return {name.strip(): says.strip() for name, _, says in parts if name.strip()}


def _expected_from(
    level: int | None, test: str, subject: str, score: str, *, rows: list[Cells]
) -> ExpectedFrom:
    newest = max(row["batch"] for row in rows)
    rows = [row for row in rows if row["batch"] == newest]
    points = [
        (row["start"], row["expected_value"], row.get("ambitious_value") or "") for row in rows
    ]
    published = max((r["published"] for r in rows if r.get("published")), default=None)
    return ExpectedFrom(level, test, subject, score, tuple(points), published)


def figure_said(text: str) -> float | None:
    """A figure as tables keep it; None for what is none.

    >>> figure_said("12.5"), figure_said("C+"), figure_said("nan")
    (12.5, None, None)
    """
    try:
        value = float(text)
    except ValueError:
        return None
    return value if isfinite(value) else None


def _national(form: str | None, level: int | None, score: str, rows: list[Cells]) -> National:
    newest = max(row["batch"] for row in rows)
    rows = [row for row in rows if row["batch"] == newest]
    plain = {r["statistic"]: r["value"] for r in rows if not r.get("of")}
    percentiles = [(float(r["of"]), r["value"]) for r in rows if r["statistic"] == "percentile"]
    return National(
        form=form,
        year_level=level,
        score=score,
        published=max((r["published"] for r in rows if r.get("published")), default=None),
        n=plain.get("n"),
        mean=plain.get("mean"),
        sd=plain.get("sd"),
        percentiles=tuple(sorted(percentiles)),
        shares={r["of"]: r["value"] for r in rows if r["statistic"] == "share"},
        facilities={r["of"]: r["value"] for r in rows if r["statistic"] == "facility"},
    )
