"""Comparing schools: the whole Answer against the bare aggregation in pandas and in SQL.

The alternatives start from data made ready for them (a typed frame in memory; an indexed,
analysed, flat table) and give figures only; ours starts from the snapshot and gives the whole
Answer as JSON, with intervals, verdicts, coverage, readings. The figures are checked to agree.
"""

from __future__ import annotations

from typing import Any

import numpy as np
import pandas as pd
import sqlalchemy as sa

from bench.district import Bench, median_of, say
from bridge_chart.access.scoped import in_scope
from bridge_chart.answers.asking.ask import answer_on, read_question
from bridge_chart.answers.asking.bind import bind
from bridge_chart.answers.figures.figures import figures_of
from bridge_chart.answers.figures.slices import slices_of
from bridge_chart.answers.kept.kept import forget_kept
from bridge_chart.store.bulk import copy_in
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.store.snapshot_build import snapshot_of
from bridge_chart.terms.people import Scope

MATHS = {"assessment": "Spring survey", "subject": "Mathematics", "sitting": "spring 2026"}
FILTERS = [
    {"field": "year_level", "in": [5, 6, 7, 8, 9]},
    {"characteristic": "Meal support", "in": ["no"]},
    {"characteristic": "Learning plan", "in": ["no"]},
]
Row = tuple[str, float, str]


def flat(snapshot: Snapshot) -> pd.DataFrame:
    """A row per student and result, with the roll's columns: what a spreadsheet would hold."""
    roll = snapshot.rolls[-1]
    coded = {c.name: np.asarray(roll.characteristic(c.id, snapshot.students))
             for c in snapshot.characteristics}  # fmt: skip
    frames = []
    for number, measure in enumerate(m for m in snapshot.measures if m.score == "scaled"):
        values = np.asarray(snapshot.values(measure))
        at = np.flatnonzero(~np.isnan(values))
        frames.append(
            pd.DataFrame(
                {
                    "student": at.astype(np.int32),
                    "measure": np.full(len(at), number, np.int16),
                    "school": np.asarray(roll.school)[at],
                    "year_level": np.asarray(roll.year_level)[at].astype(np.int16),
                    "meals": coded["Meal support"][at],
                    "plan": coded["Learning plan"][at],
                    "score": values[at],
                }
            )
        )
    return pd.concat(frames, ignore_index=True)


def _number(snapshot: Snapshot, subject: str, sitting: str) -> int:
    scaled = [m for m in snapshot.measures if m.score == "scaled"]
    return next(
        n for n, m in enumerate(scaled)
        if m.subject and (m.subject.name, m.sitting.name) == (subject, sitting)
    )  # fmt: skip


def _table(bench: Bench, frame: pd.DataFrame) -> None:
    with bench.engine.begin() as connection:
        connection.execute(sa.text("DROP TABLE IF EXISTS bench_flat"))
        connection.execute(
            sa.text(
                "CREATE UNLOGGED TABLE bench_flat (student int4, measure int2, school int2, "
                "year_level int2, meals int2, plan int2, score float8)"
            )
        )
        copy_in(connection, "bench_flat", frame.to_records(index=False))
        connection.execute(sa.text("CREATE INDEX ON bench_flat (measure, school)"))
        connection.execute(sa.text("CREATE INDEX ON bench_flat (student, measure)"))
    with bench.engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.execute(sa.text("VACUUM ANALYZE bench_flat"))


def compare_rows(bench: Bench, runs: int) -> list[Row]:
    """The ratios; below 1 we are faster."""
    snapshot = snapshot_of(bench.engine, bench.settings.snapshots)
    frame = flat(snapshot)
    say(f"comparing on {len(frame):,} results in {len(snapshot.schools)} schools")
    _table(bench, frame)
    return [
        *_described(bench, snapshot, frame, runs), *_value_added(bench, snapshot, frame, runs),
        *_scoped(snapshot, runs),
    ]  # fmt: skip


def _scoped(snapshot: Snapshot, runs: int) -> list[Row]:
    """A school lead's question, against the data lead's about the same school; the same rows."""
    rows = []
    for few, name in ((1, "one school"), (40, "forty schools")):
        schools = snapshot.schools[:few]
        own = in_scope(snapshot, snapshot, Scope(frozenset(s.id for s in schools)))
        place = {"field": "school", "in": [s.id for s in schools]}
        for against, what in ((None, "means"), ({"prior": {}}, "value-added, the fit kept")):
            question = {"what": [MATHS], "split": [{"field": "class"}], "against": against,
                        "reference": []}  # fmt: skip
            scoped = _ours(own, question)
            narrowed = _ours(snapshot, {**question, "who": {"all": [place]}})
            mine, theirs = (
                [(r.label, r.n, r.span, r.verdict) for r in answer_on(made).body.rows]
                for made in (
                    bind(read_question(question), own),
                    bind(read_question({**question, "who": {"all": [place]}}), snapshot),
                )
            )
            assert mine == theirs
            ratio = median_of(runs, scoped) / median_of(runs, narrowed)
            rows.append((f"a lead of {name}: {what}", ratio, "÷ the data lead's, narrowed"))
    return rows


def _ours(snapshot: Snapshot, question: dict[str, Any]) -> Any:
    asked = read_question(question)
    return lambda: answer_on(bind(asked, snapshot)).model_dump_json(by_alias=True)


