"""What keeping a results file would do, in counts: the match, what is new, a first look."""

from __future__ import annotations

import numpy as np
import polars as pl
from numpy.typing import NDArray

from bridge_chart.intake.changes import AgainstKept
from bridge_chart.intake.findings import Findings
from bridge_chart.intake.scores import Scores
from bridge_chart.intake.sittings import SittingPlan
from bridge_chart.store.codes import STEPPED, UNITS
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.finding import Count, Creation, FirstLook, Picture

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
    ) -> None:
        self.snapshot, self.sittings, self.frame = snapshot, sittings, frame
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
            left_note="a student and a test each, of the file’s schools and year levels",
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
            "sittings": [f"{s.test}: {s.label}, {s.date}" for s in self.sittings if not s.known_id],
            "levels": [n for names in self.scores.levels.values() for n in names if n not in steps],
        }
        return [Creation(kind=kind, names=names) for kind, names in made.items() if names]

    def first_look(self) -> list[FirstLook]:
        """A histogram per sitting of its first numeric score, as it would be kept."""
        looks = []
        kind = next((k for k in self.scores.values if k not in STEPPED), None)
        for place, sitting in enumerate(self.sittings if kind else []):
            assert kind is not None
            values = self.frame.filter(pl.col("sitting") == place)[kind]
            held = values.drop_nulls().to_numpy()
            counts, edges = np.histogram(held, BINS if len(held) else 1)
            looks.append(
                FirstLook(
                    label=f"{sitting.label}, {UNITS[kind]}",
                    n=len(held),
                    missing=values.null_count(),
                    mean=float(held.mean()) if len(held) else None,
                    sd=float(held.std(ddof=1)) if len(held) > 1 else None,
                    edges=[float(edge) for edge in edges],
                    counts=[int(count) for count in counts],
                )
            )
        return looks
