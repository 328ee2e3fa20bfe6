"""Feeds the readers of files with what a fuzzer makes of good ones; anything but an answer or an
error in our words is a finding. Run by hand, with atheris installed:

    python -m bench.fuzz.readers FOLDER -max_total_time=600

FOLDER holds the corpus; findings become tests in tests/intake/test_hostile_files.py.
"""

from __future__ import annotations

import io
import sys
from pathlib import Path

import atheris

with atheris.instrument_imports(include=["bridge_chart.intake.reading"]):
    from bridge_chart.intake.reading.archive import tables_in
    from bridge_chart.intake.reading.read import read_sheet

import polars as pl
import xlsxwriter

from bridge_chart.terms.errors import BridgeError

ROWS = [["Number", "Name", "Score"], ["00101", "Zoë Öberg", "12.5"], ["00102", "'=1+1", ""]]


def good_files() -> dict[str, bytes]:
    """What the fuzzer starts from: one of each kind."""
    text = "\r\n".join(",".join(row) for row in ROWS).encode()
    book = io.BytesIO()
    with xlsxwriter.Workbook(book) as made:
        sheet = made.add_worksheet()
        for at, row in enumerate(ROWS):
            sheet.write_row(at, 0, row)
    table = io.BytesIO()
    pl.DataFrame(ROWS[1:], schema=ROWS[0], orient="row").write_parquet(table)
    return {
        "a.csv": text, "b.tsv": text.replace(b",", b"\t"), "c.csv": text.decode().encode("utf-16"),
        "d.xlsx": book.getvalue(), "e.parquet": table.getvalue(),
    }  # fmt: skip


def try_it(data: bytes) -> None:
    """Open whatever this is, as a draft of it is made."""
    try:
        for name, held, _ in tables_in("file.csv", data, "results")[:3]:
            read_sheet(name, held)
    except BridgeError:
        return


def main() -> None:
    folder = Path(next(a for a in sys.argv[1:] if not a.startswith("-")))
    folder.mkdir(parents=True, exist_ok=True)
    for name, data in good_files().items():
        (folder / name).write_bytes(data)
    atheris.Setup(sys.argv, try_it)
    atheris.Fuzz()


if __name__ == "__main__":
    main()
