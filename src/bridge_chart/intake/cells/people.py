"""Whether two records name the same person, and who else a row might be about."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
import polars as pl
from numpy.typing import NDArray
from rapidfuzz import fuzz
from rapidfuzz.distance import OSA

from bridge_chart.store.snapshot import UNKNOWN_DAY, Snapshot

NEAR_NAME = 82.0
PARTICLES = frozenset(("de", "van", "von", "al", "bin", "el", "la", "mac"))
MOST_LOOKED_UP = 3000
"""Unmatched numbers for which somebody is looked for; more are a file of another district."""


def plain_names(names: pl.Series) -> pl.Series:
    """Names without case, accents, punctuation and order; one that is there often is made so once.

    >>> plain_names(pl.Series(["Zoë O'Brien-Ørn", "Smith, Ann", ""])).to_list()
    ['obrien orn zoe', 'ann smith', '']
    """
    distinct = names.unique()
    plain = distinct.str.to_lowercase().str.normalize("NFKD")
    for pattern, other in (("ø", "o"), ("ł", "l"), ("ß", "ss"), (r"[\p{M}'’`]", ""),
                           (r"[^\p{L}\p{N}]+", " ")):  # fmt: skip
        plain = plain.str.replace_all(pattern, other)
    plain = plain.str.strip_chars(" ").str.split(" ").list.sort().list.join(" ")
    table = pl.DataFrame({"name": distinct, "plain": plain})
    held = pl.DataFrame({"name": names}).join(table, on="name", how="left", maintain_order="left")
    return held["plain"]


def names_agree(one: str, other: str) -> bool:
    """Whether two plain names can be one person's: a slip of the pen, a second name, a name that
    changed while the other stayed.

    >>> names_agree("ann smith", "anne smith"), names_agree("ann jones", "ann smith")
    (True, True)
    >>> names_agree("ann smith", "boris karl")
    False
    """
    shared = set(one.split()) & set(other.split())
    return bool(shared - PARTICLES) or names_near(one, other)


def names_near(one: str, other: str) -> bool:
    """Whether two plain names are alike as a whole: enough to offer a match.

    >>> names_near("ann smith", "anne smith"), names_near("ann jones", "ann smith")
    (True, False)
    """
    return fuzz.token_set_ratio(one, other) >= NEAR_NAME


@dataclass(frozen=True)
class Candidate:
    """Somebody whom a row might be about. `at`: position in the snapshot; `why`: the evidence."""

    at: int
    kind: str
    why: str


class People:
    """Students on kept rosters, by name and birth date."""

    def __init__(self, snapshot: Snapshot) -> None:
        self.snapshot = snapshot
        self.listed = np.flatnonzero(snapshot.listed)

    @cached_property
    def plain(self) -> pl.Series:
        """(students,) plain names; blank where none is kept."""
        given = pl.Series(np.array(self.snapshot.given_names), dtype=pl.String)
        family = pl.Series(np.array(self.snapshot.family_names), dtype=pl.String)
        return plain_names(given + " " + family)

    @cached_property
    def names(self) -> list[str]:
        """The same, to look single ones up."""
        return self.plain.to_list()

    @cached_property
    def _by_name(self) -> dict[str, list[int]]:
        found: dict[str, list[int]] = {}
        for at in self.listed.tolist():
            if self.names[at]:
                found.setdefault(self.names[at], []).append(at)
        return found

    @cached_property
    def _by_birth(self) -> dict[int, list[int]]:
        found: dict[int, list[int]] = {}
        for at, day in zip(
            self.listed.tolist(), self.snapshot.birth_days[self.listed].tolist(), strict=True
        ):
            if day != UNKNOWN_DAY:
                found.setdefault(day, []).append(at)
        return found

    def label(self, at: int) -> str:
        snapshot = self.snapshot
        name = f"{snapshot.given_names[at]} {snapshot.family_names[at]}".strip()
        return name or str(snapshot.numbers[at])

    def candidate(self, number: str, name: str, birth: int) -> Candidate | None:
        """The one student whom the row might be about; None where nobody or several fit."""
        if birth != UNKNOWN_DAY and name:
            same = [at for at in self._by_birth.get(birth, []) if names_near(name, self.names[at])]
            exact = [at for at in same if self.names[at] == name]
            chosen = exact if len(exact) == 1 else same
            if len(chosen) == 1:
                close = "agrees" if self.names[chosen[0]] == name else "nearly agrees"
                return Candidate(chosen[0], "birth", f"name {close}, birth date agrees")
            if same:
                return None
        found = self._by_name.get(name, []) if name else []
        slips = [at for at in found if self._slip(number, at)]
        if len(slips) == 1:
            return Candidate(slips[0], "slip", "name agrees, number is one slip away")
        if len(found) == 1 and birth == UNKNOWN_DAY:
            return Candidate(found[0], "name", "only the name agrees")
        return None

    def _slip(self, number: str, at: int) -> bool:
        known = str(self.snapshot.numbers[at])
        return OSA.distance(number.lstrip("0"), known.lstrip("0"), score_cutoff=1) <= 1

    def differs(
        self, at: NDArray[np.int64], names: pl.Series, births: NDArray[np.int64]
    ) -> list[int]:
        """Rows whose number is somebody's, but whose name is another's and whose birth date does
        not say otherwise. Rows without a name, or of students without one, cannot tell."""
        if not (at >= 0).any():
            return []
        known = self.plain.gather(np.maximum(at, 0))
        other = ((names != "") & (known != "") & (known != names)).to_numpy() & (at >= 0)
        born = births != self.snapshot.birth_days[np.maximum(at, 0)]
        rows = np.flatnonzero(other & (born | (births == UNKNOWN_DAY))).tolist()
        return [row for row in rows if not names_agree(names[row], known[row])]


@lru_cache(maxsize=2)
def people_of(snapshot: Snapshot) -> People:
    """The people of a snapshot; the last ones are kept, for a draft is looked at often."""
    return People(snapshot)


def written_by_spreadsheet(cells: pl.Series) -> pl.Series:
    """Numbers as they were before a spreadsheet made figures of them: “123.0” is “123”.

    >>> written_by_spreadsheet(pl.Series(["123.0", "1.23E+4", "0045", "A1"])).to_list()
    ['123', '12300', '0045', 'A1']
    """
    whole = cells.str.replace(r"^(\d+)[.,]0+$", "$1")
    power = whole.str.contains(r"(?i)^\d([.,]\d+)?e\+?\d+$")
    if not power.any():
        return whole
    wide = whole.str.replace(",", ".", literal=True).cast(pl.Float64, strict=False)
    plain = wide.cast(pl.Int64, strict=False).cast(pl.String)
    return whole.zip_with(~power | plain.is_null(), plain)
