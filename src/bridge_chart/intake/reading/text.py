"""Delimited text: any usual encoding, any usual delimiter, lines as the file has them."""

from __future__ import annotations

import csv
import io
import unicodedata
from collections import Counter

import numpy as np
import polars as pl
from numpy.typing import NDArray

from bridge_chart.intake.reading.sheet import KEPT, MOST_COLUMNS, Grid, How, Remark, trimmed
from bridge_chart.terms.errors import InvalidQuestion, UnreadableFile

DELIMITERS = {",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars"}
ENCODINGS = {
    "utf-8-sig": "UTF-8",
    "utf-16": "UTF-16",
    "cp1252": "Windows-1252",
    "cp1250": "Windows-1250 (central Europe)",
    "cp1251": "Windows-1251 (Cyrillic)",
    "cp1253": "Windows-1253 (Greek)",
    "cp1254": "Windows-1254 (Turkish)",
    "mac_roman": "Mac Roman",
    "cp437": "DOS 437",
    "latin-1": "Latin-1",
}
GUESSED = ("cp1252", "mac_roman", "cp437")
SAMPLE_LINES = 200
csv.field_size_limit(1 << 20)


def read_text(name: str, data: bytes, encoding: str, delimiter: str) -> Grid:
    """Every line of a delimited text. `encoding`, `delimiter`: what a person said, else blank."""
    text, used, guessed = decoded(name, data, encoding)
    rows = _sample(name, text)
    mark = delimiter or _delimiter(rows)
    split = [row for row in _split(name, rows, mark) if any(cell.strip() for cell in row)]
    width = max((len(row) for row in split), default=1)
    if width > MOST_COLUMNS:
        raise UnreadableFile(
            f"{name} has {width} columns; the most that can be read is {MOST_COLUMNS}.", kept=KEPT
        )
    cells, lines = _cells(name, text, mark, width)
    remarks: tuple[Remark, ...] = ()
    if guessed:
        remarks = (
            Remark(
                "encoding", "done", f"Read as {ENCODINGS[used]}",
                "The file does not say how its letters are written. Look at names with accents", (),
                ((used, ENCODINGS[used]), *((k, w) for k, w in ENCODINGS.items() if k != used)),
            ),
        )  # fmt: skip
    how = How("text", encoding=ENCODINGS[used], delimiter=DELIMITERS[mark])
    return Grid(cells, lines, how, remarks, tuple(len(row) for row in split))


def decoded(name: str, data: bytes, wanted: str) -> tuple[str, str, bool]:
    """The text, its encoding, and whether that is a guess."""
    if wanted and wanted not in ENCODINGS:
        raise InvalidQuestion(
            f"“{wanted}” is no encoding that is known here.",
            next_step=f"Known ones are {', '.join(ENCODINGS)}.",
        )
    tried = [wanted] if wanted else _candidates(data)
    for encoding in tried:
        try:
            text = data.decode(encoding)
        except UnicodeError:
            continue
        if "\0" in text:
            break
        plain = text.replace("\r\n", "\n").replace("\r", "\n")
        return plain, _known(encoding), not wanted and encoding in (*GUESSED, "latin-1")
    if wanted:
        raise UnreadableFile(
            f"{name} cannot be read as {ENCODINGS.get(wanted, wanted)}.",
            kept=KEPT,
            next_step="Choose another encoding, or export the file in UTF-8.",
        )
    raise UnreadableFile(
        f"{name} is not a text file.",
        kept=KEPT,
        next_step="Export it as CSV in UTF-8, or as a workbook, and bring in that file.",
    )


def _known(encoding: str) -> str:
    return "utf-16" if encoding.startswith("utf-16") else encoding


def _candidates(data: bytes) -> list[str]:
    """Encodings to try, the likeliest first."""
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return ["utf-16"]
    head = data[:2000]
    if len(head) > 3 and head[1::2].count(0) > len(head) // 3:
        return ["utf-16-le"]
    if len(head) > 3 and head[0::2].count(0) > len(head) // 3:
        return ["utf-16-be"]
    likely = sorted(GUESSED, key=lambda encoding: -_letters(data, encoding))
    return ["utf-8-sig", *likely, "latin-1"]


