"""Names as somebody types them who has not got their letters."""

from __future__ import annotations

import unicodedata

TYPED = str.maketrans({
    "æ": "ae", "œ": "oe", "ø": "o", "ß": "ss", "ł": "l", "đ": "d", "ð": "d", "þ": "th", "ı": "i",
    "'": "", "’": "", "-": " ",
})  # fmt: skip
"""Letters that are no letter with an accent, and marks that nobody types twice alike."""


def typed(text: str) -> str:
    """Lower case, without accents, apostrophes and hyphens.

    >>> typed("Zoë O'Ferran-Ågren"), typed("Þóra Bjørk")
    ('zoe oferran agren', 'thora bjork')
    """
    bare = unicodedata.normalize("NFKD", text.casefold())
    return "".join(c for c in bare if not unicodedata.combining(c)).translate(TYPED)
