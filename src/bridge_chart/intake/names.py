"""Names that are near an existing one: a slip, or something new? A person decides."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

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


def near_pairs(new: Sequence[str], known: Sequence[str]) -> list[tuple[str, str]]:
    """(name, the name it is near) for each new name, against known ones and earlier new ones.

    >>> near_pairs(["St Osks", "Netherby"], ["St Osk's"])
    [('St Osks', "St Osk's")]
    """
    pairs, seen = [], list(known)
    for name in new:
        other = near_name(name, seen)
        if other is not None:
            pairs.append((name, other))
        seen.append(name)
    return pairs