def _letters(data: bytes, encoding: str) -> int:
    """How many of the bytes beyond ASCII would be letters of a word, less those that would not."""
    odd = [at for at, byte in enumerate(data[:200_000]) if byte > 127][:2000]
    score = 0
    for at in odd:
        char = data[at : at + 1].decode(encoding, errors="replace")
        before = data[at - 1 : at].isalpha() if at else False
        after = data[at + 1 : at + 2].isalpha()
        letter = unicodedata.category(char).startswith("L")
        # A capital inside a word is less likely than a small letter.
        fits = letter and (before or after) and not (before and char.isupper())
        score += 1 if fits else -1
    return score


def _sample(name: str, text: str) -> str:
    """The first lines, as far as the delimiter is looked for."""
    end = 0
    for _ in range(SAMPLE_LINES):
        found = text.find("\n", end)
        if found < 0:
            return text
        end = found + 1
    return text[:end]


def _split(name: str, text: str, delimiter: str) -> list[list[str]]:
    try:
        return list(csv.reader(io.StringIO(text), delimiter=delimiter))
    except csv.Error as error:
        raise UnreadableFile(f"{name} cannot be read as a table: {error}.", kept=KEPT) from error


def _delimiter(text: str) -> str:
    """The one that splits most lines into the same number of cells (more than one)."""

    def fit(delimiter: str) -> tuple[float, int]:
        try:
            widths = [len(row) for row in csv.reader(io.StringIO(text), delimiter=delimiter) if row]
        except csv.Error:
            return 0.0, 0
        wide = Counter(width for width in widths if width > 1)
        if not wide:
            return 0.0, 0
        width, lines = max(wide.items(), key=lambda item: (item[1], item[0]))
        return lines / len(widths), width

    return max(DELIMITERS, key=fit)


def _cells(
    name: str, text: str, delimiter: str, width: int
) -> tuple[pl.DataFrame, NDArray[np.int64]]:
    names = [f"c{at}" for at in range(width)]
    body = text.rstrip("\n")
    if "\n\n" not in body and width > 1 and body[:1] != "\n":
        try:
            frame = pl.read_csv(
                body.encode(),
                separator=delimiter,
                has_header=False,
                new_columns=names,
                schema=dict.fromkeys(names, pl.String),
            )
        except pl.exceptions.PolarsError:
            frame = None
        if frame is not None and frame.height == body.count("\n") + 1:
            frame = trimmed(frame).with_row_index("line", 1)
            frame = frame.filter(pl.any_horizontal(pl.exclude("line") != ""))
            return frame.drop("line"), frame["line"].to_numpy().astype(np.int64)
    return _cells_slowly(name, text, delimiter, names)


def _cells_slowly(
    name: str, text: str, delimiter: str, names: list[str]
) -> tuple[pl.DataFrame, NDArray[np.int64]]:
    """Line breaks inside cells, blank or ragged lines: exact lines matter more than speed."""
    rows: list[list[str]] = []
    lines: list[int] = []
    reader = csv.reader(io.StringIO(text), delimiter=delimiter)
    before = 0
    try:
        for row in reader:
            start, before = before + 1, reader.line_num
            if not any(cell.strip() for cell in row):
                continue
            if any(cell.strip() for cell in row[len(names) :]):
                raise too_many_cells(name, start, len(names), len(row))
            rows.append((row + [""] * len(names))[: len(names)])
            lines.append(start)
    except csv.Error as error:
        raise UnreadableFile(f"{name}, line {reader.line_num}: {error}.", kept=KEPT) from error
    if text.count('"') % 2 and rows and any("\n" in cell for cell in rows[-1]):
        raise UnreadableFile(
            f"{name}, line {lines[-1]}: a quotation mark opens a cell and is never closed.",
            kept=KEPT,
            next_step="Close it, or remove it: everything below would be one cell.",
        )
    frame = pl.DataFrame(rows, schema=dict.fromkeys(names, pl.String), orient="row")
    return trimmed(frame), np.array(lines, np.int64)


def too_many_cells(name: str, line: int, width: int, found: int) -> UnreadableFile:
    """A line that is longer than the column names: its cells cannot be told apart."""
    return UnreadableFile(
        f"{name}, line {line}: there must be {width} cells. There are {found} instead.",
        kept=KEPT,
        next_step="Put quotation marks around cells that hold the delimiter, "
        "or remove the extra cells.",
    )
