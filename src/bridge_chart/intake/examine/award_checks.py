"""Whether the rows of an award table can be meant, and how they read as sentences."""

from __future__ import annotations

import polars as pl

from bridge_chart.intake.cells import findings as f
from bridge_chart.terms.award_rule import of_same_award, read_rules, troubles
from bridge_chart.terms.wording import count


def check_awards(frame: pl.DataFrame, found: f.Findings) -> None:
    """An award of which a row cannot be meant stops as a whole; the others are read back."""
    rows = frame.to_dicts()
    wrong = troubles(rows)
    unread = [n for n, row in enumerate(rows) if row["index"] in found.aside]
    left_out = of_same_award(rows, [*wrong, *unread])
    why = dict.fromkeys(f"“{rows[n]['condition']}” {why}" for n, why in wrong.items())
    found.must_set_aside(
        "award_unclear", f"{count(len(left_out), 'row')} of awards that cannot be meant",
        f"{'; '.join(why) or 'A row of it cannot be read'}. An award without one of its rows would "
        "be another, so all its rows stay out", [rows[n]["index"] for n in left_out],
    )  # fmt: skip
    years = frame["school_year"] if "school_year" in frame.columns else frame["award"].head(0)
    odd = frame.head(len(years)).filter((years != "") & ~years.str.contains(r"^\d{4}-\d{2}$"))
    found.must_set_aside(
        "bad_school_year", f"{count(odd.height, 'row')} with a school year that cannot be read",
        "One is written like 2025-26", odd["index"].to_list(),
    )  # fmt: skip
    for rule in read_rules([row for row in rows if row["index"] not in found.aside]):
        key = f"award_read:{rule.name}{rule.since}"
        found.add(key, "done", f"{rule.name}, as it is read", " ".join(rule.says), [])
