"""What a file would change of what is kept, student by student and cell by cell."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import polars as pl
from numpy.typing import NDArray

from bridge_chart.intake.examine.scores import Scores
from bridge_chart.intake.examine.sittings import SittingPlan
from bridge_chart.intake.match.match import NONE
from bridge_chart.store.codes import STATUSES
from bridge_chart.store.snapshot import NOBODY, UNKNOWN_DAY, Array, MeasureKey, Roll, Snapshot
from bridge_chart.terms.finding import Change, ChangeGroup, ChangeKind
from bridge_chart.terms.wording import count
from bridge_chart.terms.words import spoken

SAT, NO_ROW = STATUSES.index("sat"), STATUSES.index("no_row")
MOST = 300
"""Changes listed of each kind and thing; all are counted."""
ORDER: tuple[ChangeKind, ...] = ("gone", "moved", "changed", "lost", "gained", "new")
"""What matters first."""
CLASSES = {"class": "class", "form": "form or tutor group", "set": "set or teaching group"}


@dataclass
class Changes:
    """The first changes of each kind and thing, and how many there are of it."""

    snapshot: Snapshot
    listed: list[Change] = field(default_factory=list)
    by: dict[tuple[ChangeKind, str], int] = field(default_factory=dict)

    @property
    def counts(self) -> dict[str, int]:
        """How many changes of each kind there are."""
        out: dict[str, int] = {}
        for (kind, _), n in self.by.items():
            out[kind] = out.get(kind, 0) + n
        return out

    @property
    def otherwise(self) -> int:
        """How many changes are of what a student has, not of where they are."""
        return sum(self.counts.get(kind, 0) for kind in ("changed", "gained", "lost"))

    def groups(self) -> list[ChangeGroup]:
        """The kinds of changes, what matters first."""
        told = sorted(self.by.items(), key=lambda item: ORDER.index(item[0][0]))
        return [
            ChangeGroup(kind=kind, what=what, title=_title(kind, what, n), n=n)
            for (kind, what), n in told
        ]

    def add(
        self,
        kind: ChangeKind,
        what: str,
        line: int,
        at: int,
        before: str,
        after: str,
        number: str = "",
    ) -> None:
        """Note a change of the student at a position (−1: not known yet, by `number`)."""
        self.by[kind, what] = self.by.get((kind, what), 0) + 1
        if self.by[kind, what] > MOST:
            return
        snapshot = self.snapshot
        name = ""
        if at != NONE:
            number = str(snapshot.numbers[at])
            name = f"{snapshot.given_names[at]} {snapshot.family_names[at]}".strip()
        self.listed.append(
            Change(kind=kind, what=what, line=line, number=number, name=name, before=before,
                   after=after)
        )  # fmt: skip


def _title(kind: ChangeKind, what: str, n: int) -> str:
    """A kind of change in words.

    >>> _title("moved", "school", 24), _title("gained", "set or teaching group", 3489)
    ('24 students changed school', '3,489 students gained a set or teaching group')
    """
    who = count(n, "student")
    if kind == "changed":
        return f"{who} with another {what}"
    return {
        "gone": f"{who} no longer on roll",
        "moved": f"{who} changed school",
        "new": f"{who} not seen before",
        "gained": f"{who} gained a {what}",
        "lost": f"{who} lost a {what}",
    }[kind]


def roster_changes(
    snapshot: Snapshot,
    roll: Roll | None,
    rows: pl.DataFrame,
    covers: list[str],
    memberships: pl.DataFrame,
    kinds: list[str],
) -> Changes:
    """Who is new, gone, moved or changed, against the roll that holds on the roster's date.

    `rows`: number, student (position, −1 = new), line, school, year_level, names, birth_date, "x:…"
    as a roster has; `memberships`: number, line, kind, class; `kinds`: of classes that it has.
    """
    out = Changes(snapshot)
    students = rows["student"].to_numpy()
    lines, schools = rows["line"].to_list(), rows["school"].to_list()
    numbers = rows["number"].to_list()
    for row in np.flatnonzero(students == NONE).tolist():
        out.add("new", "student", lines[row], NONE, "", schools[row], numbers[row])
    if roll is None:
        return out
    names = [s.name for s in snapshot.schools]
    place = {name: at for at, name in enumerate(names)}
    here = np.zeros(snapshot.students, bool)
    here[students[students != NONE]] = True
    covered = [place[name] for name in covers if name in place]
    for place_of in np.flatnonzero(~here & np.isin(roll.school, covered)).tolist():
        out.add("gone", "student", 0, place_of, names[int(roll.school[place_of])], "")
    known = np.flatnonzero(students != NONE)
    at = students[known]
    was = roll.school[at]
    now = np.array([place.get(name, NOBODY) for name in rows["school"].to_list()], np.int64)[known]
    for row in np.flatnonzero((was >= 0) & (was != now)).tolist():
        n = int(known[row])
        out.add("moved", "school", lines[n], int(at[row]), names[int(was[row])], schools[n])
    _names(out, rows, known, at)
    _levels(out, roll, rows, known, at)
    _characteristics(out, roll, rows, known, at)
    _classes(out, roll, rows, memberships, kinds)
    return out


def _names(out: Changes, rows: pl.DataFrame, known: Array, at: NDArray[np.int64]) -> None:
    """Who is called otherwise, or was born on another day, where the roster says it."""
    snapshot, lines = out.snapshot, rows["line"].to_list()
    given, family = rows["given_name"].to_numpy()[known], rows["family_name"].to_numpy()[known]
    was_given, was_family = snapshot.given_names[at], snapshot.family_names[at]
    said = (given != "") | (family != "")
    same = (given == was_given) & (family == was_family)
    for row in np.flatnonzero(said & ~same & ((was_given != "") | (was_family != ""))).tolist():
        before = f"{was_given[row]} {was_family[row]}".strip()
        after = f"{given[row]} {family[row]}".strip()
        out.add("changed", "name", lines[int(known[row])], int(at[row]), before, after)
    births = rows["birth_date"].cast(pl.Int32).fill_null(UNKNOWN_DAY).to_numpy()[known]
    was = np.asarray(snapshot.birth_days)[at]
    other = (births != UNKNOWN_DAY) & (was != UNKNOWN_DAY) & (births != was)
    for row in np.flatnonzero(other).tolist():
        days = [str(np.datetime64(int(one), "D")) for one in (was[row], births[row])]
        out.add("changed", "birth date", lines[int(known[row])], int(at[row]), days[0], days[1])


def _classes(
    out: Changes, roll: Roll, rows: pl.DataFrame, memberships: pl.DataFrame, kinds: list[str]
) -> None:
    """Who gains, loses or changes classes of the kinds that the roster has."""
    here = rows.filter(pl.col("student") != NONE).select("number", "student", "line")
    here = here.filter(pl.Series(np.asarray(roll.school)[here["student"].to_numpy()] >= 0))
    members = np.asarray(roll.members)
    classes = out.snapshot.classes
    names = np.array([c.name for c in classes] + [""], object)
    for kind in kinds:
        of_kind = np.array([kind in c.kinds for c in classes] + [False], bool)
        held = members[of_kind[members[:, 1]]]
        before = pl.DataFrame(
            {"student": held[:, 0].astype(np.int64), "was": names[held[:, 1]].tolist()},
            schema={"student": pl.Int64, "was": pl.String},
        )
        now = memberships.filter(pl.col("kind") == kind).select("number", now="class")
        both = here.join(_listed(before, "student", "was"), on="student", how="left")
        both = both.join(_listed(now, "number", "now"), on="number", how="left")
        both = both.with_columns(pl.col("was", "now").fill_null(""))
        for row in both.filter(pl.col("was") != pl.col("now")).sort("line").iter_rows(named=True):
            what: ChangeKind = "changed"
            if not (row["was"] and row["now"]):
                what = "lost" if row["was"] else "gained"
            out.add(what, CLASSES[kind], row["line"], row["student"], row["was"], row["now"])


def _listed(pairs: pl.DataFrame, key: str, value: str) -> pl.DataFrame:
    """One row for each key, its values as one text."""
    return pairs.unique().group_by(key).agg(pl.col(value).sort().str.join(", "))


def _levels(
    out: Changes, roll: Roll, rows: pl.DataFrame, known: Array, at: NDArray[np.int64]
) -> None:
    was, now = roll.year_level[at], rows["year_level"].to_numpy()[known]
    lines = rows["line"].to_list()
    for row in np.flatnonzero((was >= 0) & (now >= 0) & (was != now)).tolist():
        line = lines[int(known[row])]
        out.add("changed", spoken().year_level, line, int(at[row]), str(was[row]), str(now[row]))


def _characteristics(
    out: Changes, roll: Roll, rows: pl.DataFrame, known: Array, at: NDArray[np.int64]
) -> None:
    lines = rows["line"].to_list()
    for item in out.snapshot.characteristics:
        if f"x:{item.called}" not in rows.columns:
            continue
        options = np.array([option.name for option in item.options] + [""], object)
        was = options[roll.characteristic(item.id, out.snapshot.students)[at]]
        now = rows[f"x:{item.called}"].to_numpy().astype(object)[known]
        for row in np.flatnonzero((was != "") & (was != now)).tolist():
            line = lines[int(known[row])]
            out.add("changed", item.name, line, int(at[row]), str(was[row]), str(now[row]))


class AgainstKept:
    """The rows that a results file would keep, against what is kept: what a row does not say,
    it does not change; a student who did not sit has no score any more."""

    def __init__(
        self,
        snapshot: Snapshot,
        sittings: list[SittingPlan],
        frame: pl.DataFrame,
        scores: Scores,
    ) -> None:
        self.snapshot, self.sittings, self.frame, self.scores = snapshot, sittings, frame, scores
        self.changes = Changes(snapshot)

    def rows(self) -> tuple[int, int, int]:
        """How many rows are new, change something, and say what is kept already."""
        totals = np.zeros(3, np.int64)
        for place, sitting in enumerate(self.sittings):
            rows = self.frame.filter(pl.col("sitting") == place)
            kept = [m for m in self.snapshot.measures if m.sitting.id == sitting.known_id]
            totals += self._sitting(rows, kept) if kept else (rows.height, 0, 0)
        new, changed, same = totals.tolist()
        return new, changed, same

    def _sitting(self, rows: pl.DataFrame, kept: list[MeasureKey]) -> tuple[int, int, int]:
        at, status = rows["student"].to_numpy(), rows["status"].to_numpy()
        before = self.snapshot.status(kept[0])[at]
        told = status != NO_ROW
        existed = before != NO_ROW
        differs = told & (status != before)
        for measure in kept:
            column, names = self._column(measure)
            now = _as_kept(measure, rows[column], names) if column else np.full(len(at), np.nan)
            was = self.snapshot.values(measure)[at]
            spoken = ~np.isnan(now)
            if measure.role == "result":
                spoken = spoken | (told & (status != SAT))
            else:
                existed = existed | (spoken & ~np.isnan(was))
            other = spoken & ~((now == was) | (np.isnan(now) & np.isnan(was)))
            differs = differs | other
            self._list(measure, rows, now, was, other & existed)
        new, changed = ~existed, existed & differs
        return int(new.sum()), int(changed.sum()), int((existed & ~differs).sum())

    def _column(self, measure: MeasureKey) -> tuple[str, list[str]]:
        """The frame's column with the file's values of a measure, and the names of its steps."""
        steps = self.scores.levels.get(measure.score, [])
        if measure.role == "result":
            return (measure.score if measure.score in self.scores.values else ""), steps
        for n, claim in enumerate(self.scores.claims):
            if (claim.role, claim.kind, claim.score) == (measure.role, measure.kind, measure.score):
                return f"claim {n}", steps
        return "", steps

    def _list(
        self, measure: MeasureKey, rows: pl.DataFrame, now: Array, was: Array, listed: Array
    ) -> None:
        for row in np.flatnonzero(listed).tolist():
            at, line = int(rows["student"][row]), int(rows["line"][row])
            after = _value(measure, now[row])
            self.changes.add("changed", measure.label, line, at, _value(measure, was[row]), after)


def _as_kept(measure: MeasureKey, values: pl.Series, names: list[str]) -> NDArray[np.float64]:
    """The file's values; places of steps as the kept scale has them, 0 for a step that is new."""
    now = values.cast(pl.Float64).fill_null(np.nan).to_numpy()
    if not measure.steps:
        return now
    kept = {name: place + 1.0 for place, name in enumerate(measure.steps)}
    place = np.array([np.nan, *(kept.get(name, 0.0) for name in names)])
    found: NDArray[np.float64] = place[np.nan_to_num(now, nan=0.0).astype(np.int64)]
    return found


def _value(measure: MeasureKey, value: float) -> str:
    if np.isnan(value):
        return ""
    if measure.steps:
        return measure.steps[int(value) - 1] if value >= 1 else "a new step"
    return f"{value:g}"
