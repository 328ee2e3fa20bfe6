"""The large district: generated and brought in once, through the real intake."""

from __future__ import annotations

import statistics
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import sqlalchemy as sa

from bridge_chart.cli.bring_in import bring_in
from bridge_chart.cli.instance import make_instance, open_instance
from bridge_chart.demo.district import SEED
from bridge_chart.demo.files import generate
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.store.settings import Settings

ROSTERS = (("2023-24", "2023-09-04"), ("2024-25", "2024-09-04"), ("2025-26", "2025-09-04"))
SPRINGS = ("spring-2024.csv", "spring-2025.csv", "spring-2026.csv")


@dataclass(frozen=True)
class Bench:
    settings: Settings
    engine: sa.Engine
    files: Path


def say(text: str) -> None:
    sys.stderr.write(f"· {text}\n")


def ready(students: int) -> Bench:
    """The instance with the district in it."""
    make_instance()
    settings, engine = open_instance()
    files = settings.home / f"files-{students}"
    if not (files / "loaded").exists():
        say(f"generating {students:,} students")
        generate(files, students, SEED)
        for year, as_of in ROSTERS:
            said = IntakeSettings.model_validate({"academic_year": year, "as_of": as_of})
            say(f"roster {year}")
            file = files / f"roster-{year}.csv"
            bring_in(settings, engine, "roster", file.name, file.read_bytes(), said)
        for name in SPRINGS:
            say(name)
            data = (files / name).read_bytes()
            bring_in(settings, engine, "results", name, data, IntakeSettings())
        (files / "loaded").touch()
    return Bench(settings, engine, files)


def median_of(runs: int, call: Callable[[], object]) -> float:
    """Median seconds of some runs, after one to warm up."""
    call()
    taken = []
    for _ in range(runs):
        start = time.perf_counter()
        call()
        taken.append(time.perf_counter() - start)
    return statistics.median(taken)
