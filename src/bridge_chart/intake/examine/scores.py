"""Reading the score columns of a results file: figures, levels, and codes for what is not there."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import polars as pl

from bridge_chart.intake.cells.findings import SET_ASIDE, Findings, some
from bridge_chart.intake.cells.marks import MarkGrid, read_marks
from bridge_chart.intake.cells.steps import is_code, read_steps
from bridge_chart.intake.cells.values import CERTAIN, CODE_MEANS, STATUS_WORDS, Range, numbers
from bridge_chart.intake.columns.columns import position_of
from bridge_chart.intake.columns.shapes import Long
from bridge_chart.intake.reading.sheet import Sheet
from bridge_chart.store.codes import STATUSES
from bridge_chart.store.measure_build import ADDED_UP
from bridge_chart.store.reference_tables import QuestionInfo, Scale
from bridge_chart.terms.finding import Choice, ColumnInfo
from bridge_chart.terms.wording import count

NUMERIC = ("raw", "percent", "scaled")
STEPPED_KINDS = ("level", "grade")
CLAIMS = ("target", "predicted")
SAT = STATUSES.index("sat")
NOT_SAT = STATUSES.index("not_sat")


@dataclass(frozen=True)
class Claim:
    """A target or a prediction about the sitting: `role` (target, predicted), `kind` (which
    target), the file's `column`, the kind of score, and a value per row (null = none)."""

    role: str
    kind: str
    column: int
    score: str
    values: pl.Series


@dataclass(frozen=True)
class Scores:
    """`values`: score kind → figures (null = none; a step's position from 1); `status`: index
    into STATUSES; `levels`: stepped score kind → step names from lowest; `columns`: kind →
    column, −1 = added up from the questions; `claims`: targets and predictions beside; `grid`: what
    was answered, question by question."""

    values: dict[str, pl.Series]
    status: pl.Series
    levels: dict[str, list[str]]
    columns: dict[str, int]
    claims: list[Claim] = field(default_factory=list)
    grid: MarkGrid | None = None


ScaleOf = Callable[[str], Scale | None]
RangeOf = Callable[[str], Range | None]


def read_scores(
    long: Long,
    file_headers: Sequence[str],
    found: Findings,
    scale_of: ScaleOf,
    range_of: RangeOf,
    *,
    blanks_say_nothing: bool = False,
    questions: Mapping[str, QuestionInfo] | None = None,
) -> Scores:
    """Read every score column; cells that are neither figure nor known code are a stop.

    `scale_of`: the declared scale of a stepped kind of score, None where none is declared;
    `range_of`: where figures of a kind lie, None where that is not known;
    `blanks_say_nothing`: a row without a score says nothing of who sat; `questions`: what is known
    of the test's questions.
    """
    reading = _Reading(long, file_headers, found, scale_of, range_of, questions)
    reading.silent = blanks_say_nothing
    return reading.scores()


