"""A gap in means taken apart: the part that goes with what the groups bring, and the rest."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Mask
from bridge_chart.core.distributions import normal_quantile
from bridge_chart.core.gaps.kitagawa import Step

Reference = Literal["pooled_with_group", "a", "b", "pooled_without_group"]


@dataclass(frozen=True)
class Block:
    """One factor: numbers (students,) or (students, k), or category codes (students,).

    needs_both: students in a category that holds one group only are set apart (schools).
    """

    name: str
    values: Floats | None = None
    codes: Codes | None = None
    needs_both: bool = False


@dataclass(frozen=True)
class BlinderOaxaca:
    """gap = Σ steps, exactly: one per block, then unexplained, then (if any) no counterpart.

    n_a, n_b: students used; missing: left out for a missing value; alone: set apart because their
    category holds one group only (they are in the gap and in the step "no counterpart").
    """

    gap: Step
    explained: Step
    steps: list[Step]
    reference: Reference
    n_a: int
    n_b: int
    missing: int
    alone: int


def blinder_oaxaca(
    outcome: Floats,
    in_a: Mask,
    blocks: Sequence[Block],
    reference: Reference = "pooled_with_group",
    *,
    clusters: Codes | None = None,
    confidence: float = 0.95,
) -> BlinderOaxaca:
    """Mean of A − mean of B (everyone with in_a False), taken apart (Blinder 1973, Oaxaca 1973).

    Explained by a block: (x̄_A − x̄_B)'β over its columns; the rest is one step, unexplained.
    β from both groups with a dummy for the group (Jann 2008; the default), from A, from B, or
    from both without the dummy (Neumark 1988). A factor's sum does not depend on its base
    category, since categories enter in full and least squares takes the shortest solution.
    Errors by the delta method on each student's influence, group means counted as random, so they
    hold under unequal spread; summed within `clusters` where given. Steps add up to the gap.

    outcome: (students,) NaN = missing; a missing block value leaves the student out.
    Errors: ValueError on shapes, an empty group, an unknown reference, or fewer students than
    columns. "Explained" is arithmetic, never cause.

    >>> x = np.array([2., 4, 6, 0, 2, 4]); y = np.array([5., 9, 13, 1, 3, 5])
    >>> a = np.repeat([True, False], 3); block = [Block("start", x)]
    >>> [round(blinder_oaxaca(y, a, block, r).explained.value, 5)
    ...  for r in ("a", "b", "pooled_with_group", "pooled_without_group")]
    [4.0, 2.0, 3.0, 3.81818]
    """
    y, in_a = np.asarray(outcome, np.float64), np.asarray(in_a, bool)
    if in_a.shape != y.shape:
        raise ValueError("outcome and in_a must have one shape")
    if not blocks:
        raise ValueError("there must be at least one block")
    known = ~np.isnan(y)
    for block in blocks:
        known &= _known(block, len(y))
    kept = known & _shared(blocks, in_a, known)
    if not (kept & in_a).any() or not (kept & ~in_a).any():
        raise ValueError("both groups must have students with every value (in shared categories)")
    x, columns = _columns(blocks, kept)
    used = in_a[kept]
    beta, moved = _coefficients(y[kept], x, used, reference)
    parts = _influences(y[kept], x, used, beta, moved, columns)
    apart = x[used].mean(axis=0) - x[~used].mean(axis=0)
    values = [float(apart[c] @ beta[c]) for c in columns]
    return _assembled(y, in_a, known, kept, values, parts, blocks, reference, clusters, confidence)


def _known(block: Block, length: int) -> Mask:
    given = block.codes if block.codes is not None else block.values
    if given is None or len(given) != length:
        raise ValueError(f"block {block.name} must have one value or code per student")
    if block.codes is not None:
        return np.asarray(block.codes >= 0)
    held = ~np.isnan(np.asarray(block.values, np.float64))
    return np.asarray(held if held.ndim == 1 else held.all(axis=1))


def _shared(blocks: Sequence[Block], in_a: Mask, known: Mask) -> Mask:
    """Students whose categories, in every block that needs it, hold both groups; repeated until
    setting some apart leaves no other category with one group."""
    kept = known.copy()
    while True:
        before = int(kept.sum())
        for block in blocks:
            if block.needs_both and block.codes is not None and kept.any():
                size = int(block.codes.max()) + 2
                both = np.bincount(block.codes[kept & in_a], minlength=size) > 0
                both &= np.bincount(block.codes[kept & ~in_a], minlength=size) > 0
                kept &= both[block.codes]
        if int(kept.sum()) == before:
            return kept


def _columns(blocks: Sequence[Block], kept: Mask) -> tuple[Floats, list[list[int]]]:
    """All columns centred on the students used, and which belong to which block."""
    stacked: list[Floats] = []
    columns: list[list[int]] = []
    for block in blocks:
        first = len(stacked)
        if block.codes is not None:
            codes = block.codes[kept]
            stacked += [(codes == code).astype(np.float64) for code in np.unique(codes)]
        else:
            table = np.asarray(block.values, np.float64)[kept]
            stacked += list(table.reshape(len(table), -1).T)
        columns.append(list(range(first, len(stacked))))
    x = np.stack(stacked, axis=1)
    return x - x.mean(axis=0), columns


def _coefficients(y: Floats, x: Floats, in_a: Mask, reference: Reference) -> tuple[Floats, Floats]:
    """Slopes, and each student's influence on them, (students, columns)."""
    n = len(y)
    ones = np.ones((n, 1))
    if reference == "pooled_with_group":
        design, rows = np.hstack([ones, in_a[:, None].astype(float), x]), np.ones(n, bool)
    elif reference == "pooled_without_group":
        design, rows = np.hstack([ones, x]), np.ones(n, bool)
    elif reference in ("a", "b"):
        design, rows = np.hstack([ones, x]), in_a if reference == "a" else ~in_a
    else:
        raise ValueError(f"reference must be one of {Reference.__args__}; it is {reference}")  # type: ignore[attr-defined]
    skip = design.shape[1] - x.shape[1]
    used = design[rows]
    inverse = np.linalg.pinv(used.T @ used, rcond=1e-12, hermitian=True)
    if len(used) <= int(np.linalg.matrix_rank(used)):
        raise ValueError(f"there must be more students than columns ({design.shape[1]})")
    beta = inverse @ (used.T @ y[rows])
    left = np.where(rows, y - design @ beta, 0.0)
    moved = (design * left[:, None]) @ inverse
    return beta[skip:], moved[:, skip:]


