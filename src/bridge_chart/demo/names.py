"""Made-up names of people and places. None is taken from a real one on purpose."""

from __future__ import annotations

SCHOOLS = {
    "Fernhollow": 0.085, "Skarra Point": 0.112, "Long Reach": 0.120, "Tarn Academy": 0.083,
    "Hollin Bay": 0.101, "Isle of Merrow": 0.036, "St Osk's": 0.093, "Netherby": 0.108,
    "Pellow Green": 0.076, "Wick & Orme": 0.098, "Brackwater": 0.088,
}  # fmt: skip
"""The eleven schools and their shares of the students."""

FIRST_PARTS = (
    "Ash", "Birk", "Cairn", "Dun", "Elder", "Finch", "Gorse", "Hazel", "Iron", "Kell", "Lark",
    "Mallow", "North", "Otter", "Penn", "Quarry", "Rowan", "Sedge", "Thorn", "West",
)  # fmt: skip
LAST_PARTS = (
    "bank", "barrow", "combe", "croft", "dale", "fell", "field", "ford", "garth", "holm", "hurst",
    "ley", "mere", "moor", "ness", "rigg", "stead", "thwaite", "wick", "worth",
)  # fmt: skip

GIVEN = (
    "Anwen", "Bo", "Cassia", "Dov", "Efa", "Finn", "Greta", "Hari", "Ines", "Jory", "Kezia",
    "Lowen", "Mabel", "Nils", "Oona", "Piet", "Rhosyn", "Sorrel", "Tavi", "Una", "Vesper", "Wilf",
    "Ysolde", "Zeno", "Alby", "Bryony", "Corin", "Dilys", "Edda", "Ferris", "Gwill", "Hesper",
    "Idris", "Junia", "Kip", "Linnet", "Merrin", "Nye", "Orla", "Perran", "Quill", "Romy", "Sten",
    "Tamsin", "Ulla", "Vida", "Wren", "Xanthe", "Yara", "Zillah",
)  # fmt: skip
FAMILY = (
    "Tallis", "Marrable", "Windle", "Harrowgate", "Quillon", "Oster", "Sallow", "Pellan", "Corrow",
    "Tamblin", "Wray", "Strake", "Orrin", "Cadder", "Fairlie", "Larkham", "Penhale", "Rusk",
    "Skerry", "Thole", "Udall", "Varrow", "Wherry", "Yarrick", "Brine", "Capstan", "Dunnock",
    "Eddow", "Fathom", "Gannet", "Hawser", "Inglow", "Jessamy", "Keelan", "Loom", "Mizzen",
    "Norrell", "Oakum", "Plover", "Quayle-Orr", "Rudderly", "Sandlow", "Tiller", "Umberly",
    "Vannock", "Withy", "Yewdale", "Zennor-Lee", "Ablett-Crane", "O'Ferran",
)  # fmt: skip


def school_names(count: int) -> list[str]:
    """The eleven, or as many more as a large district needs.

    >>> school_names(2), len(set(school_names(400)))
    (['Fernhollow', 'Skarra Point'], 400)
    """
    names = list(SCHOOLS)[:count]
    pairs = ((first, last) for last in LAST_PARTS for first in FIRST_PARTS)
    for first, last in pairs:
        if len(names) >= count:
            break
        names.append(first + last)
    number = 2
    while len(names) < count:
        more = [f"{first}{last} {number}" for last in LAST_PARTS for first in FIRST_PARTS]
        names += more[: count - len(names)]
        number += 1
    return names
