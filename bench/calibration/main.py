"""Ask districts whose truth is known, and see what whole answers claim.

python -m bench.calibration.main --districts 100 [--only NAME] [--question PART] [--write]
"""

from __future__ import annotations

import argparse
import sys
from collections import defaultdict
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path

import numpy as np
from scipy import stats

from bench.calibration.asked import QUESTIONS
from bench.calibration.scored import Scored, claims, is_null, scored
from bench.calibration.truth import CORRELATION, MadeSnapshot, Truth, make
from bridge_chart.answers.asking.ask import answer_on, read_question
from bridge_chart.answers.asking.bind import bind
from bridge_chart.answers.kept.kept import forget_kept
from bridge_chart.core.trust.discoveries import discoveries
from bridge_chart.terms.errors import BridgeError

PAGE = Path(__file__).resolve().parents[2] / "docs" / "calibration.md"
FIRST_SCORE, LAST_SCORE = "20.scaled", "30.scaled"
PLANTED = (0.3, -0.3, 0.2, -0.2, 0.1, -0.1)
TRUTHS = (
    Truth("nothing differs"),
    Truth("intakes differ", intake_sd=0.4),
    Truth("nine year levels", year_levels=tuple(range(3, 12)), classes=(1, 2)),
    Truth("small groups", classes=(1, 1), size=10),
    Truth("few schools", schools=4),
    Truth("error in the start", intake_sd=0.4, reliability=0.88),
    Truth("classes differ", class_sd=0.15),
    Truth("a ceiling", ceiling=0.8),
    Truth("six grades", grades=True),
    Truth("effects", effects=PLANTED),
    Truth("effects, and classes differ", effects=PLANTED, class_sd=0.1),
    Truth("effects in many year levels", effects=PLANTED, class_sd=0.1,
          year_levels=tuple(range(3, 9)), classes=(1, 2)),
)  # fmt: skip


@dataclass
class Cell:
    """What answers of a kind came to in districts of a truth."""

    asked: int = 0
    claimed: int = 0
    scores: list[Scored] = field(default_factory=list)

    def add(self, other: Cell) -> None:
        self.asked += other.asked
        self.claimed += other.claimed
        self.scores += other.scores


Found = dict[str, Cell]
Powers = dict[float, list[int]]


def one_district(truth: Truth, only: str, seed: int) -> tuple[Found, Powers]:
    """Every question asked of one district; a question that is refused is not asked."""
    snapshot = make(truth, seed)
    forget_kept()
    found: Found = defaultdict(Cell)
    for name, asked in QUESTIONS.items():
        if only not in name:
            continue
        try:
            answer = answer_on(bind(read_question(asked.question), snapshot))
        except BridgeError:
            continue
        cell = Cell(1, int(claims(answer) > 0), [scored(snapshot, truth, asked, answer)])
        found[name].add(cell)
    return dict(found), textbook(snapshot, truth)


def textbook(snapshot: MadeSnapshot, truth: Truth) -> Powers:
    """Marks on schools by an analysis that is told every variance: residuals of a line for each
    year level, a school against the rest, normal, false discoveries controlled. Per size of effect
    how many were found, and of how many."""
    out: Powers = defaultdict(lambda: [0, 0])
    if not truth.effects:
        return dict(out)
    before, after = snapshot._values[FIRST_SCORE], snapshot._values[LAST_SCORE]
    roll = snapshot.rolls[-1]
    school, level, left = roll.school, roll.year_level, np.empty(len(after))
    for one in np.unique(level):
        mine = level == one
        slope, start = np.polyfit(before[mine], after[mine], 1)
        left[mine] = after[mine] - slope * before[mine] - start
    place = roll.members[np.argsort(roll.members[:, 0]), 1]
    within = 30.0**2 * (1 - CORRELATION**2)
    between = (30.0 * truth.class_sd) ** 2
    gaps, errors = [], []
    for one in range(truth.schools):
        w = np.where(school == one, 1 / np.sum(school == one), -1 / np.sum(school != one))
        gaps.append(float(w @ left))
        shares = np.bincount(place, w)
        errors.append(np.sqrt(within * np.sum(w**2) + between * np.sum(shares**2)))
    z = np.array(gaps) / np.array(errors)
    found = discoveries(2 * stats.norm.sf(np.abs(z)))
    for one, effect in enumerate(truth.effects):
        out[abs(effect)][0] += int(found[one] and gaps[one] * effect > 0)
        out[abs(effect)][1] += 1
    return dict(out)


def districts(
    truth: Truth, count: int, only: str = "", seed: int = 1, workers: int = 2
) -> tuple[Found, Powers]:
    """Many districts of a truth."""
    found: Found = defaultdict(Cell)
    powers: Powers = defaultdict(lambda: [0, 0])
    seeds = [100_003 * seed + n for n in range(count)]
    ask = partial(one_district, truth, only)
    with ProcessPoolExecutor(workers) as pool:
        for cells, power in pool.map(ask, seeds, chunksize=4):
            for name, cell in cells.items():
                found[name].add(cell)
            for size, (hits, of) in power.items():
                powers[size] = [powers[size][0] + hits, powers[size][1] + of]
    return dict(found), dict(powers)


