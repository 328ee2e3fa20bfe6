"""National reference tables, and which of them is used."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np

from bridge_chart.core.arrays import Floats
from bridge_chart.core.estimate import NAN


@dataclass(frozen=True)
class ReferenceTable:
    """A nation's results on one form of one sitting, for one tested year level.

    scores rise strictly; percentile_ranks (0 … 100) do not fall, same length. n: students behind
    the table (NaN: not said, taken as the whole nation). level_shares: sum to 1, or empty.
    """

    name: str
    sitting: str
    form: str
    year_level: int
    published: date
    provisional: bool
    mean: float = NAN
    sd: float = NAN
    n: float = NAN
    scores: tuple[float, ...] = ()
    percentile_ranks: tuple[float, ...] = ()
    level_shares: tuple[float, ...] = ()

    def __post_init__(self) -> None:
        scores, ranks = np.array(self.scores), np.array(self.percentile_ranks)
        if scores.shape != ranks.shape:
            raise ValueError(f"table {self.name} must have one percentile rank per score")
        if np.any(np.diff(scores) <= 0) or np.any(np.diff(ranks) < 0):
            raise ValueError(f"table {self.name}: scores must rise, ranks must not fall")
        if len(ranks) and (ranks[0] < 0 or ranks[-1] > 100):
            raise ValueError(f"table {self.name}: percentile ranks must lie in 0 to 100")
        if self.level_shares and abs(sum(self.level_shares) - 1) > 0.02:
            raise ValueError(f"table {self.name}: level shares must add up to 1")
        if not np.isnan(self.sd) and self.sd <= 0:
            raise ValueError(f"table {self.name}: sd must be positive")


def newest_table(
    tables: Sequence[ReferenceTable],
    sitting: str,
    form: str,
    year_level: int,
    known_on: date | None = None,
) -> ReferenceTable | None:
    """The newest table published for this sitting, form and tested year level; None if there is
    none (never another form's or another year's). `known_on`: as it was known that day. Of two
    published on one day the final one goes before the provisional.

    >>> old = ReferenceTable("old", "spring", "A", 8, date(2026, 5, 1), True, 100, 15)
    >>> new = ReferenceTable("new", "spring", "A", 8, date(2026, 6, 1), False, 101, 15)
    >>> newest_table([old, new], "spring", "A", 8).name
    'new'
    >>> newest_table([old, new], "spring", "A", 8, date(2026, 5, 20)).name
    'old'
    """
    fitting = [
        table
        for table in tables
        if (table.sitting, table.form, table.year_level) == (sitting, form, year_level)
        and (known_on is None or table.published <= known_on)
    ]
    return max(fitting, key=lambda t: (t.published, not t.provisional), default=None)


def percentile_rank(scores: Floats, table: ReferenceTable) -> Floats:
    """National percentile rank of each score, linear between entries, kept in 1 to 99.

    Below the first entry the first rank, above the last the last; NaN stays NaN. Errors:
    ValueError where the table has no percentile ranks.

    >>> t = ReferenceTable("t", "s", "A", 8, date(2026, 1, 1), False, scores=(90., 100., 110.),
    ...                    percentile_ranks=(25., 50., 100.))
    >>> percentile_rank(np.array([80., 95, 110, np.nan]), t).tolist()
    [25.0, 37.5, 99.0, nan]
    """
    if not table.scores:
        raise ValueError(f"table {table.name} has no percentile ranks")
    scores = np.asarray(scores, np.float64)
    found = np.interp(scores, table.scores, table.percentile_ranks)
    return np.where(np.isnan(scores), np.nan, np.clip(found, 1.0, 99.0))


def z_scores(scores: Floats, table: ReferenceTable) -> Floats:
    """(x − μ)/σ of the table; NaN stays NaN. Errors: ValueError where it has no mean and sd.

    >>> t = ReferenceTable("t", "s", "A", 8, date(2026, 1, 1), False, mean=100, sd=15)
    >>> z_scores(np.array([85., 130]), t).tolist()
    [-1.0, 2.0]
    """
    if np.isnan(table.mean) or np.isnan(table.sd):
        raise ValueError(f"table {table.name} has no mean and sd")
    return (np.asarray(scores, np.float64) - table.mean) / table.sd
