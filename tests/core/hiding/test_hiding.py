"""Hiding small numbers: the rules by hand, and attackers that try to undo it."""

from __future__ import annotations

import numpy as np
import pytest
from tests.core.reference.enumerate_tables import bounds
from tests.effort import seeds

from bridge_chart.core.hiding.attack import attack
from bridge_chart.core.hiding.lattice import (
    Lattice,
    Release,
    lattice_of,
    pairs_of,
    release_of,
    too_close,
)
from bridge_chart.core.hiding.shares import floor_percent, shown_share
from bridge_chart.core.hiding.suppress import suppress


def test_shares_of_twelve() -> None:
    assert {shown_share(k, 12).text for k in (0, 1, 2)} == {"<25%"}
    assert shown_share(3, 12).text == "25%"
    assert {shown_share(k, 12).text for k in (10, 11, 12)} == {">75%"}
    with pytest.raises(ValueError, match="at least 10"):
        shown_share(1, 9)
    with pytest.raises(ValueError, match="0 to 12"):
        shown_share(13, 12)


@pytest.mark.parametrize("n", [10, 11, 12, 15, 29, 30, 59, 60, 61, 137, 400, 1234])
def test_what_a_share_leaves_possible_is_what_would_read_the_same(n: int) -> None:
    texts: dict[str, list[int]] = {}
    for k in range(n + 1):
        texts.setdefault(shown_share(k, n).text, []).append(k)
    c = floor_percent(n)
    assert c * n / 100 >= 3
    for text, counts in texts.items():
        for k in counts:
            shown = shown_share(k, n)
            assert (shown.lowest, shown.highest) == (counts[0], counts[-1]), text
            assert shown.masked == (100 * k < c * n or 100 * (n - k) < c * n)
    assert len(texts[f"<{c}%"]) >= 3  # nobody's result can be read off


def test_hiding_only_the_four_of_forty_fails() -> None:
    made = lattice_of([np.repeat([0, 1, 2], [22, 14, 4])], [3], np.tile([True, False], 20), [])
    only = attack(release_of(made, made.n < 10, made.n < 10))
    assert (only.n_low[3], only.n_high[3]) == (4, 4)
    done = suppress(made)
    assert done.release.count_shown.tolist() == [True, True, False, False]
    assert (done.primary, done.for_others, done.unprotected) == (1, 1, ())
    found = attack(done.release)
    assert found.n_high[3] - found.n_low[3] >= 5


def shown_table(release: Release, rows: int, columns: int) -> dict:
    n = [int(x) if s else None for x, s in zip(release.lattice.n, release.count_shown, strict=True)]
    first = 1 + rows + columns
    return {
        "total": n[0], "rows": n[1 : 1 + rows], "columns": n[1 + rows : first],
        "cells": [n[first + i * columns : first + (i + 1) * columns] for i in range(rows)],
    }  # fmt: skip


@pytest.mark.parametrize("seed", seeds(5))
def test_the_attacker_agrees_with_trying_every_table(seed: int) -> None:
    rng = np.random.default_rng(seed)
    n = 18
    fields = [rng.integers(0, 2, n), rng.integers(0, 3, n)]
    made = lattice_of(fields, [2, 3], np.zeros(n, bool), [(0, 1)])
    hidden = rng.random(len(made.cells)) < 0.5
    hidden[0] = False
    release = release_of(made, hidden, np.ones(len(made.cells), bool))
    low, high = bounds(shown_table(release, 2, 3))
    ours = attack(release)
    np.testing.assert_array_equal(ours.n_low[6:].reshape(2, 3), low)
    np.testing.assert_array_equal(ours.n_high[6:].reshape(2, 3), high)


def district(seed: int) -> Lattice:
    rng = np.random.default_rng(seed)
    n = 320
    school = rng.choice(5, n, p=[0.35, 0.3, 0.2, 0.1, 0.05])
    language = rng.choice(4, n, p=[0.6, 0.25, 0.1, 0.05])
    sex = rng.integers(0, 2, n)
    hit = rng.random(n) < np.where(school == 2, 0.05, 0.6)
    return lattice_of([school, language, sex], [5, 4, 2], hit, [(0, 1), (0, 2)])


