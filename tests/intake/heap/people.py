"""The students of the heap, and the ways in which files are written."""

from __future__ import annotations

import csv
import datetime as dt
import io

from tests.intake.heap.walk import Line
from tests.support import Place

PUPILS = [
    ("00101", "Ida", "Öster", "2013-09-03", "Ash", "7A", "F"),
    ("00102", "Bo", "Lind-Åkers", "2013-10-14", "Ash", "7A", "M"),
    ("00103", "Cyd", "O'Hara", "2014-01-05", "Ash", "7B", "F"),
    ("00104", "Dag", "Wójcik", "2014-02-28", "Ash", "7B", "M"),
    ("00105", "Eva", "Brück", "2013-11-30", "Elm Hill", "7A", "F"),
    ("00106", "Finn", "Dahl", "2013-12-12", "Elm Hill", "7A", "M"),
    ("00107", "Gry", "van der Berg", "2014-03-17", "Elm Hill", "7C", "F"),
    ("00108", "Hal", "Mac Aoidh", "2014-08-30", "Elm Hill", "7C", "M"),
]
"""Number, given name, family name, born, school, class, sex; all of year level 7."""
NUMBERS = [p[0] for p in PUPILS]
BORN = {p[0]: dt.date.fromisoformat(p[3]) for p in PUPILS}
BASE = "\n".join(
    ["Number,Given name,Family name,Birth date,School,Year level,Class,Sex"]
    + [f"{n},{g},{f},{b},{s},7,{c},{x}" for n, g, f, b, s, c, x in PUPILS]
)


def base(place: Place) -> None:
    """The roster that results of the heap are matched with."""
    place.bring("roster", BASE, "base.csv", academic_year="2025-26")


def text(
    lines: list[Line], sep: str = ",", encoding: str = "utf-8", end: str = "\r\n",
    quoting: int = csv.QUOTE_MINIMAL,
) -> bytes:  # fmt: skip
    out = io.StringIO()
    writer = csv.writer(out, delimiter=sep, lineterminator=end, quoting=quoting)  # type: ignore[arg-type]
    writer.writerows(lines)
    return out.getvalue().encode(encoding)


def zeros(cell: str) -> str:
    """A number that a spreadsheet robbed of its noughts."""
    return cell.split(".")[0].zfill(5)


def comma(cell: str) -> float:
    return float(cell.replace(".", "").replace(",", "."))
