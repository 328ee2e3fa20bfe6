"""Numbers, dates and phrases as people read them: true minus, unit, no false digits, in the
district's own way of writing them."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence

from bridge_chart.terms.words import spoken

MINUS = "−"


def number(value: float, decimals: int = 1) -> str:
    """A figure with a true minus sign; never “−0”.

    >>> number(-4.06), number(-0.01), number(1234.5, 0)
    ('−4.1', '0.0', '1,234')
    """
    text = spoken().number(f"{abs(value):,.{decimals}f}")
    zero = not any(digit in text for digit in "123456789")
    return text if value >= 0 or zero else MINUS + text


def amount(n: int) -> str:
    """A whole number.

    >>> amount(1164)
    '1,164'
    """
    return number(n, 0)


def plain(value: float) -> str:
    """A number as somebody said it: no more digits than it has.

    >>> plain(0.5), plain(412.0)
    ('0.5', '412')
    """
    return spoken().number(f"{value:g}").replace("-", MINUS)


def day(date: dt.date | str) -> str:
    """A date; text is one in ISO.

    >>> day("2026-03-02")
    '2026-03-02'
    """
    return spoken().day(dt.date.fromisoformat(date) if isinstance(date, str) else date)


def signed(value: float, decimals: int = 1) -> str:
    """With its sign, also where positive.

    >>> signed(3.4), signed(-2), signed(0.0)
    ('+3.4', '−2.0', '+0.0')
    """
    text = number(value, decimals)
    return text if text.startswith(MINUS) else "+" + text


def interval(low: float, high: float, decimals: int = 1) -> str:
    """A range in words.

    >>> interval(-6.1, -2.1)
    '−6.1 to −2.1'
    """
    return f"{number(low, decimals)} to {number(high, decimals)}"


def listed(names: Sequence[str], most: int = 4) -> str:
    """Names as a phrase.

    >>> listed(["Brackwater"]), listed(["A", "B", "C"]), listed(list("ABCDEF"), 3)
    ('Brackwater', 'A, B and C', 'A, B, C and 3 more')
    """
    if len(names) > most:
        return f"{', '.join(names[:most])} and {len(names) - most} more"
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)


def count(n: int, thing: str) -> str:
    """A count with its noun in the right number.

    >>> count(1, "student"), count(1164, "student"), count(2, "class")
    ('1 student', '1,164 students', '2 classes')
    """
    return f"{amount(n)} {thing if n == 1 else plural(thing)}"


def plural(thing: str) -> str:
    """A noun in the plural.

    >>> plural("school"), plural("class")
    ('schools', 'classes')
    """
    return f"{thing}es" if thing.endswith("s") else f"{thing}s"


def capitalised(text: str) -> str:
    """A phrase as it begins a line; no other letter of it changes.

    >>> capitalised("year level"), capitalised("SEN stage")
    ('Year level', 'SEN stage')
    """
    return text[:1].upper() + text[1:]


def agree(n: int, verb: str) -> str:
    """The verb in the right number.

    >>> agree(1, "match"), agree(2, "match")
    ('matches', 'match')
    """
    ending = "es" if verb.endswith(("ch", "s")) else "s"
    return verb + ending if n == 1 else verb


def share_of_sd(effect: float) -> str:
    """A difference in standard deviations, in words.

    >>> share_of_sd(-0.31), share_of_sd(0.04)
    ('about 0.3 of a standard deviation', 'less than a tenth of a standard deviation')
    """
    if abs(effect) < 0.1:
        return "less than a tenth of a standard deviation"
    return f"about {number(abs(effect))} of a standard deviation"
