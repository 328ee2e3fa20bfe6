"""How a row and the rest of its students are spread over classes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, Mask

DENSE = 20
"""Pairs of row and class for each student, up to which counting them all beats a sort."""


@dataclass(frozen=True)
class ClassWeights:
    """Pairs of row and class that occur: row, class, students and how many of these are members of
    what the row is held against (cells,); school of each class."""

    rows: int
    row: Integers
    place: Integers
    size: Floats
    inside: Floats
    school: Integers

    def per_row(self, values: Floats) -> Floats:
        """Sums of a figure of the cells, (rows,)."""
        return np.bincount(self.row, values, self.rows).astype(np.float64)

    def pairs(self) -> tuple[Integers, Integers, Integers]:
        """The pair of row and school of each cell; row and school of each pair."""
        wide = int(self.school.max(initial=0)) + 1
        key, place = np.unique(self.row * wide + self.school[self.place], return_inverse=True)
        return np.asarray(place, np.int64), key // wide, key % wide


def class_weights(
    classes: Codes, codes: Codes, rows: int, school_of_class: Integers, member: Mask | None = None
) -> ClassWeights:
    """How many students of each row sit in each class. classes, codes: (memberships,), −1 = in
    none; school_of_class: (classes,); member: (memberships,), none given: all are.

    >>> w = class_weights(np.array([0, 0, 1, -1]), np.array([0, 0, 0, 0]), 1, np.array([0, 0]))
    >>> w.place.tolist(), w.size.tolist()
    ([0, 1], [2.0, 1.0])
    """
    held = (np.asarray(classes) >= 0) & (np.asarray(codes) >= 0)
    wide = max(len(school_of_class), 1)
    pair = np.asarray(codes)[held].astype(np.int64) * wide + np.asarray(classes)[held]
    if rows * wide <= DENSE * max(len(pair), 1):  # counted in place; else only what occurs
        counts = np.bincount(pair, minlength=rows * wide)
        key = np.flatnonzero(counts)
        size = counts[key]
        inside = size if member is None else np.bincount(pair[member[held]],
                                                         minlength=rows * wide)[key]  # fmt: skip
    else:
        key, cell, size = np.unique(pair, return_inverse=True, return_counts=True)
        inside = size if member is None else np.bincount(cell, member[held], len(key))
    return ClassWeights(
        rows, key // wide, key % wide, size.astype(np.float64), np.asarray(inside, np.float64),
        np.asarray(school_of_class, np.int64),
    )  # fmt: skip


def spread_alone(weights: ClassWeights, n: Floats) -> Floats:
    """Σ w_c² of each row's mean over the classes that vary: those of a school in which the row has
    two or more. n: (rows,) students of the row.

    >>> w = class_weights(np.array([0, 0, 1, 2]), np.zeros(4, int), 1, np.array([0, 0, 1]))
    >>> spread_alone(w, np.array([4.0])).tolist()
    [0.3125]
    """
    pair, _, _ = weights.pairs()
    varies = np.bincount(pair)[pair] > 1 if len(pair) else np.empty(0, bool)
    with np.errstate(invalid="ignore", divide="ignore"):
        return weights.per_row(varies * weights.size**2) / n**2


def spread_against(weights: ClassWeights, n: Floats, members: Floats, rest_n: Floats) -> Floats:
    """Σ w_c² of each row's mean minus the mean of the rest of the members; a side's classes vary
    where it has two or more of a school. members: (classes,) how many of whom it is held
    against; rest_n: (rows,) those of them who are not in the row.

    >>> w = class_weights(np.array([0, 0]), np.zeros(2, int), 1, np.array([0, 0, 0]))
    >>> spread_against(w, np.array([2.0]), np.array([2.0, 2, 2]), np.array([4.0])).tolist()
    [0.5]
    """
    school = weights.school
    pair, pair_row, pair_school = weights.pairs()
    schools = int(school.max(initial=0)) + 1
    there = members > 0
    classes = np.bincount(school[there], minlength=schools)
    squares = np.bincount(school, members**2, schools)
    mine = members[weights.place]
    own = np.bincount(pair, minlength=len(pair_row)) > 1
    gone = np.bincount(pair, mine <= weights.inside, len(pair_row))
    rest = classes[pair_school] - gone > 1
    alone = classes > 1  # where no row of the pair stands in the way
    with np.errstate(invalid="ignore", divide="ignore"):
        untouched = float(np.sum(squares[alone])) - np.bincount(
            pair_row, (alone * squares)[pair_school], weights.rows
        )
        seen = np.bincount(pair, mine**2, len(pair_row))
        touched = np.bincount(pair_row, rest * (squares[pair_school] - seen), weights.rows)
        side = own[pair] * weights.size / n[weights.row]
        other = rest[pair] * (mine - weights.inside) / rest_n[weights.row]
        return (untouched + touched) / rest_n**2 + weights.per_row((side - other) ** 2)
