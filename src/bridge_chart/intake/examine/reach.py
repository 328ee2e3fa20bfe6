"""Whether the rows of a table speak of anything that is here: a row about a subject or sitting that
its test has not would say nothing, and nobody would see it."""

from __future__ import annotations

import polars as pl

from bridge_chart.intake.cells import findings as f
from bridge_chart.store.reference_tables import same
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.wording import count


def check_reach(frame: pl.DataFrame, snapshot: Snapshot, found: f.Findings) -> None:
    """Rows whose test has results, in no such subject or sitting. They are kept all the same:
    results may come after the table."""
    names = snapshot.tables.names
    here: dict[str, dict[str, set[str]]] = {}
    for measure in snapshot.measures:
        has = here.setdefault(same(measure.assessment.name), {"subject": set(), "sitting": set()})
        has["subject"].add(same(measure.subject.name) if measure.subject else "")
        has["sitting"].add(same(measure.sitting.name))
    for what in ("subject", "sitting"):
        if what not in frame.columns:
            continue
        apart, told = [], set()
        for row in frame.iter_rows(named=True):
            test = same(names.means("test", row["test"]))
            of = row["test"] if what == "sitting" else ""
            said = same(names.means(what, row[what], of)) if row[what] else ""
            if said and test in here and said not in here[test][what]:
                apart.append(row["index"])
                told.add(f"{row['test']} has no {what} “{row[what]}”")
        if apart:
            found.add(
                f"no_such_{what}", "ask",
                f"{count(len(apart), 'row')} about a {what} that the test has not",
                f"{'; '.join(sorted(told)[:4])}. They are kept, and say nothing until such results "
                "are here", apart,
            )  # fmt: skip
