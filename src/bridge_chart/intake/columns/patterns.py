"""Names of columns that are built alike, read by one saying: “{subject} {sitting} {kind}”."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import polars as pl

from bridge_chart.intake.cells.values import dates
from bridge_chart.intake.columns.headings import CLAIMS, KINDS
from bridge_chart.intake.said.settings import About
from bridge_chart.terms.errors import InvalidQuestion

FIELDS = ("subject", "sitting", "test", "kind", "date", "form", "other")
NAMES = ("subject", "sitting", "test", "form")


@dataclass(frozen=True)
class Patterned:
    """A column's name read by a pattern. `word`: what it calls the kind of score; `role`: blank
    where nobody knows that word."""

    about: About
    word: str
    role: str


class Pattern:
    """A saying of how names of columns are built.

    >>> pattern = Pattern("{subject} {sitting} {kind}", {"CA": "score:grade"})
    >>> told = pattern.read(["Surname", "Ma Aut1 CA"])
    >>> [(at, one.about.subject, one.about.sitting, one.role) for at, one in told.items()]
    [(1, 'Ma', 'Aut1', 'score:grade')]
    """

    def __init__(self, written: str, kinds: Mapping[str, str]) -> None:
        named = re.findall(r"\{(.*?)\}", written)
        unknown = [name for name in named if name not in FIELDS]
        if unknown or len(set(named)) < len(named) or not named:
            raise InvalidQuestion(
                f"“{written}” is no pattern of column names.",
                next_step=f"Write each of these at most once: "
                f"{', '.join('{' + f + '}' for f in FIELDS)}.",
            )
        parts = re.split(r"(\{.*?\})", written)
        self._plain = re.compile("".join(self._part(part) for part in parts))
        self._kinds = {word.casefold(): role for word, role in kinds.items()}

    @staticmethod
    def _part(part: str) -> str:
        if part.startswith("{"):
            return f"(?P<{part[1:-1]}>.+?)"
        return r"\s+".join(re.escape(word) for word in re.split(r"\s+", part))

    def read(self, headers: Sequence[str], order: str | None = None) -> dict[int, Patterned]:
        """What the names say that are built so, by their place. A sitting that only its date tells
        is called by it. order: of day and month in dates, where somebody said it."""
        found = {at: self._plain.fullmatch(header.strip()) for at, header in enumerate(headers)}
        held = {at: one.groupdict() for at, one in found.items() if one is not None}
        written = [one.get("date") or "" for one in held.values()]
        days = dates(pl.Series(written, dtype=pl.String), order).values.to_list()
        out = {}
        for (at, one), day in zip(held.items(), days, strict=True):
            if "date" in one and day is None:
                continue
            told = {key: value.strip() for key, value in one.items() if key in NAMES}
            if day is not None:
                told.setdefault("sitting", str(day))
            word = (one.get("kind") or "").strip()
            out[at] = Patterned(About(**told, date=day), word, self._role(word))
        return out

    def _role(self, word: str) -> str:
        said = self._kinds.get(word.casefold())
        if said is not None:
            return said
        for role, words in (*KINDS.items(), *CLAIMS.items()):
            if re.fullmatch(f"(?i)(?:{words})", word):
                return role
        return "" if word else "score"
