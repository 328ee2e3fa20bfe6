"""What names mean: those that the district declared the same, or calls otherwise from now on.

The rows are a table like any other (`kind` “names”): kept as a batch, undone as one. Identities in
the record stay as their files wrote them; a snapshot puts those together that mean the same.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

WHATS = ("school", "subject", "test", "sitting", "characteristic", "value")
HOLDS = ("groups", "ordered", "text")
"""What a characteristic holds: groups in the order of their names, groups in an order of their own,
or texts, which tell of a student and are no groups."""
Cells = Mapping[str, Any]


class SameNames:
    """What is declared of names; the newest row about a name holds.

    >>> names = SameNames([
    ...     {"what": "school", "name": "Ostrey Sch.", "means": "Ostrey"},
    ...     {"what": "school", "name": "Ostrey", "means": "Ostrey School"},
    ... ])
    >>> names.means("school", "Ostrey Sch."), names.means("school", "Saltby")
    ('Ostrey School', 'Saltby')
    """

    def __init__(self, rows: Iterable[Cells]) -> None:
        self._means: dict[tuple[str, str, str], str] = {}
        self._places: dict[tuple[str, str], float] = {}
        self._holds: dict[str, str] = {}
        self._dates: dict[tuple[str, str, str], str] = {}
        # What is of another name is found by what that name means, so it comes after it.
        told = sorted(rows, key=lambda row: bool(row.get("of")))
        for row in told:
            if row.get("means"):
                of = self._of(row["what"], row.get("of") or "")
                self._means[(row["what"], of, row["name"])] = row["means"]
        for row in told:
            name = self.means(row["what"], row["name"], row.get("of") or "")
            if row["what"] == "value" and row.get("place") is not None:
                self._places[(self.means("characteristic", row["of"]), name)] = row["place"]
            if row["what"] == "characteristic" and row.get("holds"):
                self._holds[name] = row["holds"]
            if row["what"] == "sitting" and row.get("date"):
                test, subject = self.means("test", row["of"]), row.get("subject") or ""
                self._dates[(test, self.means("subject", subject), name)] = row["date"]

    def means(self, what: str, name: str, of: str = "") -> str:
        """The name that a name means; itself where nothing is declared, or in a circle. of: the
        characteristic of a value, the test of a sitting."""
        of = self._of(what, of)
        seen = {name}
        while (then := self._means.get((what, of, name), name)) not in seen:
            seen.add(then)
            name = then
        return name

    def goes_round(self, what: str, name: str, of: str = "") -> bool:
        """Whether what a name means leads back to it."""
        of, at = self._of(what, of), name
        for _ in range(len(self._means) + 1):
            then = self._means.get((what, of, at), at)
            if then == at:
                return False
            at = then
        return True

    def _of(self, what: str, of: str) -> str:
        return self.means("test" if what == "sitting" else "characteristic", of) if of else ""

    def declared(self, what: str, of: str = "") -> dict[str, str]:
        """Every name of a kind that means another, and which; of: of a characteristic or test."""
        of = self._of(what, of)
        names = [name for kind, about, name in self._means if (kind, about) == (what, of)]
        means = {name: self.means(what, name, of) for name in names}
        return {name: then for name, then in means.items() if then != name}

    def sittings(self) -> dict[str, str]:
        """Every name of a sitting, of whatever test, that means another."""
        held = [(of, name) for what, of, name in self._means if what == "sitting"]
        return {name: self.means("sitting", name, of) for of, name in held}

    def place(self, characteristic: str, value: str) -> float:
        """Where a value stands among those of its characteristic; after all others by default."""
        return self._places.get((characteristic, value), float("inf"))

    def holds(self, characteristic: str) -> str:
        return self._holds.get(characteristic, HOLDS[0])

    def date(self, test: str, subject: str, sitting: str) -> str | None:
        """The day of a sitting, where it is declared: for its subject, else for all."""
        own = self._dates.get((test, subject, sitting))
        return own or self._dates.get((test, "", sitting))


def folded(items: Iterable[tuple[int, str]]) -> list[dict[str, Any]]:
    """Identities of one name put together: the oldest id stands for them, `also` are the others.

    >>> folded([(4, "Male"), (7, "Female"), (9, "Male")])
    [{'id': 4, 'name': 'Male', 'also': [9]}, {'id': 7, 'name': 'Female', 'also': []}]
    """
    by_name: dict[str, list[int]] = {}
    for identity, name in items:
        by_name.setdefault(name, []).append(identity)
    return [
        {"id": min(ids), "name": name, "also": sorted({*ids} - {min(ids)})}
        for name, ids in by_name.items()
    ]
