"""The rule of an award as a district writes it: a table of conditions, read as a tree of and/or,
and read back as sentences (docs/files/award.md)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from bridge_chart.terms.wording import listed, plain
from bridge_chart.terms.words import spoken

Cells = Mapping[str, Any]
ALL, ANY, ONCE = "all", "any", "once"
JOINS = (ALL, ANY, ONCE)


@dataclass(frozen=True)
class Condition:
    """At least so many credits; with `subjects`, in so many subjects each. `subject`, `level`,
    `kind`, `result`, `standards`: which records count (empty: any). `parts`: joined by `joins`, or,
    of a condition on subjects, further minima in the same subject."""

    name: str
    credits: Fraction = Fraction(0)
    subjects: int = 0
    subject: tuple[str, ...] = ()
    level: tuple[str, ...] = ()
    kind: tuple[str, ...] = ()
    result: tuple[str, ...] = ()
    standards: tuple[str, ...] = ()
    joins: str = ""
    parts: tuple[Condition, ...] = ()

    @property
    def unit(self) -> str:
        """What is counted towards it."""
        if self.joins:
            return "conditions"
        return "subjects" if self.subjects else "credits"

    @property
    def needed(self) -> Fraction:
        """How much of its unit it needs."""
        if self.joins:
            return Fraction(len(self.parts) if self.joins == ALL else 1)
        return Fraction(self.subjects) if self.subjects else self.credits

    @property
    def says(self) -> str:
        """The condition as a sentence without a full stop.

        >>> Condition("Entry", Fraction(14), 3, level=("3",)).says
        'in 3 subjects at least 14 credits each at level 3'
        """
        if self.joins:
            word = " and " if self.joins == ALL else " or "
            return word.join(f"({part.says})" for part in self.parts)
        if not self.subjects:
            return f"at least {self._amount()}"
        more = "".join(f", of them at least {part._amount()}" for part in self.parts)
        each = f"at least {self._amount(each=True)}"
        subjects = "subject" if self.subjects == 1 else "subjects"
        return f"in {self.subjects} {subjects} {each}{more}"

    def _amount(self, *, each: bool = False) -> str:
        credits = "credit" if self.credits == 1 else "credits"
        told = [f"{plain(float(self.credits))} {credits}{' each' if each else ''}"]
        if self.subject:
            told.append(f"in {_either(self.subject)}")
        if self.level:
            told.append(f"at level {_either(self.level)}")
        if self.kind:
            told.append(f"assessed {_either(self.kind)}")
        if self.result:
            told.append(f"with {_either(self.result)}")
        if self.standards:
            told.append(f"of the standards {listed(self.standards, 12)}")
        return " ".join(told)


@dataclass(frozen=True)
class AwardRule:
    """All conditions must hold, under one choice of records. `once`: sets of standards of which one
    counts; `since`: the first school year in which it holds (blank: from the first); `year_level`:
    of whom it is asked (None: of everybody)."""

    award: str
    grade: str
    since: str
    conditions: tuple[Condition, ...]
    once: tuple[tuple[str, ...], ...] = ()
    year_level: int | None = None

    @property
    def name(self) -> str:
        """One of a year level is an award of its own beside those of others."""
        return ", ".join(filter(None, (self.award, self.of_whom, self.grade)))

    @property
    def of_whom(self) -> str:
        return "" if self.year_level is None else spoken().level_name(self.year_level)

    @property
    def says(self) -> list[str]:
        """A sentence for each condition and set."""
        told = [f"It is asked of students in {self.of_whom}."] if self.of_whom else []
        told += [f"{one.name}: {one.says}." for one in self.conditions]
        return told + [f"Of {listed(one, 12)} one counts." for one in self.once]


def read_rules(rows: Sequence[Cells]) -> list[AwardRule]:
    """The rules that rows of a table say; the newest batch's of each award, school year and year
    level. A grade asks what the award asks, and what it adds."""
    held = rows_that_hold(rows)
    out = []
    for about in dict.fromkeys(map(_about, held)):
        mine = [row for row in held if _about(row) == about]
        for grade, asked in _by_grade(mine).items():
            out.append(_rule(mine[0], grade, asked))
    return out


def _by_grade(rows: Sequence[Cells]) -> dict[str, list[Cells]]:
    """What each grade of an award asks, by its name as first written; blank where it has none."""
    named: dict[str, str] = {}
    for row in rows:
        named.setdefault(_same(row.get("grade")), (row.get("grade") or "").strip())
    graded = [key for key in named if key] or [""]
    return {
        named[key]: [row for row in rows if _same(row.get("grade")) in ("", key)]
        for key in graded
    }  # fmt: skip


def rows_that_hold(rows: Sequence[Cells]) -> list[Cells]:
    """Of each award, school year and year level the rows of the newest table."""
    newest: dict[tuple[str, str, int | None], int] = {}
    for row in rows:
        newest[_about(row)] = max(row.get("batch", 0), newest.get(_about(row), 0))
    return [row for row in rows if row.get("batch", 0) == newest[_about(row)]]


def rule_of_year(rules: Iterable[AwardRule], name: str, school_year: str) -> AwardRule | None:
    """The rule of that name that holds in a school year: the newest that had begun, else the first;
    None where no rule has the name."""
    named = (rule for rule in rules if _same(rule.name) == _same(name))
    mine = sorted(named, key=lambda rule: rule.since)
    begun = [rule for rule in mine if rule.since <= school_year]
    return begun[-1] if begun else next(iter(mine), None)


def troubles(rows: Sequence[Cells]) -> dict[int, str]:
    """What cannot be meant, by the row's place: in words that finish “the row …”."""
    out: dict[int, str] = {}
    for about in dict.fromkeys(map(_about, rows)):
        mine = [n for n, row in enumerate(rows) if _about(row) == about]
        out |= _troubles(rows, mine)
    return out


