"""Keeping and undoing: all or nothing, in any order, by several people at once."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
import time

import numpy as np
import pytest
from tests.support import TODAY, Place, roster

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.intake.drafts.drafts import save_source
from bridge_chart.intake.keep.keep import Origin, Plan, change_standing, keep
from bridge_chart.intake.reading.read import read_sheet
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.terms.errors import ChangedMeanwhile, NotFound, Unsettled

THREE = roster([("01", "Netherby", 8), ("02", "Netherby", 8), ("03", "Tarn", 9)])
RESULTS = "Number,Test,Sitting,Date,Score\n01,Quiz,June,2026-06-01,5\n02,Quiz,June,2026-06-01,6\n"


def values(place: Place) -> list[float]:
    found = place.snapshot.values(place.snapshot.measures[0])
    return [float(v) for v in found if not np.isnan(v)]


def undo(place: Place, batch: int, event: str = "undone") -> None:
    change_standing(place.engine, place.settings, OPERATOR, batch, event)


def test_later_results_win_and_undo_brings_the_earlier_back(place: Place) -> None:
    place.bring("roster", THREE, academic_year="2025-26")
    place.bring("results", RESULTS)
    second = place.bring("results", RESULTS.replace(",5\n", ",9\n"))
    assert {c.key: c.n for c in second.examination.counts}["changed"] == 1
    assert {c.key: c.n for c in second.examination.counts}["same"] == 1
    assert values(place) == [9.0, 6.0]
    undo(place, 3)
    assert values(place) == [5.0, 6.0]
    undo(place, 3, "kept")
    undo(place, 2)
    assert values(place) == [9.0, 6.0]


def test_any_version_can_be_shown_again(place: Place) -> None:
    place.bring("roster", THREE, academic_year="2025-26")
    place.bring("results", RESULTS)
    place.bring("results", RESULTS.replace(",5\n", ",9\n"))
    question = {"what": [{"assessment": "Quiz"}], "version": 2}
    assert place.ask(question).body.rows[0].n == 2
    now, then = place.ask({**question, "version": None}), place.ask(question)
    assert (now.resolved.version, then.resolved.version) == (3, 2)
    with pytest.raises(NotFound, match="no version 99"):
        place.ask({**question, "version": 99})


def test_undoing_a_roster_takes_its_students_off_roll_and_keeps_the_results(place: Place) -> None:
    place.bring("roster", THREE, academic_year="2025-26")
    place.bring("results", RESULTS)
    undo(place, 1)
    assert place.snapshot.rolls == []
    assert not place.snapshot.listed.any()
    undo(place, 1, "kept")
    assert values(place) == [5.0, 6.0]
    with pytest.raises(ChangedMeanwhile, match="kept already"):
        undo(place, 1, "kept")
    with pytest.raises(NotFound):
        undo(place, 77)


def test_a_later_roster_moves_and_infers_leavers_only_where_it_covers(place: Place) -> None:
    place.bring("roster", THREE, academic_year="2025-26", as_of="2025-09-01")
    later = roster([("01", "Netherby", 8), ("04", "Netherby", 8)])
    plan = place.bring("roster", later, academic_year="2025-26", as_of="2026-01-10")
    assert {c.key: c.n for c in plan.examination.counts} == {
        "students": 2, "new": 1, "moved": 0, "changed": 0, "gone": 1, "set_aside": 0,
    }  # fmt: skip
    roll = place.snapshot.roll_at(TODAY)
    assert roll is not None
    names = [s.name for s in place.snapshot.schools]
    placed = {
        str(number): names[at] if at >= 0 else None
        for number, at in zip(place.snapshot.numbers, roll.school, strict=True)
    }
    assert placed == {"01": "Netherby", "02": None, "03": "Tarn", "04": "Netherby"}
    undo(place, 2)
    roll = place.snapshot.roll_at(TODAY)
    assert roll is not None
    assert int((roll.school >= 0).sum()) == 3


def test_a_student_in_two_classes_is_one_student(place: Place) -> None:
    text = "Number,School,Class,Teacher\n01,Tarn,8A,P. Q\n01,Tarn,8M,R. S\n02,Tarn,8A,P. Q\n"
    plan = place.bring("roster", text, academic_year="2025-26")
    assert plan.examination.rows_kept == 3
    assert len(place.snapshot.rolls[0].members) == 3
    place.bring("results", "Number,Test,Score\n01,Quiz,5\n02,Quiz,6\n")
    rows = place.ask({"what": [{"assessment": "Quiz"}], "split": [{"field": "class"}]}).body.rows
    assert all(row.overlap for row in rows)


def _plan(place: Place, text: str) -> tuple[Plan, int]:
    plan = place.look("results", text)
    return plan, save_source(place.engine, "file.csv", text.encode())


def _keep(place: Place, text: str, plan: Plan, source: int) -> None:
    sheet = read_sheet("file.csv", text.encode())
    keep(place.engine, place.settings, OPERATOR, plan, sheet, IntakeSettings(), Origin(source),
         token=plan.examination.token, today=TODAY)  # fmt: skip


def test_two_people_keeping_at_once_both_get_what_they_saw_or_are_told(place: Place) -> None:
    place.bring("roster", THREE, academic_year="2025-26")
    other = RESULTS.replace("Quiz", "Essay")
    same, source = _plan(place, RESULTS)
    apart, apart_source = _plan(place, other)
    again, again_source = _plan(place, RESULTS)
    outcomes: list[str] = []

    def run(text: str, plan: Plan, source_id: int) -> None:
        try:
            _keep(place, text, plan, source_id)
            outcomes.append("kept")
        except ChangedMeanwhile:
            outcomes.append("told")

    threads = [
        threading.Thread(target=run, args=args)
        for args in ((RESULTS, same, source), (other, apart, apart_source),
                     (RESULTS, again, again_source))
    ]  # fmt: skip
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    # The same file twice: the second would change nothing that is new, and is told so.
    assert sorted(outcomes) == ["kept", "kept", "told"]
    assert place.scalar("SELECT count(*) FROM batch") == 3
    assert place.scalar("SELECT count(*) FROM result") == 4


def test_what_stops_is_never_kept(place: Place) -> None:
    place.bring("roster", THREE, academic_year="2025-26")
    text = RESULTS + "77,Quiz,June,2026-06-01,5\n"
    plan, source = _plan(place, text)
    with pytest.raises(Unsettled, match="matches no student"):
        _keep(place, text, plan, source)
    assert place.scalar("SELECT count(*) FROM batch") == 1


KILLED = """
import sys, os, signal
from pathlib import Path
import bridge_chart.intake.keep.keep as module
from bridge_chart.store.settings import load_settings
from bridge_chart.store.database import connect
from bridge_chart.cli.bring_in import bring_in
from bridge_chart.intake.said.settings import IntakeSettings
home = Path(sys.argv[1])
settings = load_settings(home)
def stop(*_):
    print("half-way", flush=True)
    signal.pause()