def rate(hits: int, of: int) -> str:
    """A share in percent with its Monte Carlo error, never nought."""
    if not of:
        return ""
    p = (hits + 1) / (of + 2)
    return f"{100 * hits / of:.1f} ± {100 * np.sqrt(p * (1 - p) / of):.1f}"


def table(heads: Sequence[str], lines: Sequence[Sequence[str]]) -> str:
    """A table in Markdown."""
    rows = [heads, ["---"] * len(heads), *lines]
    return "\n".join("| " + " | ".join(row) + " |" for row in rows)


def claims_table(found: dict[str, Found]) -> str:
    """Any claim per answer, where nothing differs; a dash where something does."""
    truths = {t.name: t for t in TRUTHS if t.name in found}
    lines = []
    for name, asked in QUESTIONS.items():
        cells = []
        if not any(name in cells_of for cells_of in found.values()):
            continue
        for truth in truths.values():
            cell = found[truth.name].get(name, Cell())
            told = rate(cell.claimed, cell.asked) if cell.asked else "refused"
            cells.append(told if is_null(truth, asked) else f"({told})")
        lines.append([name, *cells])
    return table(["question", *truths], lines)


def coverage_table(found: dict[str, Found]) -> str:
    """Intervals that hold what they are of, in percent; the error takes districts as the unit."""
    names = [name for name in found if any(s.rows for c in found[name].values() for s in c.scores)]
    lines = []
    for name in QUESTIONS:
        cells = []
        for truth in names:
            scores = [s for s in found[truth].get(name, Cell()).scores if s.rows]
            share = np.array([s.covered / s.rows for s in scores])
            rows = sum(s.rows for s in scores)
            whole = sum(s.covered for s in scores) / rows if rows else 0
            error = share.std(ddof=1) / np.sqrt(len(share)) if len(share) > 1 else 0
            cells.append(f"{100 * whole:.1f} ± {100 * error:.1f}" if rows else "")
        if any(cells):
            lines.append([name, *cells])
    return table(["question", *names], lines)


def marks_table(found: dict[str, Found], powers: dict[str, Powers]) -> str:
    """Marks where effects are planted: how many are of no effect or of the other sign, and how
    many effects of each size were found, here and by the textbook."""
    sizes = sorted({abs(e) for e in PLANTED})
    lines = []
    for truth, cells in found.items():
        for name, cell in cells.items():
            marks = [(s.right, s.wrong, s.nought) for s in cell.scores]
            held = [m for m in marks if sum(m)]
            if not powers.get(truth) or not held:
                continue
            right, wrong, nought = np.sum(marks, axis=0).tolist()
            false = np.mean([(w + n) / (r + w + n) for r, w, n in held]) * len(held) / len(marks)
            told = []
            for size in sizes:
                both = [s.sizes.get(size, (0, 0)) for s in cell.scores]
                hits, of = sum(a for a, _ in both), sum(b for _, b in both)
                told.append(f"{100 * hits / of:.0f}" if of else "")
            total = right + wrong + nought
            lines.append([truth, name, f"{total}", f"{100 * false:.1f}",
                          f"{100 * wrong / total:.2f}", *told])  # fmt: skip
        if powers.get(truth):
            book = [powers[truth].get(size, [0, 0]) for size in sizes]
            found_by = [f"{100 * hits / of:.0f}" if of else "" for hits, of in book]
            lines.append([truth, "*schools, by the textbook*", "", "", "", *found_by])
    heads = ["truth", "question", "marks", "false, % an answer", "other sign, %"]
    return table([*heads, *(f"{size:g} sd found, %" for size in sizes)], lines)


def written(page: str, tables: dict[str, str], count: int) -> str:
    """The page with its tables made anew, each between its own two marks."""
    for name, text in tables.items():
        first, last = f"<!-- {name} -->", f"<!-- end of {name} -->"
        before, rest = page.split(first)
        after = rest.split(last)[1]
        said = f"Districts of each kind: {count}."
        page = f"{before}{first}\n{said}\n\n{text}\n{last}{after}"
    return page


def main(given: Sequence[str] | None = None) -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--districts", type=int, default=100)
    parser.add_argument("--only", help="the name of one truth")
    parser.add_argument("--question", default="", help="a part of a question's name")
    parser.add_argument("--write", action="store_true", help="into docs/calibration.md")
    told = parser.parse_args(given)
    found, powers = {}, {}
    for truth in TRUTHS:
        if told.only in (None, truth.name):
            sys.stderr.write(f"· {truth.name}\n")
            found[truth.name], powers[truth.name] = districts(truth, told.districts, told.question)
    tables = {
        "claims": claims_table(found), "coverage": coverage_table(found),
        "marks": marks_table(found, powers),
    }  # fmt: skip
    for text in tables.values():
        sys.stdout.write(f"{text}\n\n")
    if told.write:
        PAGE.write_text(written(PAGE.read_text(encoding="utf-8"), tables, told.districts), "utf-8")


if __name__ == "__main__":
    main()
