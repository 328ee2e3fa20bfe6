"""Multilevel fits and conditional quantiles against general libraries."""

from __future__ import annotations

import shutil
import subprocess
import tempfile
import warnings
from collections.abc import Callable
from pathlib import Path
from time import perf_counter

import numpy as np
from scipy.interpolate import BSpline
from statsmodels.regression.mixed_linear_model import MixedLM

from bridge_chart.core.growth.interior_point import interior_point
from bridge_chart.core.growth.quantiles import quantile_fits
from bridge_chart.core.value_added.cross_products import cross_products
from bridge_chart.core.value_added.multilevel import Multilevel, multilevel, multilevel_from

Row = tuple[str, float, str]
STUDENTS, CLASSES, SCHOOLS = 200_000, 8_000, 400
TAUS = np.arange(0.005, 1, 0.01)

LME4 = """
suppressMessages(library(lme4))
d <- as.data.frame(matrix(readBin("{file}", "double", {n} * 10), ncol = 10))
names(d) <- c("y", paste0("x", 1:7), "class", "school")
for (random in c("(1|class)", "(1|school) + (1|class)")) {{
  f <- as.formula(paste("y ~ x1 + x2 + x3 + x4 + x5 + x6 + x7 +", random))
  t <- system.time(m <- lmer(f, d, REML = TRUE))[["elapsed"]]
  cat(sprintf("%.4f %.9f\\n", t, REMLcrit(m)))
}}
"""
FNB = """
suppressMessages(library(quantreg))
d <- matrix(readBin("{file}", "double", {n} * 9), ncol = 9)
t <- system.time(for (u in c(.105, .305, .505, .705, .905)) rq.fit.fnb(d[, -1], d[, 1], tau = u))
cat(sprintf("%.4f\\n", t[["elapsed"]] * 20))
"""


def _median(work: Callable[[], object], runs: int) -> float:
    seconds = []
    for _ in range(runs):
        begun = perf_counter()
        work()
        seconds.append(perf_counter() - begun)
    return float(np.median(seconds))


def _in_r(script: str, table: np.ndarray) -> list[list[float]] | None:
    """What the script prints, if R and its package are on this machine."""
    if not shutil.which("Rscript"):
        return None
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "data.bin"
        np.asfortranarray(table).T.tofile(file)
        code = script.format(file=file, n=len(table))
        done = subprocess.run(["Rscript", "-e", code], capture_output=True, text=True, check=False)
    if done.returncode:
        return None
    return [[float(x) for x in line.split()] for line in done.stdout.splitlines()]


def fit_rows(runs: int) -> list[Row]:
    """Rows for two and three levels, and for 99-odd quantiles."""
    return [*_reml_rows(runs), *_quantile_rows(STUDENTS, 1), *_quantile_rows(20_000, 1)]


def _reml_rows(runs: int) -> list[Row]:
    rng = np.random.default_rng(9)
    classes = np.sort(rng.integers(0, CLASSES, STUDENTS))
    school_of = np.arange(CLASSES) // (CLASSES // SCHOOLS)
    x = rng.normal(size=(STUDENTS, 7))
    y = (
        x @ rng.normal(size=7) + rng.normal(0, 0.3, SCHOOLS)[school_of[classes]]
        + rng.normal(0, 0.25, CLASSES)[classes] + rng.normal(size=STUDENTS)
    )  # fmt: skip
    named, theirs = "lme4", _in_r(LME4, np.column_stack([y, x, classes, school_of[classes]]))
    fits: list[Multilevel] = []
    out: list[Row] = []
    for levels, nest in ((2, None), (3, school_of)):
        raw = _median(lambda nest=nest: multilevel(y, x, classes, CLASSES, nest), runs)
        stats = cross_products(y, x, classes, CLASSES, nest)
        again = _median(lambda stats=stats: multilevel_from(stats), runs)
        fits.append(multilevel_from(stats))
        if theirs is None:
            if levels == 3:
                continue
            named, other, agreed = "statsmodels", *_statsmodels(y, x, classes, fits[-1])
        else:
            other, criterion = theirs[levels - 2]
            agreed = fits[-1].criterion - criterion
            assert agreed < 1e-4, "the reference found a better optimum"
        note = f"−2 log likelihood differs by {agreed:.1e}"
        what = f"{levels} levels, {STUDENTS:,} students, {CLASSES:,} classes"
        out.append((f"REML {what} / {named}", raw / other, note))
        out.append((f"REML {what}, from kept statistics / {named}", again / other, note))
    return out


def _statsmodels(
    y: np.ndarray, x: np.ndarray, classes: np.ndarray, ours: Multilevel
) -> tuple[float, float]:
    design = np.column_stack([np.ones(len(y)), x])
    begun = perf_counter()
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        found = MixedLM(y, design, groups=classes).fit(reml=True)
    return perf_counter() - begun, abs(float(found.cov_re[0, 0]) - ours.sigma2_classes)


def _quantile_rows(n: int, priors: int) -> list[Row]:
    rng = np.random.default_rng(10)
    x = rng.normal(300, 30, (n, priors))
    parts = [np.ones((n, 1))]
    for k in range(priors):
        knots = np.quantile(x[:, k], [0.2, 0.4, 0.6, 0.8])
        knots = np.r_[[x[:, k].min()] * 4, knots, [x[:, k].max()] * 4]
        parts.append(BSpline.design_matrix(x[:, k], knots, 3).toarray()[:, 1:])
    design = np.hstack(parts)
    y = 0.7 * x.sum(axis=1) + rng.normal(0, 15, n) * x[:, 0] / 300
    mine = _median(lambda: quantile_fits(y, design, TAUS.tolist()), 3)
    two = _median(lambda: quantile_fits(y, design, TAUS.tolist(), workers=2), 3)
    begun = np.linalg.lstsq(design, y, rcond=None)[0]
    tried, losses = [], []
    for k in (30, 50, 70):  # in the middle, where a plain solve is quickest
        started = perf_counter()
        target = (1 - TAUS[k]) * design.sum(axis=0)
        fit = interior_point(y, design, np.ones(n), target, begun, float(y.std()))
        tried.append(perf_counter() - started)
        left = y - design @ fit.coefficients
        losses.append(float(np.sum(left * (TAUS[k] - (left < 0)))))
    plain = float(np.median(tried)) * len(TAUS)
    found = quantile_fits(y, design, TAUS.tolist()).loss[[30, 50, 70]]
    worst = float(np.max(np.abs(found / np.array(losses) - 1)))
    what = f"100 conditional quantiles, {design.shape[1]} columns, {n:,} students"
    note = f"losses agree within {worst:.0e}"
    out = [
        (f"{what} / a plain interior point each", mine / plain, note),
        (f"{what}, two threads / a plain interior point each", two / plain, note),
    ]
    theirs = _in_r(FNB, np.column_stack([y, design])) if priors == 1 else None
    if theirs:
        out.append((f"{what} / quantreg's interior point each", mine / theirs[0][0], "from five"))
    return out
