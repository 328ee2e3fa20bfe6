"""Ask districts without a true effect, and count what is claimed.

python -m bench.calibration.main --districts 100
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bench.calibration.asked import QUESTIONS, claims
from bench.calibration.truth import Truth, make
from bridge_chart.answers.asking.ask import answer_on, read_question
from bridge_chart.answers.asking.bind import bind
from bridge_chart.answers.kept.kept import forget_kept
from bridge_chart.terms.errors import BridgeError

NULLS = (
    Truth("nothing differs"),
    Truth("intakes differ", intake_sd=0.4),
    Truth("nine year levels", year_levels=tuple(range(3, 12)), classes=(1, 2)),
    Truth("small groups", classes=(1, 1), size=10),
    Truth("few schools", schools=4),
    Truth("error in the start", intake_sd=0.4, reliability=0.88),
    Truth("classes differ, schools do not", class_sd=0.15),
)
"""Districts in which no school, group or year differs. In the last classes do: what is said of
classes there is no false claim."""


@dataclass(frozen=True)
class Rate:
    """Answers of a kind and how many of them claimed something."""

    asked: int
    claimed: int

    @property
    def share(self) -> float:
        return self.claimed / self.asked if self.asked else float("nan")

    @property
    def error(self) -> float:
        """Monte Carlo standard error, never nought."""
        p = (self.claimed + 1) / (self.asked + 2)
        return float(np.sqrt(p * (1 - p) / max(self.asked, 1)))


def rates(truth: Truth, districts: int, seed: int = 1) -> dict[str, Rate]:
    """The any-claim rate of each kind of question; a question that is refused is not asked."""
    asked = dict.fromkeys(QUESTIONS, 0)
    claimed = dict.fromkeys(QUESTIONS, 0)
    for n in range(districts):
        snapshot = make(truth, 100_003 * seed + n)
        forget_kept()
        for name, question in QUESTIONS.items():
            try:
                answer = answer_on(bind(read_question(question), snapshot))
            except BridgeError:
                continue
            asked[name] += 1
            claimed[name] += claims(answer) > 0
    return {name: Rate(asked[name], claimed[name]) for name in QUESTIONS}


def report(found: dict[str, dict[str, Rate]]) -> str:
    """A table in Markdown: kinds down, truths across, in percent with the error beside it."""
    truths = list(found)
    lines = ["| question | " + " | ".join(truths) + " |", "|---" * (len(truths) + 1) + "|"]
    for name in QUESTIONS:
        cells = []
        for truth in truths:
            rate = found[truth][name]
            cells.append(
                f"{100 * rate.share:.1f} ± {100 * rate.error:.1f}" if rate.asked else "refused"
            )
        lines.append(f"| {name} | " + " | ".join(cells) + " |")
    return "\n".join(lines)


def main(given: Sequence[str] | None = None) -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--districts", type=int, default=100)
    parser.add_argument("--only", help="the name of one truth")
    told = parser.parse_args(given)
    found = {}
    for truth in NULLS:
        if told.only in (None, truth.name):
            sys.stderr.write(f"· {truth.name}\n")
            found[truth.name] = rates(truth, told.districts)
    sys.stdout.write(report(found) + "\n")


if __name__ == "__main__":
    main()