def _influences(
    y: Floats, x: Floats, in_a: Mask, beta: Floats, moved: Floats, columns: list[list[int]]
) -> Floats:
    """Each student's influence on every block's explained part and on the gap (last column)."""
    share = np.where(in_a, 1.0 / in_a.sum(), -1.0 / (~in_a).sum())
    middle = np.where(in_a[:, None], x[in_a].mean(axis=0), x[~in_a].mean(axis=0))
    difference = x[in_a].mean(axis=0) - x[~in_a].mean(axis=0)
    out = np.empty((len(y), len(columns) + 1))
    for k, c in enumerate(columns):
        out[:, k] = moved[:, c] @ difference[c] + share * ((x - middle)[:, c] @ beta[c])
    means = np.where(in_a, y[in_a].mean(), y[~in_a].mean())
    out[:, -1] = share * (y - means)
    return out


def _assembled(
    y: Floats, in_a: Mask, known: Mask, kept: Mask, values: list[float], parts: Floats,
    blocks: Sequence[Block], reference: Reference, clusters: Codes | None, confidence: float,
) -> BlinderOaxaca:  # fmt: skip
    """Names, values and intervals of all steps."""
    used = in_a[kept]
    within = float(y[kept][used].mean() - y[kept][~used].mean())
    gap = float(y[known & in_a].mean() - y[known & ~in_a].mean())
    # On everyone with every value: influences of those set apart are on the whole gap only.
    rows = np.flatnonzero(known)
    place = np.flatnonzero(kept[rows])
    table = np.zeros((len(rows), len(values) + 3))  # blocks, unexplained, no counterpart, gap
    table[place, : len(values)] = parts[:, :-1]
    table[place, -3] = parts[:, -1] - parts[:, :-1].sum(axis=1)
    share = np.where(in_a[rows], 1.0 / in_a[rows].sum(), -1.0 / (~in_a[rows]).sum())
    means = np.where(in_a[rows], y[known & in_a].mean(), y[known & ~in_a].mean())
    table[:, -1] = share * (y[rows] - means)
    table[:, -2] = table[:, -1]
    table[place, -2] -= parts[:, -1]
    explained = table[:, : len(values)].sum(axis=1)
    groups = None if clusters is None else clusters[rows]
    errors = _spread(np.column_stack([table, explained]), groups)
    reach = normal_quantile(0.5 + confidence / 2)

    def step(name: str, value: float, se: float) -> Step:
        return Step(name, value, se, value - reach * se, value + reach * se)

    steps = [step(b.name, v, float(e)) for b, v, e in zip(blocks, values, errors, strict=False)]
    steps.append(step("unexplained", within - sum(values), float(errors[-4])))
    alone = int(known.sum() - kept.sum())
    if alone:
        steps.append(step("no counterpart", gap - within, float(errors[-3])))
    return BlinderOaxaca(
        step("gap", gap, float(errors[-2])), step("explained", sum(values), float(errors[-1])),
        steps, reference, int(used.sum()), int((~used).sum()), int((~known).sum()), alone,
    )  # fmt: skip


def _spread(influences: Floats, clusters: Codes | None) -> Floats:
    """√Σ(influence)², summed within clusters first, times G/(G − 1)."""
    if clusters is None:
        sums, count = influences, len(influences)
    else:
        _, place = np.unique(clusters, return_inverse=True)
        count = int(place.max()) + 1
        sums = np.stack([np.bincount(place, column, count) for column in influences.T], axis=1)
    scale = count / (count - 1) if count > 1 else np.nan
    found: Floats = np.sqrt(scale * np.sum(sums**2, axis=0))
    return found
