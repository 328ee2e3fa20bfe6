"""What the district says of movement: which move earns what, and how exact the survey is."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import polars as pl

from bridge_chart.demo.district import (
    CUTS_IN_SD,
    LEVELS,
    OLDEST,
    SD,
    SLOPE,
    YOUNGEST,
    expected_mean,
)

RULE = "Movement credit 2026"
HELD = {"Secure": 0.5, "Strong": 1.0, "Exceptional": 1.0}
"""What holding a level earns; below it must be risen from."""
BANDS = ("Amber", "Coral", "Heather", "Indigo", "Jade", "Pearl", "Slate", "Umber")
"""Book bands, each from 30 points on; the first at 200."""
RELIABILITY = {"Mathematics": 0.92, "Reading": 0.9}


def write_movement(out: Path) -> dict[str, Any]:
    """The rule, and the reliability of the scores."""
    rows = [
        {"Rule": RULE, "Test": "Spring survey", "Before": before, "After": after,
         "Credit": HELD.get(after, 0.0) if a == b else float(a > b)}
        for b, before in enumerate(LEVELS) for a, after in enumerate(LEVELS)
    ]  # fmt: skip
    pl.DataFrame(rows).write_csv(out / "movement-credit.csv")
    exact = [
        {"Test": "Spring survey", "Subject": subject, "Score": "scaled", "Reliability": one}
        for subject, one in RELIABILITY.items()
    ]
    pl.DataFrame(exact).write_csv(out / "survey-reliability.csv")
    growth, bands = _growth(), _bands()
    pl.DataFrame(growth).write_csv(out / "survey-growth.csv")
    pl.DataFrame(bands).write_csv(out / "reading-bands.csv")
    return {
        "survey-growth.csv": {"kind": "expectation", "rows": len(growth)},
        "reading-bands.csv": {"kind": "conversion", "rows": len(bands)},
        "movement-credit.csv": {"kind": "movement", "rows": len(rows)},
        "survey-reliability.csv": {"kind": "reliability", "rows": len(exact)},
    }


def _growth() -> list[dict[str, Any]]:
    """What a start is expected to grow to in a year, and the growth that leads to Secure in two."""
    rows = []
    for subject in RELIABILITY:
        for level in range(YOUNGEST + 1, OLDEST + 1):
            before, now = (float(expected_mean(np.array(n))) for n in (level - 1, level))
            secure = float(expected_mean(np.array(level + 1))) + SD * CUTS_IN_SD[1]
            for start in range(140, 520, 20):
                expected = now + SLOPE * (start - before)
                ambitious = max(expected + 5.0, start + (secure - start) / 2)
                rows.append({
                    "Test": "Spring survey", "Subject": subject, "Score": "scaled",
                    "Year level": level, "Start": start, "Expected": round(expected, 1),
                    "Ambitious": round(ambitious, 1), "Published": "2025-11-01",
                })  # fmt: skip
    return rows


def _bands() -> list[dict[str, Any]]:
    return [
        {"Test": "Spring survey", "Subject": "Reading", "Score": "scaled",
         "Value": 200 + 30 * n, "Onto": "Book band", "Becomes": band}
        for n, band in enumerate(BANDS)
    ]  # fmt: skip