class _Reading:
    """Reads figures first, then marks, then steps; what is blank everywhere was not sat."""

    def __init__(
        self,
        long: Long,
        file_headers: Sequence[str],
        found: Findings,
        scale_of: ScaleOf,
        range_of: RangeOf,
        questions: Mapping[str, QuestionInfo] | None,
    ) -> None:
        self.long, self.file_headers = long, file_headers
        self.found, self.scale_of, self.range_of = found, scale_of, range_of
        sheet, columns = long.sheet, long.columns
        self.sheet, self.columns = sheet, columns
        height = sheet.cells.height
        self.at = {c.role.split(":")[1]: c.index for c in columns if c.role.startswith("score:")}
        self.coded = pl.Series([None], dtype=pl.String).new_from_index(0, height)
        self.blank = pl.Series([True]).new_from_index(0, height)
        self.values: dict[str, pl.Series] = {}
        self.levels: dict[str, list[str]] = {}
        self.claims: list[Claim] = []
        self.silent = False
        self.grid = read_marks(sheet, columns, found, questions)

    def scores(self) -> Scores:
        status_at = position_of(self.columns, "status")
        if status_at is not None:
            self.coded = _coded(self.sheet.column(status_at))
        self._figures()
        if self.grid is not None:
            self._answered(self.grid)
        for kind in STEPPED_KINDS:
            self._steps(kind)
        self._claims_in_figures()
        self._not_sat()
        status = self.coded.fill_null("sat").replace_strict(
            {name: place for place, name in enumerate(STATUSES)}, return_dtype=pl.Int16
        )
        sat = status == SAT
        values = {kind: column.set(~sat, None) for kind, column in self.values.items()}
        return Scores(values, status, self.levels, self.at, self.claims, self.grid)

    def _answered(self, grid: MarkGrid) -> None:
        """Marks and letters say who sat; what somebody wrote says nothing of that."""
        total = grid.totals()
        if "raw" not in self.values and total.is_not_null().any():
            self.values["raw"], self.at["raw"] = total, ADDED_UP
        self.blank &= total.is_null()
        wrote = self.blank & pl.Series(grid.says())
        silent = pl.Series(["no_row"]).new_from_index(0, len(wrote))
        self.coded = self.coded.zip_with(~(wrote & self.coded.is_null()), silent)
        self.blank &= ~wrote

    def _figures(self) -> None:
        cells: dict[str, list[str]] = {}
        told = self.grid.told if self.grid is not None else ()
        for kind in [k for k in NUMERIC if k in self.at]:
            column = self.sheet.column(self.at[kind])
            self.values[kind] = self._numbers(kind, self.at[kind])
            text = self.values[kind].is_null() & (column != "")
            self.blank &= column == ""
            if not text.any():
                continue
            words = _coded(column)
            self.coded = self.coded.zip_with(words.is_null() | ~text, words)
            unknown = [
                row for row in (text & words.is_null()).arg_true().to_list() if row not in told
            ]
            self.coded = _unknown_codes(kind, column, unknown, self.coded, self.found)
            known = text & words.is_not_null()
            for word in column.filter(known).unique(maintain_order=True).to_list():
                cells.setdefault(CODE_MEANS[word.lower()], []).append(word)
            _say_codes(column, words, known, cells, self.found)

    def _numbers(self, kind: str, at: int) -> pl.Series:
        """Figures, each column of the file in its own way of writing them."""
        cells, within = self.sheet.column(at), self.range_of(kind)
        places = self.long.origin[:, at]
        held = sorted({int(place) for place in places if place >= 0})
        if len(held) < 2:
            return numbers(cells, self.found.number_style(kind, cells, within))
        out = pl.Series([None], dtype=pl.Float64).new_from_index(0, len(cells))
        certain = {style for style in CERTAIN if cells.str.contains(CERTAIN[style]).any()}
        beside = certain.pop() if len(certain) == 1 else ""
        for place in held:
            own = pl.Series(places[self.long.block] == place)
            part, name = cells.filter(own), self.file_headers[place]
            read = numbers(part, self.found.number_style(kind, part, within, name, beside))
            out = out.scatter(own.arg_true(), read)
        return out

    def _steps(self, kind: str) -> None:
        """A column of levels or grades, and the targets and predictions written in them."""
        claimed = _claimed(self.columns, self.sheet, self.at, kind)
        held = ([self.at[kind]] if kind in self.at else []) + [c.index for c in claimed]
        if not held:
            return
        scale = self.scale_of(kind)
        figures = next((v for k, v in self.values.items() if k in NUMERIC), None)
        cells = [self.sheet.column(index) for index in held]
        self.levels[kind], placed = read_steps(kind, cells, scale, figures, self.found)
        if kind in self.at:
            self.blank &= cells[0] == ""
            self.values[kind] = placed.pop(0)
            self.coded = self.coded.zip_with(~is_code(cells[0], scale, kind), _coded(cells[0]))
        self.claims += [_claim(c, kind, v) for c, v in zip(claimed, placed, strict=True)]

    def _claims_in_figures(self) -> None:
        kind = next((k for k in self.values if k in NUMERIC), "scaled")
        done = {claim.column for claim in self.claims}
        for c in self.columns:
            if c.role.split(":")[0] in CLAIMS and c.index not in done:
                cells, values = self.sheet.column(c.index), self._numbers(kind, c.index)
                said = cells.set(_coded(cells).is_not_null(), "")
                self.found.unread(f"claim:{c.header}", c.role.split(":")[0], said, values)
                self.claims.append(_claim(c, kind, values))

    def _not_sat(self) -> None:
        empty = self.blank & self.coded.is_null()
        if self.grid is not None and self.grid.told:
            empty = empty.scatter(list(self.grid.told), False)
        if not self.at or self.silent:
            # Targets alone, and a blank in a column of their own, say nothing about who sat.
            self.coded = self.coded.set(empty, "no_row")
        elif empty.any():
            if not self.found.count("blank_cells"):
                self.found.add(
                    "blank", "ask", f"{count(int(empty.sum()), 'row')} without a score",
                    "Read as not sat; none counts as zero", empty.arg_true().to_list(),
                    [Choice(key="not_sat", label="Read so")], "not_sat",
                )  # fmt: skip
            self.coded = self.coded.set(empty, "not_sat")


