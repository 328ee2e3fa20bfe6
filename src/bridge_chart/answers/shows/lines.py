"""Lines of a body that several shows write in the same way."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Protocol

from bridge_chart.terms.wording import number, signed


class Named(Protocol):
    """A row with a label, and the day of the release that it is of."""

    label: str
    as_of: str | None


def columns_of(items: Sequence[Any], columns: Sequence[str]) -> list[list[Any]]:
    """A line for each item, its attributes in the order of the columns."""
    return [[getattr(item, column) for column in columns] for item in items]


def name_of(row: Named) -> str:
    """A row's label, and of which release it is."""
    return row.label if row.as_of is None else f"{row.label}, released {row.as_of}"


def figure(value: Any, *, sign: bool = False) -> str:
    """A value for a terminal: one decimal, a true minus; nothing where there is none."""
    if value is None:
        return ""
    if isinstance(value, float):
        return signed(value) if sign else number(value)
    return str(value)


def percent(value: float | None) -> str:
    """A share for a terminal."""
    return "" if value is None else f"{100 * value:.0f}%"


SYMBOLS = {
    "ahead": "▲", "behind": "▼", "alike": "●", "unclear": "○", "few": "◇", "none": " ", "": " ",
}  # fmt: skip
