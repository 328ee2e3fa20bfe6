"""Lines of a body that several shows write in the same way."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any


def columns_of(items: Sequence[Any], columns: Sequence[str]) -> list[list[Any]]:
    """A line for each item, its attributes in the order of the columns."""
    return [[getattr(item, column) for column in columns] for item in items]


def figure(value: Any, *, sign: bool = False) -> str:
    """A value for a terminal: one decimal, a true minus; nothing where there is none."""
    if value is None:
        return ""
    if isinstance(value, float):
        return (f"{value:+.1f}" if sign else f"{value:.1f}").replace("-", "−")
    return str(value)


def percent(value: float | None) -> str:
    """A share for a terminal."""
    return "" if value is None else f"{100 * value:.0f}%"


SYMBOLS = {
    "ahead": "▲", "behind": "▼", "alike": "●", "unclear": "○", "few": "◇", "none": " ", "": " ",
}  # fmt: skip
