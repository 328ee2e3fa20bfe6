"""The district's own words: what it calls a year level and each characteristic, and how it writes
numbers and dates.

Every sentence, label and heading of an answer or message is spoken in the words of this context.
They are put there once, where a request, a command or a piece of work begins; nothing in between
takes them along. Data (ids, keys, values, dates of bodies, cells of exports) never speaks them.
"""

from __future__ import annotations

import datetime as dt
from contextvars import ContextVar
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, StringConstraints

Word = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60)]
Numbers = Literal["1,234.5", "1.234,5", "1 234,5", "1 234.5", "1234.5", "1234,5"]
Dates = Literal["2026-03-02", "2 March 2026", "02/03/2026", "03/02/2026", "02.03.2026"]

NARROW_SPACE = "\N{NARROW NO-BREAK SPACE}"
_SIGNS: dict[str, tuple[str, str]] = {
    "1,234.5": (",", "."),
    "1.234,5": (".", ","),
    "1 234,5": (NARROW_SPACE, ","),
    "1 234.5": (NARROW_SPACE, "."),
    "1234.5": ("", "."),
    "1234,5": ("", ","),
}
MONTHS = (
    "January", "February", "March", "April", "May", "June", "July", "August", "September",
    "October", "November", "December",
)  # fmt: skip


class DistrictWords(BaseModel):
    """What a district calls things and how it writes. `year_level`: the word for one;
    `level_before`: what stands before its number; `level_names`: levels with a name of their own;
    `characteristics`: by their ids. Numbers and dates are said by an example: 2 March 2026.

    >>> own = DistrictWords(year_level="age group", level_before="S", level_names={0: "Nursery"})
    >>> own.level_name(0), own.level_name(8), own.some_year_level
    ('Nursery', 'S8', 'an age group')
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    year_level: Word = "year level"
    level_before: Annotated[str, StringConstraints(max_length=30)] = "Year "
    level_names: dict[int, Word] = {}
    characteristics: dict[int, Word] = {}
    numbers: Numbers = "1,234.5"
    dates: Dates = "2026-03-02"

    @property
    def year_levels(self) -> str:
        """The word for several.

        >>> DistrictWords(year_level="class").year_levels, DistrictWords().year_levels
        ('classes', 'year levels')
        """
        last = self.year_level
        if last.endswith(("s", "x", "ch", "sh")):
            return f"{last}es"
        return f"{last[:-1]}ies" if last[-1:] == "y" and last[-2:-1] not in "aeiou" else f"{last}s"

    @property
    def some_year_level(self) -> str:
        return f"{'an' if self.year_level[0].lower() in 'aeiou' else 'a'} {self.year_level}"

    def level_name(self, level: int) -> str:
        """One year level as people say it; −1 is none that is known."""
        if level < 0:
            return f"no {self.year_level}"
        return self.level_names.get(level, f"{self.level_before}{level}")

    def number(self, plain: str) -> str:
        """A number that was written with points between thousands as commas, in these signs.

        >>> DistrictWords(numbers="1.234,5").number("1,234.5")
        '1.234,5'
        """
        thousands, point = _SIGNS[self.numbers]
        return plain.translate({ord(","): thousands, ord("."): point})

    def day(self, date: dt.date) -> str:
        """A date.

        >>> DistrictWords(dates="2 March 2026").day(dt.date(2026, 3, 2))
        '2 March 2026'
        """
        if self.dates == "2 March 2026":
            return f"{date.day} {MONTHS[date.month - 1]} {date.year}"
        form = {"02/03/2026": "%d/%m/%Y", "03/02/2026": "%m/%d/%Y", "02.03.2026": "%d.%m.%Y"}
        return date.strftime(form.get(self.dates, "%Y-%m-%d"))


PLAIN = DistrictWords()
"""Our own words, where a district has not said its own."""
_spoken: ContextVar[DistrictWords] = ContextVar("words", default=PLAIN)


def speak(words: DistrictWords) -> None:
    """From here on this request, command or piece of work speaks these words."""
    _spoken.set(words)


def spoken() -> DistrictWords:
    """The words of this context."""
    return _spoken.get()