def _troubles(rows: Sequence[Cells], mine: list[int]) -> dict[int, str]:
    out: dict[int, str] = {}
    joining = {_same(rows[n]["condition"]): n for n in mine if _parted(rows[n])}
    within = {_same(rows[n].get("within")) for n in mine}
    once: dict[str, int] = {}
    for n in mine:
        row = rows[n]
        twice = any(_twice(row, rows[other]) for other in mine if other < n)
        again = f"says the condition “{row['condition']}” again" if twice else ""
        why = again or _asks_nothing(row, within) or _misplaced(rows, joining, n)
        for standard in row.get("standards", ()) if _same(row.get("joins")) == ONCE else ():
            if once.setdefault(standard, n) != n:
                why = f"has {standard}, which is in another set of which one counts"
        if why:
            out[n] = why
    return out or _in_some_grade(rows, mine)


def _twice(one: Cells, other: Cells) -> bool:
    """Whether two rows name the same condition of one grade; what has no grade is in each."""
    grades = {_same(one.get("grade")), _same(other.get("grade"))} - {""}
    return len(grades) < 2 and _same(one["condition"]) == _same(other["condition"])


def _in_some_grade(rows: Sequence[Cells], mine: list[int]) -> dict[int, str]:
    """What cannot be meant in one of the grades, where each row by itself can."""
    out: dict[int, str] = {}
    for grade, asked in _by_grade([rows[n] for n in mine]).items():
        of = f" of the grade “{grade}”" if grade else ""
        there = {_same(row["condition"]) for row in asked}
        within = {_same(row.get("within")) for row in asked}
        places = [n for n in mine if any(rows[n] is row for row in asked)]
        if all(rows[n].get("within") or _same(rows[n].get("joins")) == ONCE for n in places):
            return dict.fromkeys(places, f"leaves the award{of} without a condition")
        for n in places:
            inside, joins = rows[n].get("within"), _same(rows[n].get("joins"))
            if inside and _same(inside) not in there:
                out[n] = f"is within “{inside}”, which is of another grade"
            elif joins in (ALL, ANY) and _same(rows[n]["condition"]) not in within:
                out[n] = f"joins conditions, and none{of} is within “{rows[n]['condition']}”"
    return out


