"""What keeping a results file would do, in counts: the match, what is new, a first look."""

from __future__ import annotations

import numpy as np
import polars as pl
from numpy.typing import NDArray

from bridge_chart.core.arrays import Floats
from bridge_chart.core.describing.describe import moments
from bridge_chart.intake.cells.findings import Findings
from bridge_chart.intake.examine.changes import AgainstKept
from bridge_chart.intake.examine.scores import Scores
from bridge_chart.intake.examine.sittings import SittingPlan
from bridge_chart.store.codes import STEPPED, UNITS
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.finding import Count, Creation, FirstLook, Picture
from bridge_chart.terms.wording import day
from bridge_chart.terms.words import spoken

BINS = 16
Positions = NDArray[np.int64]


def title_of(sittings: list[SittingPlan]) -> str:
    """The batch's title: its subjects and its sittings."""
    subjects = list(dict.fromkeys(s.subject or s.test for s in sittings))
    names = list(dict.fromkeys(s.name for s in sittings))
    return f"{' and '.join(subjects[:3])}, {' and '.join(names[:2])}"


def students_without(snapshot: Snapshot, sitting: SittingPlan, tested: Positions) -> int:
    """Students on roll at the sitting, in the schools and year levels of the file, without a
    row."""
    roll = snapshot.roll_at(sitting.date)
    if roll is None:
        return 0
    on_roll = roll.school >= 0
    levels = np.unique(roll.year_level[tested])
    schools = np.unique(roll.school[tested])
    has_row = np.zeros(snapshot.students, bool)
    has_row[tested] = True
    meant = np.isin(roll.year_level, levels) & np.isin(roll.school, schools)
    return int(np.count_nonzero(on_roll & meant & ~has_row))


class ResultReport:
    """Counts over the rows that would be kept."""

    def __init__(
        self,
        snapshot: Snapshot,
        sittings: list[SittingPlan],
        frame: pl.DataFrame,
        scores: Scores,
        found: Findings,
        undated: set[str],
    ) -> None:
        self.snapshot, self.sittings, self.frame = snapshot, sittings, frame
        self.undated = undated
        self.scores, self.found = scores, found
        self.against = AgainstKept(snapshot, sittings, frame, scores)
        self.without = sum(
            students_without(snapshot, sitting, self._students(place))
            for place, sitting in enumerate(sittings)
        )

    def _students(self, place: int) -> Positions:
        return self.frame.filter(pl.col("sitting") == place)["student"].to_numpy()

    def picture(self, rows: int, matched_rows: int, by_hand: int) -> Picture:
        repaired = self.found.count("zeros")
        doubled = matched_rows - self.frame.height
        expected = self.frame.height + self.without
        return Picture(
            left="Results expected from the roster",
            left_note="a student and a test each, of the file’s schools and "
            f"{spoken().year_levels}",
            left_total=expected,
            left_unmatched=self.without,
            right=title_of(self.sittings),
            right_note="results in the file",
            right_total=rows,
            right_unmatched=rows - matched_rows,
            matched=self.frame.height,
            by_number=max(self.frame.height - repaired - by_hand, 0),
            by_repair=min(repaired, self.frame.height),
            by_hand=min(by_hand, self.frame.height),
            doubled=doubled,
        )

    def counts(self) -> list[Count]:
        new, changed, same = self.against.rows()
        return [
            Count(key="new", label="New results", n=new),
            Count(key="changed", label="Changed results", n=changed),
            Count(key="same", label="Unchanged", n=same),
            Count(key="set_aside", label="Set aside, nothing lost", n=len(self.found.aside)),
            Count(key="without", label="On roll, without a row", n=self.without),
        ]

    def creates(self) -> list[Creation]:
        known = self.snapshot.measures
        tests = {m.assessment.name for m in known}
        subjects = {m.subject.name for m in known if m.subject}
        steps = {name for m in known for name in m.steps}
        made = {
            "tests": sorted({s.test for s in self.sittings} - tests),
            "subjects": sorted({s.subject for s in self.sittings if s.subject} - subjects),
            "sittings": [
                f"{s.test}: {s.label}{self._dated(s)}" for s in self.sittings if not s.known_id
            ],
            "levels": [n for names in self.scores.levels.values() for n in names if n not in steps],
        }
        return [Creation(kind=kind, names=names) for kind, names in made.items() if names]

    def _dated(self, sitting: SittingPlan) -> str:
        return "" if sitting.name in self.undated else f", {day(sitting.date)}"

    def first_look(self) -> list[FirstLook]:
        """Of each sitting its first score in figures, and its grades and levels."""
        figures = next((k for k in self.scores.values if k not in STEPPED), None)
        kinds = ([figures] if figures else []) + [k for k in self.scores.values if k in STEPPED]
        looks = []
        for place, sitting in enumerate(self.sittings):
            rows = self.frame.filter(pl.col("sitting") == place)
            for kind in kinds:
                label = f"{sitting.label}, {UNITS[kind]}"
                look = self._steps(label, kind, rows) if kind in STEPPED else None
                looks.append(look or _histogram(label, rows[kind]))
        return looks

    def _steps(self, label: str, kind: str, rows: pl.DataFrame) -> FirstLook:
        names = self.scores.levels[kind]
        place = rows[kind].drop_nulls().cast(pl.Int64).to_numpy() - 1
        counts = np.bincount(place, minlength=len(names)).tolist()
        missing = rows[kind].null_count()
        return FirstLook(label=label, n=len(place), missing=missing, steps=names, counts=counts)


def _histogram(label: str, values: pl.Series) -> FirstLook:
    held = values.drop_nulls().to_numpy().astype(np.float64)
    counts, edges = np.histogram(held, BINS if len(held) else 1)
    told = moments(held, np.zeros(len(held), np.int64), 1)

    def defined(figure: Floats) -> float | None:
        return None if np.isnan(figure[0]) else float(figure[0])

    return FirstLook(
        label=label,
        n=len(held),
        missing=values.null_count(),
        mean=defined(told.mean),
        low=defined(told.low),
        high=defined(told.high),
        sd=defined(told.sd),
        edges=edges.tolist(),
        counts=counts.tolist(),
    )
