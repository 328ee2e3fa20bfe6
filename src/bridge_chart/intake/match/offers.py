"""Matches that are likely and not certain: each is offered with its evidence, none is made
silently, and what was accepted is remembered."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import polars as pl
from numpy.typing import NDArray

from bridge_chart.intake.cells.findings import SET_ASIDE, Findings, some
from bridge_chart.intake.cells.people import MOST_LOOKED_UP, Candidate, people_of, plain_names
from bridge_chart.intake.cells.values import dates
from bridge_chart.intake.columns.columns import position_of
from bridge_chart.intake.match.match import NONE, known_numbers, match_numbers
from bridge_chart.intake.reading.sheet import Sheet
from bridge_chart.store.snapshot import UNKNOWN_DAY, Snapshot
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.finding import Choice, ColumnInfo, Offer
from bridge_chart.terms.wording import agree, count

EVIDENCE = {
    "birth": "name and birth date agree",
    "slip": "the name agrees, and the number is one slip away",
    "name": "only the name agrees",
}
MOST_SHOWN = 200


@dataclass(frozen=True)
class Whose:
    """Per row: `student`, the position in the snapshot (−1 = none); `accepted`: numbers of the
    file → the position of the student that a person said they are; `by_hand`: rows matched by
    what a person said, now or before."""

    student: NDArray[np.int64]
    accepted: dict[str, int]
    by_hand: int


class Matching:
    """Rows to students: by number, by what was remembered, by restored zeros, then by offers.

    `frame`: index, number, name (plain), birth (days, UNKNOWN_DAY = none). Rows without a number
    are not among them. In a roster (`roster`) a number that nobody has is a new student, so
    that a likely match there stops, and is only with a student who has no row of their own.
    """

    def __init__(
        self,
        frame: pl.DataFrame,
        snapshot: Snapshot,
        decisions: Mapping[str, str],
        found: Findings,
        *,
        roster: bool = False,
    ) -> None:
        self.frame, self.snapshot, self.found = frame, snapshot, found
        self.roster = roster
        self.restore = decisions.get("zeros") != "leave"
        self.people = people_of(snapshot)
        self.index = frame["index"].to_numpy()
        self.numbers: list[str] = frame["number"].to_list()
        self.named = bool((frame["name"] != "").any())
        self.said = {k[3:]: v for k, v in decisions.items() if k.startswith("is:")}
        self.accepted: dict[str, int] = {}

    def whose(self) -> Whose:
        """Match the rows, and note what was found."""
        known = known_numbers(self.snapshot)
        match = match_numbers(self.frame["number"], known, self.restore)
        self.student = match.student.copy()
        repaired = np.flatnonzero(match.repaired)
        self.found.zeros(
            self.index[repaired].tolist(),
            [self.numbers[row] for row in repaired[:1]],
            self.snapshot.numbers[self.student[repaired[:1]]].tolist(),
        )
        if self.snapshot.aliases:
            self._remembered()
        names = self.frame["name"]
        births = self.frame["birth"].to_numpy()
        differing = self.people.differs(self.student, names, births) if self.named else []
        if self.said:
            self._said(set(differing))
            self._as_said()
        self.here = set(self.student.tolist())
        if self.named:
            self._differing([row for row in differing if self.numbers[row] not in self.said])
            self._offered()
        said = (self.student != match.student) & (self.student != NONE)
        return Whose(self.student, self.accepted, int(said.sum()))

    def _remembered(self) -> None:
        """Numbers that were said before to be somebody's."""
        known = self.snapshot.aliases
        free = np.flatnonzero(self.student == NONE).tolist()
        rows = [row for row in free if self.numbers[row] in known]
        if not rows:
            return
        choices = [Choice(key="use", label="Use it"), Choice(key="forget", label="Not this time")]
        first = self.numbers[rows[0]]
        chosen = self.found.add(
            "remembered", "done",
            f"{count(len(rows), 'row')} matched by what was accepted before",
            f"“{first}” is {self.people.label(known[first])}", self.index[rows].tolist(),
            choices, "use",
        )  # fmt: skip
        if chosen == "use":
            self.student[rows] = [known[self.numbers[row]] for row in rows]

    def _said(self, differing: set[int]) -> None:
        """What a person said of single numbers: “is:<number>” → a student's number, or “no”.

        It speaks of rows that nobody was found for, or whose name is another's: the number's
        own student may well be in the file too. A number that is somebody's is not remembered.
        """
        place = {str(n): at for at, n in enumerate(self.snapshot.numbers.tolist())}
        for number, whose in self.said.items():
            if whose != "no" and whose not in place:
                raise InvalidQuestion(
                    f"“{number}” is said to be “{whose}”, a number that no student has.",
                    next_step="Give a student's number, or “no”.",
                )
        for row, number in enumerate(self.numbers):
            if self.said.get(number, "no") == "no":
                continue
            if self.student[row] == NONE:
                self.student[row] = self.accepted[number] = place[self.said[number]]
            elif row in differing:
                self.student[row] = place[self.said[number]]

    def _as_said(self) -> None:
        """What was said of single numbers, so that it can be seen and taken back."""
        place = {str(n): at for at, n in enumerate(self.snapshot.numbers.tolist())}
        told = [n for n in dict.fromkeys(self.numbers) if n in self.said]
        rows = [row for row, number in enumerate(self.numbers) if number in self.said]
        if not told:
            return
        offers = []
        for number in told[:MOST_SHOWN]:
            yes = self.said[number] != "no"
            row = self.found.lines[int(self.index[self.numbers.index(number)])]
            offers.append(
                Offer(
                    number=number, row=int(row), student=self.said[number] if yes else "",
                    name=self.people.label(place[self.said[number]]) if yes else "",
                    why="you said so" if yes else "you said no", settled=True,
                )
            )  # fmt: skip
        self.found.add(
            "as_said", "done", f"{count(len(told), 'number')} settled one by one",
            "Each can be taken back", self.index[rows].tolist(), offers=offers, n=len(told),
        )  # fmt: skip

    def _differing(self, rows: list[int]) -> None:
        """The number is one student's, the name another's: a slip in the number is likely."""
        if not rows:
            return
        found = [self._offer(row, self._candidate(row)) for row in rows[:MOST_SHOWN]]
        offers = {(o.number, o.row): o for o in found if o is not None}
        first, held = rows[0], int(self.student[rows[0]])
        chosen = self.found.add(
            "name_differs", "stop",
            f"{count(len(rows), 'row')} with one student’s number and another one’s name",
            f"“{self.numbers[first]}” is {self.people.label(held)} on the roster",
            self.index[rows].tolist(),
            [Choice(key="number", label="The numbers are right"), SET_ASIDE],
            offers=list(offers.values()),
        )  # fmt: skip
        if chosen != "number":
            self.student[rows] = NONE
            why = "the number is one student’s, the name another’s"
            self.found.put_aside(self.index[rows].tolist(), why)

    def _candidate(self, row: int) -> Candidate | None:
        found = self.people.candidate(
            self.numbers[row], self.frame["name"][row], int(self.frame["birth"][row])
        )
        if found is None or found.at == self.student[row]:
            return None
        return None if self.roster and found.at in self.here else found

    def _offered(self) -> None:
        aside = self.found.aside
        rows = [
            row
            for row in np.flatnonzero(self.student == NONE).tolist()
            if int(self.index[row]) not in aside and self.said.get(self.numbers[row]) != "no"
        ]
        if len({self.numbers[row] for row in rows}) > MOST_LOOKED_UP:
            return
        by_kind: dict[str, list[tuple[int, Candidate]]] = {}
        for row in rows:
            candidate = self._candidate(row)
            if candidate is not None:
                by_kind.setdefault(candidate.kind, []).append((row, candidate))
        for kind in EVIDENCE:
            if kind in by_kind:
                self._offer_kind(kind, by_kind[kind])

    def _offer_kind(self, kind: str, held: list[tuple[int, Candidate]]) -> None:
        offers = {self.numbers[row]: self._offer(row, candidate) for row, candidate in held}
        shown = [offer for offer in offers.values() if offer is not None][:MOST_SHOWN]
        rows = [int(self.index[row]) for row, _ in held]
        stops = self.roster and kind == "birth"
        leave = "They are new students" if self.roster else "Do not match them"
        chosen = self.found.add(
            f"offer_{kind}", "stop" if stops else "ask",
            f"{count(len(offers), 'student')} may be known under another number",
            f"For {some(list(offers))}, {EVIDENCE[kind]}", rows,
            [Choice(key="leave", label=leave), Choice(key="accept", label="Accept all of these"),
             *([SET_ASIDE] if stops else [])],
            None if stops else "leave", n=len(offers), offers=shown,
        )  # fmt: skip
        if chosen == "set_aside":
            self.found.put_aside(rows, "may be known under another number")
        if chosen == "accept":
            for row, candidate in held:
                self.student[row] = candidate.at
                self.accepted[self.numbers[row]] = candidate.at

    def _offer(self, row: int, candidate: Candidate | None) -> Offer | None:
        if candidate is None:
            return None
        return Offer(
            number=self.numbers[row],
            row=int(self.found.lines[int(self.index[row])]),
            student=str(self.snapshot.numbers[candidate.at]),
            name=self.people.label(candidate.at),
            why=candidate.why,
        )


