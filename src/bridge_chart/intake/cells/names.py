"""Names that are near an existing one: a slip, or something new? A person decides."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence

from rapidfuzz import fuzz, utils
from rapidfuzz.distance import DamerauLevenshtein

NEAR = 86.0
"""Likeness in percent from which two names are near; one slip of a key is near as well."""


def _labels(name: str) -> list[str]:
    """Numbers and single letters: what tells Year 7 from Year 8 and Form A from Form B."""
    return re.findall(r"\d+|\b[a-z]\b", re.sub(r"['’]", "", name.lower()))


def near_name(name: str, known: Iterable[str], short: bool = False) -> str | None:
    """The known name that `name` is most like but not equal to; None if none is near.

    Names that differ in a number or a single letter are never near. `short`: a word that is cut
    short is near the whole one, as people write subjects.

    >>> near_name("Fernholow", ["Fernhollow", "Netherby"]), near_name("Form 2", ["Form 1"])
    ('Fernhollow', None)
    >>> near_name("Tarm", ["Tarn"]), near_name("Paper A", ["Paper B"])
    ('Tarn', None)
    >>> near_name("Maths", ["Mathematics"], short=True), near_name("Tarn", ["Tarnside"])
    ('Mathematics', None)
    """
    best, score = None, 0.0
    plain = _plain(name)
    for other in known:
        if other == name:
            return None
        if _labels(other) != _labels(name):
            continue
        against = _plain(other)
        like = 99.0 if short and _cut_short(plain, against) else fuzz.ratio(plain, against)
        slip = len(plain) > 3 and DamerauLevenshtein.distance(plain, against) <= 1
        if (like >= NEAR or slip) and like > score:
            best, score = other, like
    return best


def _cut_short(one: str, other: str) -> bool:
    """Whether the shorter of two words is the beginning of the longer, a plural s aside."""
    brief, whole = sorted((one, other), key=len)
    return len(brief) > 2 and len(whole) > len(brief) and whole.startswith(brief.removesuffix("s"))


def _plain(name: str) -> str:
    """Without case, punctuation and spaces."""
    return utils.default_process(name).replace(" ", "")


RARE = 0.1
"""Within one file, a name is a slip of another only if it has less than this share of its rows."""


def near_pairs(
    counts: Mapping[str, int], known: Sequence[str], short: bool = False
) -> list[tuple[str, str]]:
    """(name, the name it is near) for each new name with its rows in the file: against every
    known name, and against much more frequent new ones.

    >>> near_pairs({"St Osks": 40, "Mallowley": 300, "Fallowley": 280, "Mallowlay": 2},
    ...            ["St Osk's"])
    [('St Osks', "St Osk's"), ('Mallowlay', 'Mallowley')]
    """
    pairs = []
    for name, rows in counts.items():
        frequent = [other for other, n in counts.items() if rows < RARE * n]
        near = near_name(name, known, short) or near_name(name, frequent)
        if near is not None:
            pairs.append((name, near))
    return pairs
