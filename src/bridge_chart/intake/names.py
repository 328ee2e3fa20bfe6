"""Names that are near an existing one: a slip, or something new? A person decides."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence

from rapidfuzz import fuzz, utils

NEAR = 86.0


def _digits(name: str) -> list[str]:
    return re.findall(r"\d+", name)


def near_name(name: str, known: Iterable[str]) -> str | None:
    """The known name that `name` is most like but not equal to; None if none is near.

    Names that differ in a number (Year 7, Year 8; spring 2025, spring 2026) are never near.

    >>> near_name("Fernholow", ["Fernhollow", "Netherby"]), near_name("Form 2", ["Form 1"])
    ('Fernhollow', None)
    """
    best, score = None, NEAR
    plain = utils.default_process(name).replace(" ", "")
    for other in known:
        if other == name:
            return None
        if _digits(other) != _digits(name):
            continue
        like = fuzz.ratio(plain, utils.default_process(other).replace(" ", ""))
        if like >= score:
            best, score = other, like
    return best


RARE = 0.1
"""Within one file, a name is a slip of another only if it has less than this share of its rows."""


def near_pairs(counts: Mapping[str, int], known: Sequence[str]) -> list[tuple[str, str]]:
    """(name, the name it is near) for each new name with its rows in the file: against every
    known name, and against much more frequent new ones.

    >>> near_pairs({"St Osks": 40, "Mallowley": 300, "Fallowley": 280, "Mallowlay": 2},
    ...            ["St Osk's"])
    [('St Osks', "St Osk's"), ('Mallowlay', 'Mallowley')]
    """
    pairs = []
    for name, rows in counts.items():
        frequent = [other for other, n in counts.items() if rows < RARE * n]
        near = near_name(name, known) or near_name(name, frequent)
        if near is not None:
            pairs.append((name, near))
    return pairs
