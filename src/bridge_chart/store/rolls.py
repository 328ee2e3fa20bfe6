"""From roster batches to rolls: who was where from each roster's date on.

Within a school year the active rosters are laid over each other by effective date. A roster
places the students that it names; a student whose school it covers and whom it does not name
has left. Columns that a roster does not have leave what an earlier one of that year said.

Nothing says where the students of a school were before its first roster of a year, so that counts
from the year's first day: a school's rosters may come later than another's.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import groupby
from typing import Any

import numpy as np
import sqlalchemy as sa
from numpy.typing import NDArray

from bridge_chart.store.bulk import read_out
from bridge_chart.store.same_names import SameNames, folded

Array = NDArray[Any]
INT = np.int32


class RollBuilder:
    """Lays the rosters of every school year over each other."""

    def __init__(
        self,
        connection: sa.Connection,
        ids: Array,
        rosters: Sequence[Any],
        names: SameNames,
        column: Callable[[str, Sequence[int], list[Any], Callable[[], Array]], str],
    ) -> None:
        self.connection = connection
        self.ids = ids
        self.rosters = rosters
        self.names = names
        self.column = column
        self.listed = ",".join(str(b["id"]) for b in rosters) or "0"
        self.schools = self._schools()
        self.characteristics = self._characteristics()
        self.staff, self.classes = self._classes()
        self._one = self._stands_for()
        self.rosters = [self._as_one(batch) for batch in rosters]

    def _used(self, key: str) -> list[int]:
        """Ids that the rosters use; each batch noted its own when it was kept."""
        return sorted(set().union(*(b["counts"][key] for b in self.rosters)))

    def _rows(self, query: str, ids: list[int]) -> list[Any]:
        return list(self.connection.execute(sa.text(query), {"ids": ids}).all())

    def _schools(self) -> list[dict[str, Any]]:
        rows = self._rows(
            "SELECT id, name FROM school WHERE id = ANY(:ids)", self._used("school_ids")
        )
        named = folded((row[0], self.names.means("school", row[1])) for row in rows)
        return sorted(named, key=lambda school: str(school["name"]))

    def _characteristics(self) -> list[dict[str, Any]]:
        rows = self._rows(
            "SELECT c.id, c.name, o.id, o.value FROM characteristic c "
            "JOIN characteristic_option o ON o.characteristic_id = c.id "
            "WHERE o.id = ANY(:ids) ORDER BY c.id, o.value",
            self._used("option_ids"),
        )
        names = self.names
        items = folded({row[0]: names.means("characteristic", row[1]) for row in rows}.items())
        for item in items:
            ids, called = {item["id"], *item["also"]}, item["name"]
            held = folded((r[2], names.means("value", r[3], called)) for r in rows if r[0] in ids)
            held.sort(key=lambda o: (names.place(called, o["name"]), o["name"]))
            item |= {"options": held, "holds": names.holds(called)}
        return items

    def _stands_for(self) -> dict[str, dict[int, int]]:
        """Per column of ids: which id stands for one that means the same."""
        options = [o for item in self.characteristics for o in item["options"]]
        lists = {"school_id": self.schools, "class_id": self.classes, "option_id": options,
                 "characteristic_id": self.characteristics}  # fmt: skip
        return {
            column: {other: item["id"] for item in items for other in item["also"]}
            for column, items in lists.items()
        }

    def _as_one(self, batch: Any) -> dict[str, Any]:
        """A roster with the ids that stand for those that it wrote."""
        schools, options = self._one["school_id"], self._one["option_id"]
        counts = {
            **batch["counts"],
            "school_ids": [schools.get(one, one) for one in batch["counts"]["school_ids"]],
            "option_ids": [options.get(one, one) for one in batch["counts"]["option_ids"]],
        }
        written = batch["covers"] or []
        covers = [schools.get(one, one) for one in written]
        return {**batch, "counts": counts, "covers": covers, "covers_written": written}

    def _classes(self) -> tuple[list[str], list[dict[str, Any]]]:
        taught = self._rows(
            "SELECT DISTINCT class_id, staff.name FROM class_staff "
            "JOIN staff ON staff.id = staff_id WHERE batch_id = ANY(:ids) ORDER BY 2",
            [b["id"] for b in self.rosters],
        )
        staff = sorted({row[1] for row in taught})
        position = {name: at for at, name in enumerate(staff)}
        teachers: dict[int, list[int]] = {}
        for class_id, name in taught:
            teachers.setdefault(class_id, []).append(position[name])
        courses: dict[int, list[str]] = {}
        for class_id, name in self._rows(
            "SELECT DISTINCT class_id, s.name FROM class_course "
            "JOIN subject s ON s.id = subject_id WHERE batch_id = ANY(:ids) ORDER BY 2",
            [b["id"] for b in self.rosters],
        ):
            courses.setdefault(class_id, []).append(self.names.means("subject", name))
        kinds: dict[int, set[int]] = {}
        for class_id, kind in self._rows(
            "SELECT DISTINCT class_id, kind FROM class_member WHERE batch_id = ANY(:ids)",
            [b["id"] for b in self.rosters],
        ):
            kinds.setdefault(class_id, set()).add(kind)
        return staff, [
            {
                **item,
                "kinds": sorted({k for one in ids for k in kinds.get(one, ())}),
                "teachers": sorted({t for one in ids for t in teachers.get(one, [])}),
                "courses": sorted({c for one in ids for c in courses.get(one, [])}),
            }
            for item in self._named_classes()
            for ids in [(item["id"], *item["also"])]
        ]

    def _named_classes(self) -> list[dict[str, Any]]:
        """Classes; those of one name in schools that mean the same are one."""
        rows = self._rows(
            "SELECT id, name, school_id, academic_year FROM school_class WHERE id = ANY(:ids)",
            self._used("class_ids"),
        )
        place = {one: at for at, s in enumerate(self.schools) for one in (s["id"], *s["also"])}
        groups: dict[tuple[str, int, str], list[int]] = {}
        for row in rows:
            groups.setdefault((row[3], place[row[2]], row[1]), []).append(row[0])
        return [
            {"id": min(ids), "name": name, "school_id": self.schools[at]["id"],
             "academic_year": year, "also": sorted({*ids} - {min(ids)})}
            for (year, at, name), ids in sorted(groups.items())
        ]  # fmt: skip

    def build(self) -> dict[str, Any]:
        rolls = []
        for year, of_year in groupby(
            sorted(self.rosters, key=lambda b: (b["academic_year"], b["effective_date"], b["id"])),
            key=lambda b: b["academic_year"],
        ):
            laid: list[Any] = []
            state, rosters = _State(self), list(of_year)
            for since, same_day in groupby(rosters, key=lambda b: b["effective_date"]):
                laid += same_day
                ahead = _first_of_their_schools(rosters, len(laid))
                files = self._files(state, list(laid), ahead)
                rolls.append({"year": year, "since": str(since), **files})
        return {
            "schools": self.schools,
            "staff": self.staff,
            "classes": self.classes,
            "characteristics": self.characteristics,
            "rolls": rolls,
            "listed": self.column("listed", [b["id"] for b in self.rosters], [], self._listed),
        }

    def _files(self, state: _State, laid: list[Any], ahead: list[Ahead]) -> dict[str, Any]:
        """The roll's columns; rosters are laid only if one of them has to be written."""
        # Positions depend on which names are in use, so these are part of the origin.
        later = [b["id"] for b, _ in ahead]
        batches = [b["id"] for b in laid] + later
        names = [[s["id"] for s in self.schools], [c["id"] for c in self.classes], later]
        names += [[c["kinds"] for c in self.classes]]
        names += [sorted(same.items()) for same in self._one.values() if same]
        made: list[_State] = []

        def whole() -> _State:
            if not made:
                made.append(state.with_laid(laid).with_ahead(ahead))
            return made[0]

        def column(what: str, of: Callable[[_State], Array], also: Any = None) -> str:
            return self.column(what, batches, [names, also], lambda: of(whole()))

        used = {option for b in [*laid, *(b for b, _ in ahead)]
                for option in b["counts"]["option_ids"]}  # fmt: skip
        characteristics = {}
        for item in self.characteristics:
            options = [option["id"] for option in item["options"]]
            if used & set(options):
                characteristics[str(item["id"])] = column(
                    f"characteristic-{item['id']}", _values_of(item["id"]), options
                )
        return {
            "school": column("school", lambda s: s.school),
            "year_level": column("year_level", lambda s: s.year_level),
            "members": column("members", lambda s: s.members),
            "characteristics": characteristics,
        }

    def _listed(self) -> Array:
        out = np.zeros(len(self.ids), bool)
        out[self.read("enrolment", ["student_id"], self.listed)["student_id"]] = True
        return out

    def read(self, table: str, columns: list[str], batches: str) -> Array:
        """A fact table's rows; student ids become positions, and names that mean the same one id,
        but for schools, which stay as written."""
        short = ("year_level", "kind")
        types = [(name, np.int16 if name in short else INT) for name in columns]
        rows = read_out(
            self.connection,
            f"SELECT {', '.join(columns)} FROM {table} WHERE batch_id IN ({batches})",
            np.dtype(types),
        )
        rows["student_id"] = np.searchsorted(self.ids, rows["student_id"])
        for name in columns:
            if name != "school_id":
                rows[name] = self.as_one(name, rows[name])
        return rows

    def as_one(self, column: str, ids: Array) -> Array:
        """Ids with those that stand for them."""
        out = ids.copy()
        for other, one in self._one[column].items() if column in self._one else ():
            out[ids == other] = one
        return out


