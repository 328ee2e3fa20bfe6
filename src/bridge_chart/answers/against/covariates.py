"""Covariates of an expectation: characteristics that the asker wants allowed for."""

from __future__ import annotations

import numpy as np

from bridge_chart.core.arrays import Codes, Floats
from bridge_chart.store.snapshot import MeasureKey, Snapshot


def values_of(snapshot: Snapshot, covariates: tuple[int, ...], key: MeasureKey) -> Codes:
    """(students, covariates) the value of each as of the sitting, from 1; 0: not known, which is a
    value like any other, so that nobody is lost for it."""
    roll = snapshot.roll_at(key.date)
    out = np.zeros((snapshot.students, len(covariates)), np.int32)
    if roll is not None:
        for n, one in enumerate(covariates):
            out[:, n] = np.asarray(roll.characteristic(one, snapshot.students), np.int32) + 1
    return out


def as_columns(values: Codes) -> Floats:
    """(students, columns) one column for each value but the commonest of each covariate."""
    columns = [np.empty((len(values), 0))]
    for one in values.T:
        there, counts = np.unique(one, return_counts=True)
        others = np.delete(there, int(counts.argmax()))
        columns.append((one[:, None] == others[None, :]).astype(np.float64))
    return np.hstack(columns)
