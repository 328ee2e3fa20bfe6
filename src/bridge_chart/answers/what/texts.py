"""What students wrote, like texts put together and counted."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from rapidfuzz import fuzz, process

ALIKE = 88.0
"""Texts whose words agree so far, in percent, say the same."""
MOST_COMPARED = 2_000
"""Different texts that are compared with each other; rarer ones stand for themselves."""
SHOWN = 400
"""Letters of a text that are shown; all are kept."""


@dataclass(frozen=True)
class Folded:
    """A text as most wrote it, and how many wrote like it."""

    text: str
    n: int


def plain(text: str) -> str:
    """A text without case, signs and blanks that say nothing.

    >>> plain("  It is HALF of it!! "), plain("6 ÷ ½ = 12")
    ('it is half of it', '6 ÷ ½ = 12')
    """
    return " ".join(re.sub(r"[!?.,;:\"'“”‘’]+", " ", text.casefold()).split())


def folded(texts: Sequence[str]) -> list[Folded]:
    """Texts that are alike as one, the most frequent first.

    >>> [(one.text, one.n) for one in folded(["Half.", "half", "How many halves?", "half "])]
    [('half', 3), ('How many halves?', 1)]
    """
    said: dict[str, Counter[str]] = {}
    for text in texts:
        if plain(text):
            said.setdefault(plain(text), Counter())[text.strip()] += 1
    order = sorted(said, key=lambda key: (-said[key].total(), key))
    heads: list[str] = []
    of: dict[str, list[str]] = {}
    for at, key in enumerate(order):
        near = None
        if heads and at < MOST_COMPARED:
            near = process.extractOne(key, heads, scorer=fuzz.ratio, score_cutoff=ALIKE)
        if near is None or any(c.isdigit() for c in key + near[0]):
            # A digit is the whole of some answers: no near miss.
            heads.append(key)
            of[key] = [key]
        else:
            of[near[0]].append(key)
    out = []
    for keys in of.values():
        written = sum((said[key] for key in keys), Counter())
        most = min(written, key=lambda text: (-written[text], text))
        out.append(Folded(_shown(most), written.total()))
    return sorted(out, key=lambda one: (-one.n, one.text))


def _shown(text: str) -> str:
    return text if len(text) <= SHOWN else f"{text[:SHOWN].rstrip()} …"
