"""Slow, plain versions of what the core does in closed form: the definitions written out."""

from __future__ import annotations

import numpy as np


def cr2(values: np.ndarray, design: np.ndarray, clusters: np.ndarray, contrast: np.ndarray):
    """Estimate, CR2 standard error and Satterthwaite df of a contrast, by matrices.

    Bell & McCaffrey (2002) with the symmetric pseudo-inverse root; df after Pustejovsky &
    Tipton (2018) with an identity working matrix.
    """
    bread = np.linalg.inv(design.T @ design)
    hat = design @ bread @ design.T
    residual = values - hat @ values
    rest = np.eye(len(values)) - hat
    weight = bread @ contrast
    variance, spans = 0.0, []
    for cluster in np.unique(clusters):
        rows = np.flatnonzero(clusters == cluster)
        eigen, vectors = np.linalg.eigh(np.eye(len(rows)) - hat[np.ix_(rows, rows)])
        root = np.where(eigen > 1e-10, 1.0 / np.sqrt(np.maximum(eigen, 1e-300)), 0.0)
        adjust = vectors @ np.diag(root) @ vectors.T
        score = adjust @ design[rows] @ weight
        variance += float(score @ residual[rows]) ** 2
        spans.append(rest[rows].T @ score)
    gram = np.array([[float(a @ b) for b in spans] for a in spans])
    df = np.trace(gram) ** 2 / np.sum(gram**2)
    return float(contrast @ bread @ design.T @ values), float(np.sqrt(variance)), float(df)