def _asks_nothing(row: Cells, within: set[str]) -> str:
    joins = _same(row.get("joins"))
    if joins and joins not in JOINS:
        return f"joins by “{row['joins']}”; known are {', '.join(JOINS)}"
    if joins == ONCE:
        few = len(set(row.get("standards", ()))) < 2
        return "names fewer than two standards of which one counts" if few else ""
    if joins:
        lone = _same(row["condition"]) not in within
        return f"joins conditions, and none is within “{row['condition']}”" if lone else ""
    if not (row.get("credits") or 0) > 0:
        return "asks for no credits"
    if row.get("subjects") is not None and not (row["subjects"] >= 1 and row["subjects"] % 1 == 0):
        return "asks for no whole number of subjects"
    return ""


def _misplaced(rows: Sequence[Cells], joining: dict[str, int], n: int) -> str:
    inside = rows[n].get("within")
    if not inside:
        return ""
    if _same(inside) not in joining:
        return f"is within “{inside}”, which joins nothing"
    outer = rows[joining[_same(inside)]]
    if outer.get("subjects") and (rows[n].get("subjects") or rows[n].get("joins")):
        return f"is within “{inside}”, where only credits in the same subject may stand"
    return "is within itself" if _goes_round(rows, joining, n) else ""


def _goes_round(rows: Sequence[Cells], joining: dict[str, int], n: int) -> bool:
    at, steps = n, 0
    while rows[at].get("within"):
        at, steps = joining.get(_same(rows[at]["within"]), at), steps + 1
        if steps > len(rows):
            return True
    return False


def _parted(row: Cells) -> bool:
    """Whether conditions may stand within a row's."""
    return _same(row.get("joins")) in (ALL, ANY) or bool(row.get("subjects"))


def _rule(first: Cells, grade: str, rows: list[Cells]) -> AwardRule:
    once = tuple(tuple(row["standards"]) for row in rows if _same(row.get("joins")) == ONCE)
    tops = [row for row in rows if not row.get("within") and _same(row.get("joins")) != ONCE]
    conditions = tuple(_condition(row, rows) for row in tops)
    _, since, level = _about(first)
    return AwardRule(first["award"], grade, since, conditions, once, level)


def _condition(row: Cells, rows: list[Cells]) -> Condition:
    inside = [one for one in rows if _same(one.get("within")) == _same(row["condition"])]
    return Condition(
        row["condition"], Fraction(str(row.get("credits") or 0)), int(row.get("subjects") or 0),
        _several(row, "subject"), _several(row, "level"), _several(row, "kind"),
        _several(row, "result"), tuple(row.get("standards", ())), _same(row.get("joins")),
        tuple(_condition(one, rows) for one in inside) if _parted(row) else (),
    )  # fmt: skip


def _several(row: Cells, column: str) -> tuple[str, ...]:
    return tuple(filter(None, (one.strip() for one in (row.get(column) or "").split("|"))))


def of_same_award(rows: Sequence[Cells], some: Iterable[int]) -> list[int]:
    """The places of all rows that speak of the same award and school year as some of them: without
    one of its conditions it would be another award."""
    about = {_about(rows[n]) for n in some}
    return [n for n, row in enumerate(rows) if _about(row) in about]


def _about(row: Cells) -> tuple[str, str, int | None]:
    """Which award, from which school year, of which year level."""
    return _same(row["award"]), row.get("school_year") or "", row.get("year_level")


def _same(name: str | None) -> str:
    return (name or "").strip().casefold()


def _either(names: Sequence[str]) -> str:
    return " or ".join(names)