@pytest.mark.parametrize("seed", seeds(2))
def test_no_hidden_number_can_be_narrowed_from_everything_shown(seed: int) -> None:
    made = district(seed)
    done = suppress(made)
    found = attack(done.release)
    helpless = set(done.unprotected)
    assert len(helpless) <= 2
    for c in range(len(made.cells)):
        shown = done.release.shares[c]
        if c in helpless:
            continue
        if not done.release.count_shown[c]:
            assert found.n_high[c] - found.n_low[c] >= 5
            assert found.hits_high[c] - found.hits_low[c] >= min(5, made.n[c])
        elif shown is None:
            assert found.hits_high[c] - found.hits_low[c] >= 5
        elif shown.masked:
            room = min(5, shown.highest - shown.lowest)
            assert found.hits_high[c] - found.hits_low[c] >= room
        # What is shown is true, and the truth is among what the attacker thinks possible.
        assert found.n_low[c] <= made.n[c] <= found.n_high[c]
        assert found.hits_low[c] <= made.hits[c] <= found.hits_high[c]
    assert not (made.n < 10)[done.release.count_shown].any()
    assert done.release.count_shown[0]


def test_a_masked_share_is_not_given_away_by_its_school() -> None:
    # Two classes; 0 of 12 reads "<25%", but 15 of 30 and 15 of 42 would give it away.
    classes = np.repeat([0, 1], [12, 30])
    hit = np.concatenate([np.zeros(12, bool), np.repeat([True, False], 15)])
    made = lattice_of([classes], [2], hit, [])
    plain = release_of(made, np.zeros(3, bool), np.zeros(3, bool))
    assert plain.shares[1] is not None
    assert plain.shares[1].text == "<25%"
    assert attack(plain).hits_high[1] < 2
    done = suppress(made)
    found = attack(done.release)
    assert found.hits_high[1] - found.hits_low[1] >= 2
    assert done.release.count_shown.all()
    # The sibling's share is hidden too, and cannot itself be bounded within 5.
    assert done.release.shares[0] is not None
    assert done.shares_hidden == 2
    assert found.hits_high[2] - found.hits_low[2] >= 5


def test_nothing_small_hides_nothing() -> None:
    made = lattice_of([np.repeat([0, 1], 50)], [2], np.tile([True, False], 50), [])
    done = suppress(made)
    assert done.release.count_shown.all()
    assert done.release.share_shown.all()
    assert done.rounds == 0


def test_what_cannot_be_protected_is_said() -> None:
    made = lattice_of([np.array([0] * 3 + [1])], [2], np.zeros(4, bool), [])
    done = suppress(made)  # four students in all: the whole is too small
    assert not done.release.count_shown.any()
    assert done.primary == 3


def test_populations_that_differ_by_a_few_are_refused() -> None:
    whole = np.ones(30, bool)
    without = whole.copy()
    without[[3, 9]] = False
    assert too_close(without, [whole, without], 10) == [0]
    assert too_close(np.arange(30) < 15, [whole], 10) == []
    assert pairs_of(3) == [(0, 1), (0, 2), (1, 2)]


def test_lattices_that_cannot_be() -> None:
    with pytest.raises(ValueError, match="category in every field"):
        lattice_of([np.array([-1])], [2], np.zeros(1, bool), [])
    with pytest.raises(ValueError, match="two different fields"):
        lattice_of([np.array([0])], [2], np.zeros(1, bool), [(0, 0)])
    made = lattice_of([np.repeat([0, 1], 20)], [2], np.zeros(40, bool), [])
    wrong = release_of(made, np.zeros(3, bool), np.zeros(3, bool))
    lie = Release(
        Lattice(made.cells, np.array([41, 20, 20]), made.hits, made.sums), wrong.count_shown,
        wrong.share_shown, wrong.shares,
    )  # fmt: skip
    with pytest.raises(RuntimeError, match="nothing fits"):
        attack(lie)
