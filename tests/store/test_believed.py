"""A snapshot is believed only if it is what was written, of this very record."""

from __future__ import annotations

import subprocess
from pathlib import Path

import pytest
import sqlalchemy as sa
from tests.support import Place, roster

from bridge_chart.answers.asking.ask import forget_answers
from bridge_chart.answers.kept.kept import forget_kept
from bridge_chart.store import snapshot_build
from bridge_chart.store.cluster import binaries

QUIZ = {"what": [{"assessment": "Quiz"}], "show": "students"}


@pytest.fixture
def small(place: Place) -> Place:
    place.bring("roster", roster([("1", "Tarn", 8), ("2", "Tarn", 8)]), academic_year="2025-26")
    place.bring("results", "Number,Test,Score\n1,Quiz,5\n2,Quiz,7\n")
    return place


def scores(place: Place) -> list[float]:
    """The scores of the quiz as an asker sees them, nothing remembered in between."""
    forget_answers()
    forget_kept()
    columns = place.ask(QUIZ).body.columns
    return next(sorted(c.values) for c in columns if c.key == "score")


def mended(place: Place) -> object:
    return place.scalar("SELECT count(*) FROM audit WHERE action = 'mend_snapshot'")


def value_file(place: Place) -> Path:
    return next((place.settings.snapshots / "columns").glob("value-*.npy"))


def lost(path: Path) -> None:
    path.unlink()


def cut_short(path: Path) -> None:
    path.write_bytes(path.read_bytes()[:-5])


def emptied(path: Path) -> None:
    path.write_bytes(b"")


def half_zeroed(path: Path) -> None:
    data = path.read_bytes()
    path.write_bytes(data[: len(data) // 2] + bytes(len(data) - len(data) // 2))


def one_bit_changed(path: Path) -> None:
    data = bytearray(path.read_bytes())
    data[-2] ^= 1
    path.write_bytes(bytes(data))


HARMS = [lost, cut_short, emptied, half_zeroed, one_bit_changed]


def test_a_harmed_column_is_made_again_and_noted(small: Place) -> None:
    """While the program runs, and after it was started again."""
    assert scores(small) == [5.0, 7.0]
    noted = 0
    for harm in HARMS:
        for again in (False, True):
            harm(value_file(small))
            if again:
                snapshot_build._loaded.clear()
            assert scores(small) == [5.0, 7.0], (harm.__name__, again)
            noted += 1
            assert mended(small) == noted
            assert scores(small) == [5.0, 7.0]
            assert mended(small) == noted


def test_a_harmed_manifest_is_made_again_and_noted(small: Place) -> None:
    path = small.settings.snapshots / f"v{small.snapshot.version}.json"
    noted = 0
    for harm in HARMS:
        harm(path)
        snapshot_build._loaded.clear()
        assert scores(small) == [5.0, 7.0], harm.__name__
        noted += harm is not lost  # a pruned one is lost too
        assert mended(small) == noted


def test_a_harmed_column_is_not_carried_into_the_next_version(small: Place) -> None:
    half_zeroed(value_file(small))
    small.bring("results", "Number,Test,Score\n1,Other,3\n")
    assert scores(small) == [5.0, 7.0]


def test_a_record_restored_over_a_living_home_answers_for_itself(small: Place) -> None:
    """Numbers of versions and batches come again after a restore; what stood under them before
    is of another record."""
    url = sa.make_url(small.settings.owner)
    connection = ["--dbname", url.set(drivername="postgresql").render_as_string(False)]
    dump = small.settings.home / "dump"
    subprocess.run(
        [binaries() / "pg_dump", "--format=custom", f"--file={dump}", *connection], check=True
    )
    small.bring("results", "Number,Test,Score\n1,Quiz,50\n2,Quiz,70\n")
    assert scores(small) == [50.0, 70.0]
    assert small.ask(QUIZ).resolved.version == 3
    small.engine.dispose()
    subprocess.run(
        [binaries() / "pg_restore", "--clean", "--if-exists", *connection, dump], check=True
    )
    assert scores(small) == [5.0, 7.0]
    small.bring("results", "Number,Test,Score\n1,Quiz,51\n2,Quiz,71\n")
    assert small.ask(QUIZ).resolved.version == 3
    assert scores(small) == [51.0, 71.0]
    small.bring("roster", roster([("1", "Tarn", 8), ("3", "Moor", 8)]), academic_year="2026-27")
    assert [s.name for s in small.snapshot.schools] == ["Moor", "Tarn"]


def test_a_restored_record_numbers_its_students_anew(small: Place) -> None:
    """The same id with another number: kept columns of the same length are not taken for it."""
    assert small.snapshot.numbers.tolist() == ["1", "2"]
    with small.engine.begin() as connection:
        connection.execute(sa.text("UPDATE student SET number = '0' || number"))
        connection.execute(sa.text("UPDATE version SET identity = gen_random_uuid()"))
    assert small.snapshot.numbers.tolist() == ["01", "02"]
