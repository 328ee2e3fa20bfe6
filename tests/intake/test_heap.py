"""A heap of files in other people's habits: every cell of each is kept, set aside or left out as
was written down beside it before it was brought in."""

from __future__ import annotations

from dataclasses import replace

import pytest
from tests.intake.heap.more import MORE
from tests.intake.heap.people import base
from tests.intake.heap.results import RESULTS
from tests.intake.heap.rosters import ROSTERS
from tests.intake.heap.walk import LEFT_OUT, NUMBER, HeapFile, score, walk
from tests.support import Place

from bridge_chart.intake.drafts.drafts import parts_of

HEAP = [*ROSTERS, *RESULTS, *MORE]


@pytest.mark.parametrize("file", HEAP, ids=lambda file: file.name)
def test_every_cell_has_the_fate_that_was_said(place: Place, file: HeapFile) -> None:
    if file.before is not None:
        file.before(place)
    said = {"academic_year": "2025-26", **file.said} if file.kind == "roster" else file.said
    ((name, data, came),) = parts_of(file.kind, file.name, file.data)
    plan = place.bring(file.kind, data, name, **{**came, **said})
    seen = walk(file, place, plan)
    assert seen == sum(1 for line in file.lines for cell in line if cell.strip())
    if file.holds is not None:
        file.holds(place, plan)


def test_there_are_forty_of_them_and_more() -> None:
    assert len({file.name for file in HEAP}) >= 40


def test_the_walk_finds_a_cell_that_is_not_what_was_said(place: Place) -> None:
    file = RESULTS[0]
    base(place)
    plan = place.bring(file.kind, file.data, file.name, **file.said)
    wrong = replace(file, columns=[NUMBER, score("scaled", "autumn", read=lambda c: 1.0)])
    with pytest.raises(AssertionError, match="line 2, cell 2"):
        walk(wrong, place, plan)
    lost = replace(file, columns=[NUMBER, LEFT_OUT])
    with pytest.raises(AssertionError, match="is not among what is left out"):
        walk(lost, place, plan)
    aside = replace(file, rows={1: "names", 2: "aside"})
    with pytest.raises(AssertionError, match="not set aside"):
        walk(aside, place, plan)
