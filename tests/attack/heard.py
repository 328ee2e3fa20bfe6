"""What an attacker hears: every text, number and pair of n and mean that answers say."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import sqlalchemy as sa
from tests.attack.planted import Planted
from tests.support import Place

from bridge_chart.terms.errors import BridgeError
from bridge_chart.terms.people import Actor

NEAR = 1e-7
"""Scores have nine decimals; nothing else comes as near to one but by working it out."""


@dataclass
class Heard:
    """Everything that answers said; `cells`: what they said of the district beside own rows."""

    cells: set[tuple[int, float]] = field(default_factory=set)
    texts: list[str] = field(default_factory=list)
    numbers: set[float] = field(default_factory=set)
    pairs: set[tuple[int, float]] = field(default_factory=set)
    answered: int = 0
    refused: int = 0
    published: int = 0

    lines: dict[int, tuple[float, ...]] = field(default_factory=dict)
    """By version, what is expected of each own student: any two give the line."""

    def take(self, value: Any) -> None:
        if isinstance(value, dict):
            n = value.get("n")
            for key in ("mean", "value", "span", "yardstick", "focus_value"):
                figure, count = value.get(key), value.get("focus_n" if "focus" in key else "n")
                if isinstance(figure, float) and isinstance(count, int) and n is not None:
                    self.pairs.add((count, figure))
                    if value.get("key") == "district" and key == "mean":
                        self.cells.add((count, figure))
            for item in value.values():
                self.take(item)
        elif isinstance(value, list):
            for item in value:
                self.take(item)
        elif isinstance(value, float | int) and not isinstance(value, bool):
            self.numbers.add(float(value))
        elif isinstance(value, str):
            self.texts.append(value)


def ask(place: Place, lead: Actor, question: dict[str, Any], heard: Heard) -> None:
    """One question, and the refusals too: what they say is heard as well."""
    try:
        answer = place.ask(question, lead)
    except BridgeError as error:
        heard.refused += 1
        heard.take(error.as_json())
        return
    heard.answered += 1
    said = answer.model_dump(mode="json", by_alias=True)
    said.pop("question")  # what the attacker wrote is no news
    heard.take(said)


def foreign_ids(secrets: Planted) -> dict[str, int]:
    """What an attacker may have guessed or overheard: the ids of students elsewhere."""
    with secrets.place.engine.connect() as connection:
        rows = connection.execute(sa.text("SELECT number, id FROM student"))
        ids = {row.number: row.id for row in rows}
    return {s.number: ids[s.number] for s in secrets.students}
