"""Contrasts of students by the definition: a weight for each student, a full covariance matrix."""

from __future__ import annotations

import numpy as np


def varying(students, classes, school_of_class):
    """Those of a side's students whose class varies: its school has two of the side's classes."""
    out = np.zeros(len(classes), bool)
    for i in students:
        if classes[i] >= 0:
            school = school_of_class[classes[i]]
            mine = {classes[j] for j in students
                    if classes[j] >= 0 and school_of_class[classes[j]] == school}  # fmt: skip
            out[i] = len(mine) > 1
    return out


def variance(sides, classes, school_of_class, within, between):
    """sides: (sign, students, variance of a student); every side weighs its students alike."""
    n = len(classes)
    students, shared = np.zeros(n), np.zeros(n)
    total = 0.0
    for sign, members, own in sides:
        weight = np.zeros(n)
        weight[members] = sign / len(members)
        students += weight
        shared += weight * varying(members, classes, school_of_class)
        total += float(np.sum(weight**2)) * (own if own is not None else within)
    same = (classes[:, None] == classes[None, :]) & (classes >= 0)[:, None]
    return total + between * float(shared @ same @ shared), float(shared @ same @ shared)
