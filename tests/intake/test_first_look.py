"""The first look: every score as it would be kept, with n, missing and the mean's interval."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import stats
from tests.support import Place, roster

YEAR = {"academic_year": "2025-26"}
MARKS = [12, 15, 9, 20, 17, 11, 14, 16]


@pytest.fixture
def tarn(place: Place) -> Place:
    place.bring("roster", roster([(f"{n:02d}", "Tarn", 8) for n in range(1, 13)]), **YEAR)
    return place


def test_figures_have_a_histogram_and_an_interval_as_a_statistics_library_gives_it(
    tarn: Place,
) -> None:
    rows = "".join(f"{n:02d},{m}\n" for n, m in enumerate(MARKS, start=1)) + "09,abs\n10,abs\n"
    look = tarn.look("results", "Number,Mark\n" + rows).examination.first_look[0]
    assert (look.n, look.missing, sum(look.counts)) == (8, 2, 8)
    low, high = stats.t.interval(0.95, 7, np.mean(MARKS), stats.sem(MARKS))
    assert (look.mean, look.sd) == pytest.approx((np.mean(MARKS), np.std(MARKS, ddof=1)))
    assert (look.low, look.high) == pytest.approx((low, high))
    assert (look.edges[0], look.edges[-1]) == (9, 20)


def test_grades_are_counted_from_the_lowest(tarn: Place) -> None:
    rows = "".join(f"{n:02d},{g}\n" for n, g in enumerate("ABBCCCA", start=1)) + "08,abs\n"
    look = tarn.look("results", "Number,Grade\n" + rows).examination.first_look[0]
    assert dict(zip(look.steps, look.counts, strict=True)) == {"C": 3, "B": 2, "A": 2}
    assert (look.n, look.missing, look.mean, look.low) == (7, 1, None, None)


def test_marks_and_grades_of_a_sitting_are_both_shown(tarn: Place) -> None:
    text = "Number,Mark,Grade\n01,5,A\n02,3,B\n"
    looks = tarn.look("results", text).examination.first_look
    assert [bool(look.steps) for look in looks] == [False, True]


def test_one_score_has_a_mean_and_no_interval(tarn: Place) -> None:
    look = tarn.look("results", "Number,Mark\n01,5\n").examination.first_look[0]
    assert (look.mean, look.sd, look.low, look.high) == (5, None, None, None)


def test_nobody_with_a_score_has_neither(tarn: Place) -> None:
    text = "Number,Mark\n01,abs\n"
    look = tarn.look("results", text, columns={"Mark": "score:raw"}).examination.first_look[0]
    assert (look.n, look.missing, look.mean, sum(look.counts)) == (0, 1, None, 0)