def matched(
    frame: pl.DataFrame,
    snapshot: Snapshot,
    decisions: Mapping[str, str],
    found: Findings,
    thing: str,
) -> tuple[pl.DataFrame, Whose]:
    """The rows with their `student` (position), without `name` and `birth`; a row without a number
    or a student is set aside. `thing`: what a row holds, in one word."""
    blank = frame.filter(pl.col("number") == "")["index"].to_list()
    found.must_set_aside(
        "no_number",
        f"{count(len(blank), 'row')} without a student number",
        "They can be settled later",
        blank,
    )
    frame = frame.filter(pl.col("number") != "")
    whose = Matching(frame, snapshot, decisions, found).whose()
    frame = frame.with_columns(student=pl.Series(whose.student)).drop("name", "birth")
    frame = frame.filter(~pl.col("index").is_in(list(found.aside)))
    nobody = frame.filter(pl.col("student") == NONE)
    stand = agree(nobody["number"].n_unique(), "stand")
    found.must_set_aside(
        "no_student",
        f"{count(nobody.height, thing)} {agree(nobody.height, 'match')} no student",
        f"{some(nobody['number'].to_list())} {stand} on no kept roster",
        nobody["index"].to_list(),
    )
    return frame.filter(pl.col("student") != NONE), whose


def who_columns(
    sheet: Sheet, columns: list[ColumnInfo], order: str | None
) -> tuple[pl.Series, pl.Series]:
    """Plain names and birth days (UNKNOWN_DAY = none) of a file's rows."""
    blank = pl.Series([""], dtype=pl.String).new_from_index(0, sheet.cells.height)

    def cells(role: str) -> pl.Series:
        at = position_of(columns, role)
        return blank if at is None else sheet.column(at)

    full = cells("full_name")
    given, family = cells("given_name"), cells("family_name")
    apart = (given != "") | (family != "")
    named = plain_names((given + " " + family).zip_with(apart, full))
    days = dates(cells("birth_date"), order).values.cast(pl.Int32).cast(pl.Int64)
    return named, days.fill_null(UNKNOWN_DAY)