def _claimed(
    columns: list[ColumnInfo], sheet: Sheet, at: dict[str, int], kind: str
) -> list[ColumnInfo]:
    """Columns of targets and predictions that are written in this kind of step."""
    own = next((k for k in STEPPED_KINDS if k in at), "grade")
    beside_figures = bool(set(at) & set(NUMERIC))
    if kind != own or not any(c.role.split(":")[0] in CLAIMS for c in columns):
        return []
    highest = _highest(sheet.column(at[own])) if own in at else None
    return [
        c
        for c in columns
        if c.role.split(":")[0] in CLAIMS
        and not (beside_figures and _is_figure(sheet.column(c.index), highest))
    ]


HIGHEST_STEP = 9
"""Up to which numbered steps go, where the file's own do not go so far."""


def _highest(column: pl.Series) -> float | None:
    """The highest of steps that are numbers; None of steps that are not."""
    highest = numbers(column).max() if _figures(column) else None
    return None if highest is None else float(str(highest))


def _is_figure(column: pl.Series, highest: float | None) -> bool:
    """Whether claims beside figures are figures too, not steps like the numbered ones beside."""
    if not _figures(column):
        return False
    top = _highest(column)
    return highest is None or top is None or top > max(highest, HIGHEST_STEP)


def _figures(column: pl.Series) -> bool:
    filled = column.filter(column != "")
    return len(filled) > 0 and int(numbers(filled).is_not_null().sum()) > len(filled) / 2


def _claim(column: ColumnInfo, score: str, values: pl.Series) -> Claim:
    role, _, named = column.role.partition(":")
    if role != "target":
        return Claim(role, "", column.index, score, values)
    words = [w for w in (named or column.header).lower().split()
             if w not in ("target", "targets", "grade", "level", "score", "mark")]  # fmt: skip
    return Claim(role, " ".join(words), column.index, score, values)


def _coded(column: pl.Series) -> pl.Series:
    """The status that each cell's code means; null where it is no known code."""
    return column.str.to_lowercase().replace_strict(
        CODE_MEANS, default=None, return_dtype=pl.String
    )


def _say_codes(
    column: pl.Series,
    words: pl.Series,
    known: pl.Series,
    cells: dict[str, list[str]],
    found: Findings,
) -> None:
    counts = [
        f"{STATUS_WORDS[status]} ({int(((words == status) & known).sum())})" for status in cells
    ]
    if not counts:
        return
    held = some([word for words_ in cells.values() for word in words_], 5)
    found.add(
        "codes", "ask", f"The score column holds {held}",
        f"Read as {', '.join(counts)}; none counts as zero", known.arg_true().to_list(),
        [Choice(key="read", label="Read so")], "read",
    )  # fmt: skip


def _unknown_codes(
    kind: str, column: pl.Series, rows: list[int], coded: pl.Series, found: Findings
) -> pl.Series:
    """Neither figure nor known code: a person says what it means, or the rows are set aside."""
    if not rows:
        return coded
    choices = [
        Choice(key=status, label=f"They were {words}")
        for status, words in STATUS_WORDS.items()
        if status != "sat"
    ]
    chosen = found.add(
        f"unknown_code_{kind}", "stop", f"{count(len(rows), 'score')} not a figure",
        f"{some([column[row] for row in rows])}: neither a score nor a code that is known",
        rows, [*choices, SET_ASIDE],
    )  # fmt: skip
    if chosen is None or chosen == "set_aside":
        found.put_aside(rows, "score is no figure")
        return coded
    return coded.scatter(rows, [chosen] * len(rows))
