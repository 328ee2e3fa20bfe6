"""Collecting what was found, with what a person chose; the same words for every kind of file."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import polars as pl

from bridge_chart.intake.cells.values import (
    DATE_ORDERS,
    NUMBER_STYLES,
    Dates,
    Range,
    number_style,
)
from bridge_chart.intake.reading.sheet import Remark, Sheet
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.finding import Choice, Double, Finding, Offer
from bridge_chart.terms.progress import UNWATCHED, Progress
from bridge_chart.terms.wording import agree, amount, count, listed

SET_ASIDE = Choice(key="set_aside", label="Set these rows aside")
MOST_ROWS = 200


def some(values: Sequence[str], most: int = 3) -> str:
    """A few values in quotation marks.

    >>> some(["abs", "X"])
    '“abs”, “X”'
    """
    quoted = [f"“{value}”" for value in dict.fromkeys(values)]
    return ", ".join(quoted[:most]) + (" …" if len(quoted) > most else "")


class Findings:
    """The findings of one examination; `aside` maps a row's index to why it is set aside.

    `unattended`: rows that a person would have to settle are set aside; a name near an existing
    one stops all the same, for it changes what is created. `progress` is told of each phase.
    """

    def __init__(
        self,
        sheet: Sheet,
        decisions: dict[str, str],
        unattended: bool = False,
        progress: Progress = UNWATCHED,
    ) -> None:
        self.lines = sheet.lines
        self.progress = progress
        self._decisions = decisions
        self._unattended = unattended
        self.all: list[Finding] = []
        self.aside: dict[int, str] = {}
        for remark in sheet.remarks:
            self._remark(remark)

    def _remark(self, remark: Remark) -> None:
        """What reading did, with the lines that it concerns."""
        choices = [Choice(key=key, label=label) for key, label in remark.choices]
        default = remark.choices[0][0] if remark.choices else None
        chosen = self.add(
            remark.key, remark.kind, remark.title, remark.detail, [], choices, default
        )
        self.all[-1] = self.all[-1].model_copy(
            update={
                "n": len(remark.lines),
                "rows": list(remark.lines[:MOST_ROWS]),
                "chosen": chosen,
            }
        )

    def count(self, key: str) -> int:
        """How many rows a finding speaks of; 0 where there is none."""
        return next((found.n for found in self.all if found.key == key), 0)

    def add(
        self,
        key: str,
        kind: str,
        title: str,
        detail: str,
        rows: Sequence[int],
        choices: Sequence[Choice] = (),
        default: str | None = None,
        n: int | None = None,
        offers: Sequence[Offer] = (),
        doubles: Sequence[Double] = (),
    ) -> str | None:
        """Note a finding and return what is chosen for it (the default if nothing is)."""
        known = [choice.key for choice in choices]
        if self._unattended and SET_ASIDE in choices and not key.startswith("near_"):
            default = "set_aside"
        chosen = self._decisions.get(key, default)
        if chosen is not None and chosen not in known:
            raise InvalidQuestion(
                f"“{chosen}” is no choice for “{title}”.",
                next_step=f"Choices are: {', '.join(known)}.",
            )
        self.all.append(
            Finding(
                key=key,
                kind=kind,
                title=title,
                detail=detail,
                n=len(rows) if n is None else n,
                rows=list(dict.fromkeys(int(self.lines[row]) for row in rows[:MOST_ROWS])),
                choices=list(choices),
                offers=list(offers),
                doubles=list(doubles),
                chosen=chosen,
            )
        )
        return chosen

    def said_of(self, key: str) -> dict[str, str]:
        """What was said of single things of a finding, by their names."""
        start = f"{key}:"
        return {k[len(start) :]: v for k, v in self._decisions.items() if k.startswith(start)}

    def put_aside(self, rows: Sequence[int], why: str) -> None:
        for row in rows:
            self.aside[int(row)] = why

    def must_set_aside(self, key: str, title: str, detail: str, rows: Sequence[int]) -> None:
        """A stop whose rows can only be set aside. They never count as kept before that."""
        if len(rows):
            self.add(key, "stop", title, detail, rows, [SET_ASIDE])
            self.put_aside(rows, title.split(" ", 1)[1])

    def left_behind(self, told: Sequence[str]) -> None:
        """What the file's maker put beside the table and that has no place here."""
        title = f"{count(len(told), 'thing')} of what came with it left behind"
        self.add("left_behind", "ask", title, "; ".join(told)[:1000], [], n=len(told))

    def declared(self, what: str, cells: pl.Series, told: Mapping[str, str]) -> pl.Series:
        """Cells with the names that theirs mean, as the district declared, which is said."""
        held = cells.is_in(list(told)) if told else cells.is_in([])
        if not held.any():
            return cells
        names = cells.filter(held).unique(maintain_order=True).to_list()
        meant = listed([f"“{name}” is {told[name]}" for name in names], 6)
        n = int(held.sum())
        title = f"{count(n, 'cell')} of {what} read as declared"
        self.add(f"declared:{what}", "done", title, meant, held.arg_true().to_list(), n=n)
        return cells.replace(dict(told))

    def copies(self, rows: Sequence[int]) -> None:
        if len(rows):
            title = f"{count(len(rows), 'row')} exactly like another"
            one = Choice(key="one", label="Keep one of each")
            self.add("copies", "ask", title, "Only one of each is kept", rows, [one], "one")

    def repeated(
        self, frame: pl.DataFrame, telling: Sequence[str], file: Sheet, shared: Sequence[int]
    ) -> list[int]:
        """Rows of `frame` that tell what an earlier one tells, by their `index`: copies of it, or
        alike but for other columns of the file. shared: the columns that a copy must share too;
        `frame` has in `line_index` the row of the file."""
        first = frame.with_columns(first=pl.col("line_index").first().over(*telling))
        rows = first.filter(~pl.struct(telling).is_first_distinct())
        if not rows.height:
            return []
        seen = file.cells.with_columns(told=True).select("told", *(f"c{at}" for at in shared))
        same = seen[rows["line_index"].to_list()] == seen[rows["first"].to_list()]
        equal = same.select(pl.all_horizontal(pl.all())).to_series()
        self.copies(rows.filter(equal)["index"].to_list())
        other = rows.filter(~equal)["index"].to_list()
        if other:
            differ = listed([file.headers[at] for at in shared if not same[f"c{at}"].all()])
            one = Choice(key="one", label="Keep one of each")
            title = f"{count(len(other), 'row')} like another but for columns beside"
            words = f"They differ in {differ} alone; one of each is kept"
            self.add("alike", "ask", title, words, other, [one], "one")
        return list(rows["index"].to_list())

    def about_questions(self, rows: Sequence[int]) -> None:
        """Rows that say what each question is worth, or is about, are no student's."""
        n = count(len(rows), "row")
        title = f"{n} {agree(len(rows), 'say')} what each question is worth or is about"
        words = "Taken as maximum marks, topics and keys, not as students"
        self.add("maxima", "done", title, words, rows)

    def in_percent(self, headers: Sequence[str]) -> None:
        """Shares that a table writes in percent."""
        title = f"{count(len(headers), 'column')} in percent read as shares"
        self.add("in_percent", "done", title, listed(list(headers), 6), [], n=len(headers))

    def zeros(self, rows: Sequence[int], before: Sequence[str], after: Sequence[str]) -> None:
        choices = [
            Choice(key="restore", label="Restore"),
            Choice(key="leave", label="Leave as in the file"),
        ]
        if len(rows):
            self.add(
                "zeros",
                "done",
                f"Leading zeros restored in {count(len(rows), 'student number')}",
                f"The file was saved by a spreadsheet; “{before[0]}” now reads “{after[0]}”",
                rows,
                choices,
                "restore",
            )
        elif self._decisions.get("zeros") == "leave":
            self.add("zeros", "ask", "Student numbers left as in the file",
                     "Lost leading zeros are not restored", [], choices, "leave")  # fmt: skip

    def near(self, what: str, new: str, other: str, rows: Sequence[int] = ()) -> str | None:
        """A name near an existing one: the same, a new one, or set the rows aside."""
        choices = [
            Choice(key="same", label=f"It is {other}"),
            Choice(key="new", label=f"{new} is another {what}"),
        ]
        if len(rows):
            choices.append(SET_ASIDE)
        chosen = self.add(
            f"near_{what}:{new}",
            "stop",
            f"The {what} “{new}” is near “{other}”",
            "A slip of the keyboard, or something new?",
            rows,
            choices,
        )
        if chosen == "set_aside":
            self.put_aside(rows, f"{what} name not settled")
        return chosen

    def unread(self, key: str, label: str, cells: pl.Series, values: pl.Series) -> None:
        """Cells that hold something which is no `label`: kept as unknown, and said."""
        rows = ((cells != "") & values.is_null()).arg_true().to_list()
        if rows:
            examples = some([cells[row] for row in rows])
            unknown = Choice(key="unknown", label="Keep as unknown")
            self.add(
                f"unread_{key}", "ask", f"{count(len(rows), 'cell')} not a {label}",
                f"{examples} will be unknown", rows, [unknown], "unknown",
            )  # fmt: skip

    def number_style(
        self,
        kind: str,
        cells: pl.Series,
        within: Range | None = None,
        of: str = "",
        beside: str = "",
    ) -> str:
        """How the figures of a column (`of`, where there are several of the kind) are written;
        asked where “1,234” could be either. `within`: where such figures lie; `beside`: how the
        file's other columns of the kind are written, taken unless another is chosen."""
        style, sure = number_style(cells, within)
        if sure:
            return style
        style = beside or style
        choices = [Choice(key=key, label=words) for key, words in NUMBER_STYLES.items()]
        rows = cells.str.contains(",", literal=True).arg_true().to_list()
        chosen = self.add(
            f"number_style_{kind}{f':{of}' if of else ''}", "ask",
            f"{count(len(rows), 'figure')}{f' of {of}' if of else ''} with a comma before three "
            "digits",
            f"{some([cells[row] for row in rows])} could be thousands or decimals", rows,
            choices, style,
        )  # fmt: skip
        return chosen or style

    def date_order(self, read: Dates, cells: pl.Series) -> None:
        """Day and month could be read two ways: say which was taken."""
        filled = int((cells != "").sum())
        if filled and read.order != "iso":
            choices = [Choice(key=key, label=words) for key, (_, words) in DATE_ORDERS.items()]
            if read.otherwise:
                self._mixed_orders(read, choices)
                return
            self.add(
                "date_order", "done", f"Dates read as {DATE_ORDERS[read.order][1]}",
                f"All {amount(filled)}" if not read.unread
                else f"{amount(filled - read.unread)} of {amount(filled)}",
                [], choices, read.order, n=filled,
            )  # fmt: skip

    def _mixed_orders(self, read: Dates, choices: list[Choice]) -> None:
        """Some dates can only be day-month, others only month-day: those are read so. Which the
        rest are, a person says where there are any."""
        words = DATE_ORDERS[read.order][1]
        self.add(
            "date_order", "stop" if read.either else "ask",
            f"{count(read.otherwise, 'date')} in the other order of day and month",
            f"What can be read in one way only is; {count(read.either, 'date')} could be either, "
            f"and would be read as {words}",
            [], choices, None if read.either else read.order, n=read.otherwise + read.either,
        )  # fmt: skip
