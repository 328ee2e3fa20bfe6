"""All that a multilevel fit needs of the students: cross-products, kept per group."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, check_codes, grouped

DEPENDS = 1e-9
"""A column whose part independent of those before it is below this share of its spread."""


@dataclass(frozen=True)
class CrossProducts:
    """Sums over students of [1, columns, outcome]; the columns centred and scaled to sd 1, the
    outcome centred. total: (k, k); sums: (classes, k); classes stand school by school.

    size: (classes,) students; class_code, school: (classes,) the caller's codes; first: where each
    school begins (None: two levels only). kept: columns that do not depend on others.
    """

    n: int
    missing: int
    total: Floats
    sums: Floats
    size: Floats
    class_code: Integers
    school: Integers | None
    first: Integers | None
    centre: Floats
    scale: Floats
    kept: Integers
    columns: int
    outcome_mean: float
    classes: int
    schools: int

    def without_columns(self) -> CrossProducts:
        """The same students with the intercept only: the null model."""
        ends = [0, len(self.total) - 1]
        return replace(
            self, total=self.total[np.ix_(ends, ends)], sums=np.asfortranarray(self.sums[:, ends]),
            centre=np.empty(0), scale=np.empty(0), kept=np.empty(0, np.int64), columns=0,
        )  # fmt: skip


def cross_products(
    outcome: Floats,
    columns: Floats,
    classes: Codes,
    class_count: int,
    school_of_class: Integers | None = None,
    offset: Floats | None = None,
) -> CrossProducts:
    """Sufficient statistics of students in classes (in schools, if `school_of_class` is given).

    One pass over the students; a fit afterwards costs classes × columns². outcome: (students,),
    columns: (students, p) without the intercept, classes: (students,) codes, −1 = none; a row with
    NaN anywhere or no class is left out. school_of_class: (class_count,) codes: classes must be
    nested. offset: (students,) an expected outcome from a table, taken off the outcome.
    Errors: ValueError on shapes, fewer than two students, or an outcome that does not vary.

    >>> c = cross_products(np.array([1., 2, 3]), np.empty((3, 0)), np.array([0, 0, 1]), 2)
    >>> c.size.tolist(), c.outcome_mean
    ([2.0, 1.0], 2.0)
    """
    y = np.asarray(outcome, np.float64)
    x = np.asarray(columns, np.float64)
    x = x[:, None] if x.ndim == 1 else x
    if len(x) != len(y):
        raise ValueError(f"columns must have {len(y)} rows; they have {len(x)} instead")
    check_codes(classes, len(y), class_count)
    if offset is not None:
        y = y - np.asarray(offset, np.float64)
    held = ~np.isnan(y) & (np.asarray(classes) >= 0)
    for j in range(x.shape[1]):
        held &= ~np.isnan(x[:, j])
    everyone = bool(held.all())
    y, x = (y, x) if everyone else (y[held], x[held])
    codes = classes if everyone else classes[held]
    n = len(y)
    if n < 2:
        raise ValueError(f"there must be at least two students with every value; there are {n}")
    centre = x.mean(axis=0)
    mean = float(y.mean())
    table = np.empty((x.shape[1] + 2, n))
    table[0] = 1.0
    for j in range(x.shape[1]):
        np.subtract(x[:, j], centre[j], out=table[j + 1])
    np.subtract(y, mean, out=table[-1])
    total = table @ table.T
    if not total[-1, -1] > n * (1e-10 * max(abs(mean), 1e-300)) ** 2:
        raise ValueError("the outcome must vary")
    by = grouped(codes, class_count)
    size = by.counts()
    sums = np.stack([size.astype(np.float64), *(by.sums(row) for row in table[1:])], axis=1)
    return _ordered(
        n, len(outcome) - n, total, sums, size, school_of_class, centre, mean, class_count
    )


def _ordered(
    n: int, missing: int, total: Floats, sums: Floats, size: Integers,
    school_of_class: Integers | None, centre: Floats, mean: float, class_count: int,
) -> CrossProducts:  # fmt: skip
    """Classes with students, school by school; columns scaled, dependent ones dropped."""
    present = np.flatnonzero(size)
    school = first = None
    schools = 0
    if school_of_class is not None:
        given = np.asarray(school_of_class, np.int64)
        if given.shape != (class_count,) or (len(present) and given[present].min() < 0):
            raise ValueError("school_of_class must give every class with students its school")
        present = present[np.argsort(given[present], kind="stable")]
        school = given[present]
        first = np.flatnonzero(np.diff(school, prepend=school[0] - 1))
        schools = int(given.max()) + 1
    kept = independent(total[1:-1, 1:-1], n * np.finfo(float).eps ** 2 * centre**2)
    scale = np.sqrt(np.diag(total)[1:-1][kept] / n)
    some = np.concatenate([[0], kept + 1, [len(total) - 1]])
    unit = np.concatenate([[1.0], scale, [1.0]])
    scaled = np.asfortranarray(sums[present][:, some] / unit)  # its transpose is contiguous
    return CrossProducts(
        n, missing, total[np.ix_(some, some)] / np.outer(unit, unit), scaled,
        size[present].astype(np.float64), present, school, first, centre[kept], scale, kept,
        len(centre), mean, class_count, schools,
    )  # fmt: skip


def independent(inner: Floats, noise: Floats) -> Integers:
    """Which columns do not depend on those before them, from their centred cross-products (p, p).

    noise: (p,) squares that rounding alone could leave. By sweeping one column after another.

    >>> independent(np.array([[1., 2, 0], [2, 4, 0], [0, 0, 1]]), np.zeros(3)).tolist()
    [0, 2]
    """
    left = np.array(inner, np.float64)
    start = np.diag(inner).copy()
    kept = []
    for j in range(len(left)):
        if left[j, j] > DEPENDS * start[j] and start[j] > 100 * noise[j]:
            kept.append(j)
            left = left - np.outer(left[:, j], left[j]) / left[j, j]
    return np.array(kept, np.int64)
