"""Whose lines of a file are some students': by what the record says of each line, their numbers
and their names."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

SURE_LENGTH = 4
"""A number of so many characters is a student's wherever it stands; a shorter may be a score."""


@dataclass(frozen=True)
class Whose:
    """Whose lines go. lines, others: those that the record gives to them, and to somebody else;
    number_columns: where a file has numbers, None: nobody said; numbers: theirs, as files write
    them; names: given and family."""

    lines: frozenset[int] = frozenset()
    others: frozenset[int] = frozenset()
    number_columns: frozenset[int] | None = None
    numbers: frozenset[str] = frozenset()
    names: tuple[tuple[str, str], ...] = ()

    def has(self, line: int, cells: Sequence[str]) -> bool:
        """Whether a line is theirs.

        >>> whose = Whose(lines=frozenset({3}), others=frozenset({4}), names=(("Ada", "Tarn"),))
        >>> [whose.has(3, []), whose.has(4, ["Ada Tarn"]), whose.has(5, ["Tarn, Ada", "12"])]
        [True, False, True]
        """
        if line in self.lines or line in self.others:
            return line in self.lines
        bare = [cell.strip().lstrip("'").casefold() for cell in cells]
        if any(cell in self.numbers and self._may_be_number(at) for at, cell in enumerate(bare)):
            return True
        words = _words(" ".join(bare))
        return any(both <= words for word in words for both in self._by_word.get(word, ()))

    @cached_property
    def _by_word(self) -> dict[str, list[set[str]]]:
        """The words of each name under one of them: a line is compared with few."""
        out: dict[str, list[set[str]]] = {}
        for given, family in self.names:
            if _words(given) and _words(family):
                both = _words(given) | _words(family)
                out.setdefault(max(both, key=len), []).append(both)
        return out

    def _may_be_number(self, at: int) -> bool:
        return self.number_columns is None or at in self.number_columns


def _words(text: str) -> set[str]:
    return set(re.findall(r"\w+", text.casefold()))
