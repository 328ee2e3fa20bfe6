"""Rows that say different things of one and the same: settled by a rule, or one by one."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import polars as pl

from bridge_chart.intake.cells.findings import SET_ASIDE, Findings
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.finding import Choice, Double, DoubledRow
from bridge_chart.terms.wording import count

RULES = {
    "first": "Keep the first row",
    "last": "Keep the last row",
    "later": "Keep the later date",
    "higher": "Keep the higher score",
}
ASIDE = "set_aside"
MOST_LISTED = 100
"""Doubles that are listed to be settled one by one; all can be settled by rule."""


@dataclass(frozen=True)
class DoubledRows:
    """`frame`: the doubled rows with `index` and `line`; those that agree in `same` contradict each
    other. `name`: how a decision names a double; `says`: what a row says, as the file has it;
    `person`: whose they are. `best`: columns of scores, for the rule “higher”; `later`: whether
    dates can tell them apart."""

    frame: pl.DataFrame
    same: list[str]
    name: Callable[[int], str]
    says: Callable[[int], str]
    best: list[str] = field(default_factory=list)
    person: Callable[[int], str] = lambda _: ""

    @property
    def later(self) -> bool:
        """Whether in every double one row has the latest date alone."""
        if "date" not in self.frame.columns:
            return False
        latest = self.frame.filter(pl.col("date") == pl.col("date").max().over(self.same))
        return latest.height == self.frame.select(self.same).unique().height


def settle_doubles(
    key: str, thing: str, what: str, detail: str, rows: DoubledRows, found: Findings
) -> list[int]:
    """Note the doubles and return the indices of the rows that count for them; all others are for
    setting aside. A decision “<key>:<name of the double>” gives a line of the file, or set_aside,
    and goes before the rule."""
    frame = rows.frame
    if not frame.height:
        return []
    said = found.said_of(key)
    groups = frame.group_by(rows.same, maintain_order=True).agg("index", "line")
    indices, lines = groups["index"].to_list(), groups["line"].to_list()
    # Names are made for what is listed or was said; a large file may have very many doubles.
    named = {at: rows.name(indices[at][0]) for at in range(len(indices) if said else MOST_LISTED)
             if at < len(indices)}  # fmt: skip
    listed = [
        _double(named[at], indices[at], lines[at], said.get(named[at]), rows)
        for at in named
        if at < MOST_LISTED
    ]
    settled = {at: said[name] for at, name in named.items() if name in said}
    rules = [r for r in RULES if (r != "higher" or rows.best) and (r != "later" or rows.later)]
    choices = [*(Choice(key=r, label=RULES[r]) for r in rules), SET_ASIDE]
    default = None
    if len(settled) == len(indices):
        choices.append(Choice(key="each", label="As said one by one"))
        default = "each"
    title = f"{count(len(indices), thing)} {what}"
    chosen = found.add(
        key, "stop", title, detail, frame["index"].to_list(), choices, default,
        n=len(indices), doubles=listed,
    )  # fmt: skip
    kept = _by_rule(chosen, rows)
    for at, choice in settled.items():
        kept -= set(indices[at])
        if choice != ASIDE:
            kept.add(indices[at][lines[at].index(int(choice))])
    return sorted(kept)


def _double(
    name: str, indices: list[int], lines: list[int], chosen: str | None, rows: DoubledRows
) -> Double:
    known = [ASIDE, *map(str, lines)]
    if chosen is not None and chosen not in known:
        raise InvalidQuestion(
            f"“{chosen}” is no choice for “{name}”.",
            next_step=f"Choices are the lines {', '.join(map(str, lines))}, or set_aside.",
        )
    told = [
        DoubledRow(line=line, says=rows.says(index))
        for index, line in zip(indices, lines, strict=True)
    ]
    return Double(key=name, person=rows.person(indices[0]), rows=told, chosen=chosen)


def _by_rule(rule: str | None, rows: DoubledRows) -> set[int]:
    """Indices of the rows that a rule keeps; none where no rule is chosen."""
    frame = rows.frame
    if rule == "higher":
        frame = frame.sort(rows.best, descending=True, nulls_last=True, maintain_order=True)
    elif rule == "later":
        frame = frame.sort("date", descending=True, maintain_order=True)
    elif rule not in ("first", "last"):
        return set()
    keep = "last" if rule == "last" else "first"
    kept = frame.unique(rows.same, keep=keep, maintain_order=True)  # type: ignore[arg-type]
    return set(kept["index"].to_list())