module.record_event = stop
more = home / "more.csv"
bring_in(settings, connect(settings), "results", more.name, more.read_bytes(), IntakeSettings())
"""


def test_a_kill_half_way_leaves_nothing(place: Place) -> None:
    place.bring("roster", THREE, academic_year="2025-26")
    (place.settings.home / "more.csv").write_text(RESULTS, encoding="utf-8")
    started = subprocess.Popen(
        [sys.executable, "-c", KILLED, str(place.settings.home)], stdout=subprocess.PIPE
    )
    assert started.stdout is not None
    assert started.stdout.readline() == b"half-way\n"
    os.kill(started.pid, signal.SIGKILL)
    started.wait()
    started.stdout.close()
    deadline = time.monotonic() + 20
    while place.scalar("SELECT count(*) FROM pg_locks WHERE locktype = 'advisory'"):
        assert time.monotonic() < deadline, "the lock of a dead process must go"
        time.sleep(0.05)
    for table in ("attempt", "result", "sitting", "assessment"):
        assert place.scalar(f"SELECT count(*) FROM {table}") == 0
    place.bring("results", RESULTS)
    assert values(place) == [5.0, 6.0]


def test_a_snapshot_rebuilt_from_the_record_is_the_same(place: Place) -> None:
    place.bring("roster", THREE, academic_year="2025-26")
    place.bring("results", RESULTS)
    before = (place.settings.snapshots / "v2.json").read_text()
    for path in place.settings.snapshots.rglob("*"):
        if path.is_file():
            path.unlink()
    assert place.snapshot.version == 2
    assert (place.settings.snapshots / "v2.json").read_text() == before


def test_a_number_can_be_traced_to_file_and_line(place: Place) -> None:
    place.bring("roster", THREE, academic_year="2025-26")
    place.bring("results", RESULTS, name="june.csv")
    found = place.scalar(
        "SELECT source.name || ':' || result.row || ':' || result.column FROM result "
        "JOIN batch ON batch.id = result.batch_id JOIN source ON source.id = batch.source_id "
        "WHERE value = 6"
    )
    assert found == "june.csv:3:4"
    students = place.ask({"show": "students", "what": [{"assessment": "Quiz"}]}).body.columns
    shown = {c.key: c.values for c in students}
    origins = dict(zip(shown["number"], shown["origin"], strict=True))
    # “03” is in a year level that did not sit: beside the population, not in the list.
    assert origins == {"01": "june.csv, line 2", "02": "june.csv, line 3"}