def _described(bench: Bench, snapshot: Snapshot, frame: pd.DataFrame, runs: int) -> list[Row]:
    """Three filters, every school: n, mean, sd, quartiles."""
    number = _number(snapshot, "Mathematics", "spring 2026")
    question = {"what": [MATHS], "split": [{"field": "school"}], "who": {"all": FILTERS}}
    no = {c.name: [o.name for o in c.options].index("no") for c in snapshot.characteristics
          if "no" in [o.name for o in c.options]}  # fmt: skip
    keep = {"measure": number, "meals": no["Meal support"], "plan": no["Learning plan"]}

    def pandas_way() -> pd.DataFrame:
        part = frame[(frame["measure"] == keep["measure"]) & frame["year_level"].between(5, 9)
                     & (frame["meals"] == keep["meals"]) & (frame["plan"] == keep["plan"])
                     & (frame["school"] >= 0)]  # fmt: skip
        grouped = part.groupby("school")["score"]
        return pd.concat(
            [grouped.agg(["count", "mean", "std"]), grouped.quantile([0.25, 0.5, 0.75]).unstack()],
            axis=1,
        )

    query = sa.text(
        "SELECT school, count(*), avg(score), stddev_samp(score), "
        "percentile_cont(ARRAY[.25, .5, .75]) WITHIN GROUP (ORDER BY score) FROM bench_flat "
        "WHERE measure = :measure AND year_level BETWEEN 5 AND 9 AND meals = :meals "
        "AND plan = :plan AND school >= 0 GROUP BY school ORDER BY school"
    )

    def sql_way() -> list[Any]:
        with bench.engine.connect() as connection:
            return list(connection.execute(query, keep))

    ours = _ours(snapshot, question)
    found = {r.label: r for r in answer_on(
        bind(read_question(question), snapshot)).body.rows}  # fmt: skip
    plain = pandas_way()
    for (position, row), sql in zip(plain.iterrows(), sql_way(), strict=True):
        mine = found[snapshot.schools[int(position)].name]
        theirs = [row["mean"], row["std"], row[0.25], row[0.5], row[0.75]]
        np.testing.assert_allclose([mine.mean, mine.sd, mine.q1, mine.median, mine.q3], theirs)
        np.testing.assert_allclose([sql[2], sql[3], *sql[4]], theirs)
    mine = median_of(runs, ours)
    asked = read_question(question)

    def figures_only() -> object:
        (part,) = slices_of(bind(asked, snapshot).views)
        return figures_of(part.view, part.out, part.grouping, quartiles=True)

    return [
        ("compare, figures only / pandas",
         median_of(runs, figures_only) / median_of(runs, pandas_way),
         "masks, groups, description with intervals: like for like"),
        ("compare, 3 filters, by school / pandas", mine / median_of(runs, pandas_way),
         "n, mean, sd, quartiles; ours is the whole Answer as JSON"),
        ("compare, 3 filters, by school / SQL", mine / median_of(runs, sql_way),
         "indexed, analysed flat table"),
    ]  # fmt: skip


def _value_added(bench: Bench, snapshot: Snapshot, frame: pd.DataFrame, runs: int) -> list[Row]:
    """A line per year level on last spring's score; mean residual by school."""
    now = _number(snapshot, "Mathematics", "spring 2026")
    before = _number(snapshot, "Mathematics", "spring 2025")
    question = {"what": [MATHS], "split": [{"field": "school"}], "against": {"prior": {}}}

    def pandas_way() -> pd.DataFrame:
        outcome = frame[frame["measure"] == now]
        prior = frame.loc[frame["measure"] == before, ["student", "score"]]
        both = outcome.merge(prior, on="student", suffixes=("", "_prior"))
        by = both.groupby("year_level")
        x = both["score_prior"] - by["score_prior"].transform("mean")
        y = both["score"] - by["score"].transform("mean")
        slope = (x * y).groupby(both["year_level"]).sum() / (x * x).groupby(
            both["year_level"]
        ).sum()
        residual = y - both["year_level"].map(slope) * x
        return residual[both["school"] >= 0].groupby(both["school"]).agg(["count", "mean", "std"])

    query = sa.text(
        "WITH both_scores AS (SELECT a.school, a.year_level, a.score AS y, b.score AS x "
        "FROM bench_flat a JOIN bench_flat b ON b.student = a.student AND b.measure = :before "
        "WHERE a.measure = :now), lines AS (SELECT year_level, regr_slope(y, x) AS slope, "
        "regr_intercept(y, x) AS start FROM both_scores GROUP BY year_level) "
        "SELECT school, count(*), avg(y - start - slope * x), stddev_samp(y - start - slope * x) "
        "FROM both_scores JOIN lines USING (year_level) WHERE school >= 0 "
        "GROUP BY school ORDER BY school"
    )

    def sql_way() -> list[Any]:
        with bench.engine.connect() as connection:
            return list(connection.execute(query, {"now": now, "before": before}))

    ours = _ours(snapshot, question)
    refit = _refitted(ours)
    found = {r.label: r for r in answer_on(
        bind(read_question(question), snapshot)).body.rows}  # fmt: skip
    for (position, row), sql in zip(pandas_way().iterrows(), sql_way(), strict=True):
        mine = found[snapshot.schools[int(position)].name]
        assert mine.span is not None
        np.testing.assert_allclose([mine.span, sql[2]], row["mean"], atol=1e-7)
    pandas_time, sql_time = median_of(runs, pandas_way), median_of(runs, sql_way)
    kept, anew = median_of(runs, ours), median_of(runs, refit)
    return [
        ("value-added by school, fit anew / pandas", anew / pandas_time, "mean residual, sd"),
        ("value-added by school, fit kept / pandas", kept / pandas_time,
         "as when a slot changes: the fit of this version is kept"),
        ("value-added by school, fit anew / SQL", anew / sql_time, "regr_slope, indexed join"),
    ]  # fmt: skip


def _refitted(ask: Any) -> Any:
    def again() -> object:
        forget_kept()
        return ask()

    return again
