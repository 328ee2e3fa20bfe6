"""The made-up district: the same from the same seed, with the faults it says it has."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import polars as pl

from bridge_chart.demo.district import (
    CUTS_IN_SD,
    LEVELS,
    SD,
    expected_mean,
    level_of,
    make_district,
)
from bridge_chart.demo.files import generate
from bridge_chart.demo.names import SCHOOLS, school_names
from bridge_chart.intake.cells.names import near_name


def test_the_same_seed_gives_the_same_files(tmp_path: Path) -> None:
    one, other = tmp_path / "one", tmp_path / "other"
    assert generate(one, 600, 5) == generate(other, 600, 5)
    for path in one.iterdir():
        assert path.read_bytes() == (other / path.name).read_bytes()
    different = generate(tmp_path / "third", 600, 6)
    assert different != json.loads((one / "planted.json").read_text(encoding="utf-8"))


def test_its_size_and_shape() -> None:
    district = make_district(5000, 1)
    for year in range(3):
        assert 4500 < district.enrolled(year).sum() < 5500
    assert len(set(district.number.tolist())) == len(district.number)
    assert {len(number) for number in district.number.tolist()} == {6}
    assert 0.3 < np.mean([n.startswith("0") for n in district.number.tolist()]) < 0.5
    assert set(district.schools) == set(SCHOOLS)


def test_names_of_a_large_district_are_its_own_and_apart() -> None:
    names = school_names(900)
    assert len(set(names)) == 900
    assert [n for n in names[:11] if near_name(n, [m for m in names[:11] if m != n])] == []


def test_the_planted_counts_are_those_of_the_files(tmp_path: Path) -> None:
    planted = generate(tmp_path, 1500, 11)
    for name, facts in planted["files"].items():
        frame = pl.read_csv(tmp_path / name, infer_schema=False)
        assert frame.height == facts["rows"]
        if name.startswith("spring-"):
            numbers = frame["Student No"]
            assert (numbers.str.len_chars() < 6).sum() == facts["lost_zeros"]
            assert frame.is_duplicated().sum() >= 2 * facts["copies"] * 0.9
            assert numbers.str.starts_with("90000").sum() >= facts["unmatched"]
            coded = frame["Scaled score"].is_in(["abs", "X", "-"])
            assert coded.sum() == facts["codes"]
            assert (frame["Level"] == "").sum() + frame["Level"].null_count() >= facts["codes"]


def test_levels_follow_their_cut_scores() -> None:
    level = np.array([8, 8, 8, 8, 8])
    cuts = [float(np.rint(expected_mean(np.array(8)) + SD * cut)) for cut in CUTS_IN_SD]
    assert level_of(np.array([0, *cuts]), level).tolist() == list(LEVELS)
    assert level_of(np.array(cuts) - 1, level[:4]).tolist() == list(LEVELS[:4])
