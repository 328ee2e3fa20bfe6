"""Reading which option each student chose: a column of letters for each question, and its key."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import polars as pl
from numpy.typing import NDArray

from bridge_chart.intake.cells.findings import Findings, some
from bridge_chart.store.reference_tables import QuestionInfo, same
from bridge_chart.terms.wording import count

NONE = -1
LETTER = r"^[A-Za-z]$"
MOST_OPTIONS = 2000
LONGEST = 20_000
"""Letters of what a student wrote that are kept."""


@dataclass(frozen=True)
class Chosen:
    """`choices`: (rows of the file, questions) int16 place in `options`, −1 = none; `keys`: the
    option that is right, by question, as the file says; `written`: question → its texts, a row
    each, blank where there is none."""

    choices: NDArray[np.int16]
    options: tuple[str, ...]
    keys: dict[str, str]
    written: dict[str, pl.Series]


def holds_letters(cells: pl.Series) -> bool:
    """Whether a column of answers holds options rather than marks."""
    filled = cells.filter(cells != "")
    return len(filled) > 0 and int(filled.str.contains(LETTER).sum()) > len(filled) / 2


def read_chosen(
    columns: Mapping[int, pl.Series], questions: tuple[str, ...], key_row: int | None
) -> Chosen:
    """columns: place of the question → its cells; the row that says the key is no student's."""
    height = max((len(cells) for cells in columns.values()), default=0)
    choices = np.full((height, len(questions)), NONE, np.int16)
    place: dict[str, int] = {}
    names: list[str] = []
    keys: dict[str, str] = {}
    for at, cells in columns.items():
        plain = cells.str.strip_chars()
        if key_row is not None and plain[key_row]:
            keys[questions[at]] = plain[key_row]
            plain = plain.set(pl.int_range(len(plain), eager=True) == key_row, "")
        for name in plain.unique(maintain_order=True).to_list():
            if name and same(name) not in place:
                place[same(name)] = len(names)
                names.append(name.upper() if len(name) == 1 else name)
        coded = plain.replace_strict(
            {name: place[same(name)] for name in plain.unique().to_list() if name},
            default=NONE, return_dtype=pl.Int16,
        )  # fmt: skip
        choices[:, at] = coded.to_numpy()
    return Chosen(choices, tuple(names), keys, {})


def marked(
    chosen: Chosen,
    questions: tuple[str, ...],
    known: Mapping[str, QuestionInfo],
    maxima: tuple[int | None, ...],
) -> NDArray[np.int16]:
    """(rows, questions) marks of what was chosen by the key that holds, −1 where none does; the
    file's own key stands over an earlier one."""
    out = np.full(chosen.choices.shape, -1, np.int16)
    for at, name in enumerate(questions):
        info = known.get(same(name)) or QuestionInfo(name)
        own = QuestionInfo(name, key=chosen.keys.get(name) or info.key)
        if not own.key:
            continue
        worth = int(maxima[at] or info.maximum or 1)
        won = np.array([worth * own.right(one) for one in chosen.options] or [0], np.int16)
        picked = chosen.choices[:, at]
        out[:, at] = np.where(picked >= 0, won[np.maximum(picked, 0)], -1)
    return out


def check_chosen(
    chosen: Chosen, questions: tuple[str, ...], known: Mapping[str, QuestionInfo], found: Findings
) -> None:
    """Says what letters cannot be read as they are: options that a question has not, questions that
    have no key."""
    if len(chosen.options) > MOST_OPTIONS:
        found.must_set_aside(
            "too_many_options", f"{count(len(chosen.options), 'different option')}",
            "These are no options but texts; say that the column is what they wrote",
            np.flatnonzero((chosen.choices >= 0).any(axis=1)).tolist(),
        )  # fmt: skip
        return
    odd: dict[int, str] = {}
    for at, name in enumerate(questions):
        info = known.get(same(name))
        has = {same(one) for one in info.options} if info else set()
        for code, option in enumerate(chosen.options):
            strange = same(option) not in has if has else not _plain(option)
            if strange:
                for row in np.flatnonzero(chosen.choices[:, at] == code).tolist():
                    odd.setdefault(row, f"{name}: {option}")
    if odd:
        found.add(
            "unknown_options", "ask", f"{count(len(odd), 'row')} with an option that is not known",
            f"{some(list(odd.values()))}: kept as written, and not right by the key",
            sorted(odd),
        )  # fmt: skip
    _check_keys(chosen, questions, known, found)


def _check_keys(
    chosen: Chosen, questions: tuple[str, ...], known: Mapping[str, QuestionInfo], found: Findings
) -> None:
    lettered = [name for at, name in enumerate(questions) if (chosen.choices[:, at] >= 0).any()]
    unkeyed = [
        name for name in lettered
        if name not in chosen.keys and not ((i := known.get(same(name))) and i.key)
    ]  # fmt: skip
    if unkeyed:
        found.add(
            "no_key", "ask", f"{count(len(unkeyed), 'question')} without a key",
            f"{some(unkeyed)}: what was chosen is kept, and counts once a key comes "
            "(a row called Key above the students, or the table of questions)", [], n=len(unkeyed),
        )  # fmt: skip
    held = {same(one) for one in chosen.options}
    for name, key in chosen.keys.items():
        if not any(same(one) in held for one in key.split("|")):
            found.add(
                f"key_of:{name}", "ask", f"Nobody chose the key of {name}",
                f"The key says {key}; is it the key of this form?", [],
            )  # fmt: skip


def _plain(option: str) -> bool:
    return len(option) == 1 and option.isalnum()


def shortened(cells: pl.Series, name: str, found: Findings) -> pl.Series:
    """What students wrote, no longer than is kept; who wrote more is told."""
    long = cells.str.len_chars() > LONGEST
    if long.any():
        found.add(
            f"long_text:{name}", "ask", f"{count(int(long.sum()), 'text')} on {name} cut",
            f"Longer than {LONGEST} letters; the rest is not kept", long.arg_true().to_list(),
        )  # fmt: skip
    return cells.str.slice(0, LONGEST)
