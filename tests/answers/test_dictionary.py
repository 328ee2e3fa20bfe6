"""The dictionary of an answer's CSV names every column of the file, with the type of its cells."""

from __future__ import annotations

import csv
import datetime as dt
import io
import json
from typing import Any

import pytest
from tests.answers import islands
from tests.cli.warm import command
from tests.support import Place

from bridge_chart.answers.asking.answer import lines_of
from bridge_chart.output.csv import to_csv
from bridge_chart.output.dictionary import dictionary_of

QUIZ = {"assessment": "Quiz", "subject": "Maths"}
READS: dict[str, Any] = {
    "integer": int, "double": float, "date": dt.date.fromisoformat, "string": str,
}  # fmt: skip


@pytest.mark.parametrize(
    "asked",
    [{"split": [{"field": "school"}], "against": {"prior": {}}},
     {"show": "students", "columns": ["notes", {"measure": QUIZ}]}, {"show": "over_time"}],
    ids=["spans", "list", "over time"],
)  # fmt: skip
def test_every_cell_reads_as_its_column_says(place: Place, asked: dict[str, Any]) -> None:
    islands.fill(place)
    heads, lines = lines_of(place.ask({"what": [QUIZ], **asked}))
    told = dictionary_of("a.csv", "How?", heads, lines)
    columns = told["tableSchema"]["columns"]
    rows = list(csv.DictReader(io.StringIO(to_csv(heads, lines))))
    assert [column["titles"] for column in columns] == list(rows[0])
    assert len({column["name"] for column in columns}) == len(columns)
    for column in columns:
        for row in rows:
            if row[column["titles"]]:
                READS[column["datatype"]](row[column["titles"]])


def test_the_command_line_writes_it_beside_the_file(place: Place) -> None:
    islands.fill(place)
    home = place.settings.home
    (home / "q.json").write_text(json.dumps({"what": [QUIZ], "split": [{"field": "school"}]}))
    command(home, "ask", str(home / "q.json"), "--format", "csv", "--out", str(home / "a.csv"))
    told = json.loads((home / "a.csv-metadata.json").read_text(encoding="utf-8"))
    assert told["url"] == "a.csv"
    by = {one["titles"]: one for one in told["tableSchema"]["columns"]}
    assert by["n"]["datatype"] == "integer"
    assert by["low"]["dc:description"].startswith("Lower end")
