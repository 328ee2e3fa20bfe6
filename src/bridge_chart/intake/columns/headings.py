"""What a column's name says about its results: of which subject, test, sitting and kind of score.

“Reading spring 2026 scaled” and “Maths predicted grade” are names of columns of a wide sheet.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, field

import polars as pl

from bridge_chart.intake.said.settings import About
from bridge_chart.terms.grid import GridColumn, read_header

KINDS = {
    "score:scaled": r"scaled? ?scores?|scaled|standardi[sz]ed( scores?)?|ss",
    "score:percent": r"percent(age)?|per cent|pct|%",
    "score:level": r"(performance |achievement )?levels?|band",
    "score:grade": r"grades?",
    "score:raw": r"(raw( marks?| scores?)?|marks?|scores?|points|totals?)( ?(out of|/) ?\d+)?|"
    r"out of \d+|/ ?\d+",
}
CLAIMS = {"predicted": r"predicted|prediction|forecast", "target": r"targets?"}
TARGET_KINDS = (
    "floor", "personal", "minimum", "min", "aspirational", "stretch", "school", "teacher",
    "expected", "challenge", "upper", "lower", "high", "low", "own",
)  # fmt: skip
EMPTY = ("test", "final", "overall", "result", "results", "exam", "assessment", "attainment",
         "current", "actual", "the", "of", "in", "for", "end")  # fmt: skip
SEASON = (
    r"early|mid|late|autumn|winter|spring|summer|fall|jan(?:uary)?|feb(?:ruary)?|mar(?:ch)?|"
    r"apr(?:il)?|may|june?|july?|aug(?:ust)?|sept?(?:ember)?|oct(?:ober)?|nov(?:ember)?|"
    r"dec(?:ember)?|term ?\d|half ?term ?\d|mock ?\d?|week ?\d+"
)
YEAR = r"20\d\d(?:[-/]\d\d(?:\d\d)?)?"
SITTING = rf"\b(?:(?:{SEASON})(?: (?:{SEASON}))?(?: {YEAR})?|{YEAR}(?: (?:{SEASON}))?)\b"


@dataclass(frozen=True)
class Known:
    """Names in use, which a column's name may hold; `numbers`: student numbers without their
    leading zeros."""

    subjects: tuple[str, ...] = ()
    tests: tuple[str, ...] = ()
    sittings: tuple[str, ...] = ()
    schools: tuple[str, ...] = ()
    numbers: pl.Series = field(default_factory=lambda: pl.Series([], dtype=pl.String))


@dataclass(frozen=True)
class Heading:
    """What a name says. `role`: blank where it names no kind; `known`: its subject is in use, or
    it names none; `rest`: the words that were taken for the subject."""

    role: str
    about: About
    known: bool
    rest: str


def read_heading(header: str, known: Known) -> Heading:
    """Take a column's name apart.

    >>> told = read_heading("Maths, spring 2026 (scaled)", Known())
    >>> told.role, told.about.subject, told.about.sitting
    ('score:scaled', 'Maths', 'spring 2026')
    >>> read_heading("English floor target", Known(("English",))).role
    'target:floor'
    """
    own = read_header(header)
    if own is not None:
        return _of_grid(own)
    text = re.sub(r"[_–—:|·,;()\[\]]+|\s-\s", " ", header)
    text = re.sub(r"\s+", " ", text).strip()
    test, text = _take(text, known.tests, None)
    sitting, text = _take(text, known.sittings, SITTING)
    role, text = _role(text)
    if role == "target":
        kind, text = _take(text, TARGET_KINDS, None)
        role = f"target:{kind.lower()}" if kind else role
    words = [word for word in text.split() if word.lower() not in EMPTY]
    rest = " ".join(words)
    same = {name.casefold(): name for name in known.subjects}
    subject = same.get(rest.casefold(), rest)
    about = About(test=test, subject=subject, sitting=sitting)
    return Heading(role, about, not rest or rest.casefold() in same, rest)


def _of_grid(own: GridColumn) -> Heading:
    """A column of a grid that went out from here: its name says all of it."""
    about = About(test=own.test, subject=own.subject, sitting=own.sitting)
    return Heading(role_of(own), about, True, own.subject)


def role_of(own: GridColumn) -> str:
    """What a grid's column is, in the words of the intake."""
    if own.role == "predicted":
        return "predicted"
    if own.role == "target":
        return f"target:{own.kind}" if own.kind else "target"
    return f"score:{own.role}"


def _take(text: str, names: Iterable[str], pattern: str | None) -> tuple[str, str]:
    """A name that the text holds as whole words, and the text without it."""
    for name in sorted(names, key=len, reverse=True):
        found = re.search(rf"(?i)(?<!\w){re.escape(name)}(?!\w)", text)
        if name and found:
            return name, _without(text, found)
    found = re.search(f"(?i){pattern}", text) if pattern else None
    return (found[0], _without(text, found)) if found else ("", text)


def _without(text: str, found: re.Match[str]) -> str:
    return re.sub(r"\s+", " ", f"{text[: found.start()]} {text[found.end() :]}").strip()


def _role(text: str) -> tuple[str, str]:
    """The kind of score that stands at the end (or the beginning) of the text."""
    claimed = ""
    for role, words in CLAIMS.items():
        found = re.search(rf"(?i)\b(?:{words})\b", text)
        if found:
            claimed, text = role, _without(text, found)
    for role, words in KINDS.items():
        found = re.search(rf"(?i)(?:^|(?<=\s))(?:{words})$|^(?:{words})(?=\s)", text)
        if found:
            return claimed or role, _without(text, found)
    return claimed, text
