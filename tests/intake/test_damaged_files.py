"""Every damaged file of the heap gives exactly what was written down for it."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from tests.intake.damaged import HEAP, NAMES, Damaged
from tests.support import Place, new_place

from bridge_chart.intake.examine.results import ResultsPlan
from bridge_chart.store.settings import Settings

ROSTER = "Number,Name,School,Year\n" + "".join(
    f"0010{n},{name},Netherby,8\n" for n, name in enumerate(NAMES, start=1)
)


@pytest.fixture(scope="module")
def netherby(cluster: Settings) -> Iterator[Place]:
    place = new_place(cluster)
    place.bring("roster", ROSTER, academic_year="2025-26")
    yield place
    place.engine.dispose()


@pytest.mark.parametrize("file", HEAP, ids=lambda file: file.id)
def test_it_merges_as_written_down(netherby: Place, file: Damaged) -> None:
    said = {"score": "raw", **file.said}
    plan = netherby.look("results", file.data, name=file.name, **said)
    assert isinstance(plan, ResultsPlan)
    numbers = netherby.snapshot.numbers
    kept = {
        str(numbers[student]): value
        for student, value in plan.rows.select("student", "raw").iter_rows()
    }
    assert kept == file.kept
    lines = plan.long.sheet.lines
    assert tuple(sorted(int(lines[row]) for row in plan.aside)) == file.aside
    assert plan.examination.rows_copies == file.copies
    assert plan.examination.rows_kept == len(file.kept)
    assert set(file.found) <= {finding.key for finding in plan.examination.findings}


def test_the_heap_is_a_heap() -> None:
    assert len(HEAP) >= 25
    assert len({file.id for file in HEAP}) == len(HEAP)