Ahead = tuple[Any, set[int]]
"""A roster and the schools whose first one of the year it is."""


def _first_of_their_schools(rosters: list[Any], laid: int) -> list[Ahead]:
    """The rosters after the first `laid` that are the first of a school which they cover."""
    seen: set[int] = set()
    out = []
    for at, batch in enumerate(rosters):
        first = set(batch["counts"]["school_ids"]) & set(batch["covers"] or []) - seen
        if at >= laid and first:
            out.append((batch, first))
        seen |= first
    return out


def _positions(items: list[dict[str, Any]], ids: Array) -> Array:
    """The place in `items` of each id."""
    known = np.array([item["id"] for item in items], INT)
    order = np.argsort(known)
    return order[np.searchsorted(known, ids, sorter=order)] if len(ids) else ids


def _values_of(characteristic_id: int) -> Callable[[_State], Array]:
    return lambda state: state.values[characteristic_id]


class _State:
    """A school year's roll as far as its rosters have been laid."""

    def __init__(self, builder: RollBuilder) -> None:
        self.builder = builder
        count = len(builder.ids)
        self.school = np.full(count, -1, np.int16)
        self.written = np.full(count, -1, INT)
        self.day = np.full(count, -1, INT)
        self.year_level = np.full(count, -1, np.int8)
        self.values = {c["id"]: np.full(count, -1, np.int16) for c in builder.characteristics}
        self.members = np.empty((0, 2), INT)
        self.laid: list[int] = []

    def with_laid(self, batches: list[Any]) -> _State:
        """This state with all of `batches` laid; those laid before are the first of them."""
        for batch in batches[len(self.laid) :]:
            self.lay(batch)
            self.laid.append(batch["id"])
        return self

    def with_ahead(self, ahead: list[Ahead]) -> _State:
        """This state with those laid ahead of their day whom nothing laid so far places; this
        itself where there are none."""
        if not ahead:
            return self
        out = _State(self.builder)
        out.school, out.year_level = self.school.copy(), self.year_level.copy()
        out.values = {key: codes.copy() for key, codes in self.values.items()}
        out.members = self.members
        for batch, schools in ahead:
            out._lay_ahead(str(batch["id"]), schools)
        return out

    def _lay_ahead(self, one: str, schools: set[int]) -> None:
        build = self.builder
        rows = build.read("enrolment", ["student_id", "school_id", "year_level"], one)
        rows["school_id"] = build.as_one("school_id", rows["school_id"])
        new = np.isin(rows["school_id"], list(schools)) & (self.school[rows["student_id"]] < 0)
        rows = rows[new]
        mine = np.zeros(len(self.school), bool)
        mine[rows["student_id"]] = True
        self.school[rows["student_id"]] = _positions(build.schools, rows["school_id"])
        self.year_level[rows["student_id"]] = rows["year_level"]
        self._lay_classes(one, mine, mine, mine)
        self._lay_characteristics(one, mine)

    def lay(self, batch: Any) -> None:
        build, one = self.builder, str(batch["id"])
        rows = build.read("enrolment", ["student_id", "school_id", "year_level"], one)
        here = np.zeros(len(self.school), bool)
        here[rows["student_id"]] = True
        covered = np.array(
            [at for at, s in enumerate(build.schools) if s["id"] in (batch["covers"] or [])]
        )
        # Rosters of one day that write a school otherwise are parts of it; a later one replaces.
        theirs = np.isin(self.written, batch["covers_written"])
        today = batch["effective_date"].toordinal()
        gone = ~here & np.isin(self.school, covered) & (theirs | (self.day < today))
        self.school[gone] = -1
        self.written[rows["student_id"]] = rows["school_id"]
        self.day[rows["student_id"]] = today
        held = build.as_one("school_id", rows["school_id"])
        self.school[rows["student_id"]] = _positions(build.schools, held)
        given = rows[rows["year_level"] >= 0]
        self.year_level[given["student_id"]] = given["year_level"]
        self._lay_classes(one, here | gone, gone)
        self._lay_characteristics(one)

    def _lay_classes(
        self, batch: str, spoken_of: Array, gone: Array, only: Array | None = None
    ) -> None:
        rows = self.builder.read("class_member", ["student_id", "class_id", "kind"], batch)
        rows = rows if only is None else rows[only[rows["student_id"]]]
        # Tutor groups and sets may come in different files: each replaces its own kind.
        kinds = set(np.unique(rows["kind"]).tolist())
        same = np.array([bool(kinds & {*c["kinds"]}) for c in self.builder.classes], bool)
        student, place = self.members[:, 0], self.members[:, 1]
        kept = self.members[~(gone[student] | (spoken_of[student] & same[place]))]
        new = np.column_stack(
            [rows["student_id"], _positions(self.builder.classes, rows["class_id"])]
        )
        both = np.unique(np.concatenate([kept, new.astype(INT)]), axis=0)
        self.members = both.reshape(-1, 2).astype(INT)

    def _lay_characteristics(self, batch: str, only: Array | None = None) -> None:
        rows = self.builder.read(
            "characteristic_value", ["student_id", "characteristic_id", "option_id"], batch
        )
        rows = rows if only is None else rows[only[rows["student_id"]]]
        for item in self.builder.characteristics:
            mine = rows[rows["characteristic_id"] == item["id"]]
            self.values[item["id"]][mine["student_id"]] = _positions(
                item["options"], mine["option_id"]
            )
