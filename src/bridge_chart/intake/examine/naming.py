"""Checking a table of names: what would become one, what would be called or dated otherwise."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from typing import Any

import numpy as np
import polars as pl

from bridge_chart.intake.cells.findings import Findings, some
from bridge_chart.store.same_names import HOLDS, WHATS, SameNames
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms.finding import Choice, NameInUse
from bridge_chart.terms.wording import agree, count, listed

MOST_NAMED = 8
OF = {"value": "characteristic", "sitting": "test"}
SAYS = ("means", "date", "place", "holds")


def check_names(frame: pl.DataFrame, snapshot: Snapshot, found: Findings) -> None:
    """Set aside rows that cannot be meant, then say what the others change."""
    have = {c: pl.col(c) if c in frame.columns else pl.lit("") for c in ("of", "holds", "means")}
    frame = frame.with_columns(**have)
    _refuse(frame, ~pl.col("what").is_in(WHATS), "unknown_what",
            "name", "of an unknown kind", f"Known are {', '.join(WHATS)}", found)  # fmt: skip
    _refuse(frame, pl.col("what").is_in(list(OF)) & (pl.col("of") == ""), "no_of",
            "name", "that does not say of what",
            "A value is of a characteristic, a sitting of a test", found)  # fmt: skip
    _refuse(frame, (pl.col("holds") != "") & ~pl.col("holds").is_in(HOLDS), "unknown_holds",
            "characteristic", "of an unknown kind",
            f"Known are {', '.join(HOLDS)}", found)  # fmt: skip
    said = [
        pl.col(c).is_not_null() & (pl.col(c).cast(pl.String) != "")
        for c in SAYS if c in frame.columns
    ]  # fmt: skip
    _refuse(frame, ~pl.any_horizontal(said), "says_nothing", "row", "that says nothing of a name",
            "Say what it means, or a sitting's date, or a value's place", found)  # fmt: skip
    rows = _rows(frame.filter(~pl.col("index").is_in(list(found.aside))))
    kept = [*snapshot.tables.rows("names"), *rows]
    round_ = [row["index"] for row in rows if _goes_round(row, kept)]
    found.must_set_aside(
        "round", f"{count(len(round_), 'name')} that mean each other in a circle",
        "One of them must mean itself", round_,
    )  # fmt: skip
    after = SameNames(row for row in kept if row.get("index") not in round_)
    _say_changes(snapshot, after, found)


def _refuse(
    frame: pl.DataFrame, which: pl.Expr, key: str, noun: str, what: str, detail: str,
    found: Findings,
) -> None:  # fmt: skip
    rows = [row for row in frame.filter(which)["index"].to_list() if row not in found.aside]
    found.must_set_aside(key, f"{count(len(rows), noun)} {what}", detail, rows)


def _rows(frame: pl.DataFrame) -> list[dict[str, Any]]:
    return [
        {key: value for key, value in row.items() if value not in (None, "")}
        for row in frame.drop("line").iter_rows(named=True)
    ]


def _goes_round(row: dict[str, Any], rows: list[Any]) -> bool:
    """Whether what a name means leads back to it."""
    if not row.get("means") or row["means"] == row["name"]:
        return False
    return SameNames(rows).goes_round(row["what"], row["name"], row.get("of", ""))


def _say_changes(snapshot: Snapshot, after: SameNames, found: Findings) -> None:
    """What becomes one, and what of it is in both."""
    joined: list[str] = []
    called: list[str] = []
    for what, of, name in _names_in_use(snapshot):
        then = after.means(what, name, of)
        if then == name:
            continue
        others = {n for w, o, n in _names_in_use(snapshot) if (w, o) == (what, of)}
        (joined if then in others else called).append(f"“{name}” is {then}")
    n = len(joined)
    _done("joined", f"{count(n, 'name')} {agree(n, 'become')} one with another", joined, found)
    n = len(called)
    _done("called", f"{count(n, 'name')} {agree(n, 'get')} another name", called, found)
    kept = {school.name for school in snapshot.schools}
    merged = [s for s in sorted(kept) if (then := after.means("school", s)) != s and then in kept]
    if merged:
        found.add(
            "schools_joined", "ask", "Who leads one of these schools leads all that it is one with",
            f"This concerns {some(merged, MOST_NAMED)}; whom the later roster of the one school "
            "does not name has left it", [],
            [Choice(key="leave", label="So be it")], "leave", n=len(merged),
        )  # fmt: skip
    _both(snapshot, after, found)
    dated = []
    for measure in snapshot.measures:
        said = after.date(*_named(measure, after))
        if said is not None and said != str(measure.date) and measure.role == "result":
            dated.append(f"{measure.label}: {measure.date} becomes {said}")
    dated = list(dict.fromkeys(dated))
    n = len(dated)
    _done("dated", f"{count(n, 'sitting')} {agree(n, 'get')} another date", dated, found)


def _names_in_use(snapshot: Snapshot) -> list[tuple[str, str, str]]:
    """Every name that is kept: of which kind, of what, how it is called."""
    out = [("school", "", school.name) for school in snapshot.schools]
    for item in snapshot.characteristics:
        out.append(("characteristic", "", item.called))
        out += [("value", item.called, option.name) for option in item.options]
    for m in snapshot.measures:
        out.append(("test", "", m.assessment.name))
        out.append(("sitting", m.assessment.name, m.sitting.name))
        out += [("subject", "", m.subject.name)] if m.subject else []
    return list(dict.fromkeys(out))


def _named(measure: MeasureKey, names: SameNames) -> tuple[str, str, str]:
    """Test, subject and sitting of a measure, by what their names mean."""
    test = measure.assessment.name
    subject = measure.subject.name if measure.subject else ""
    return (
        names.means("test", test),
        names.means("subject", subject),
        names.means("sitting", measure.sitting.name, test),
    )


def _both(snapshot: Snapshot, after: SameNames, found: Findings) -> None:
    """Students with different results in measures that become one: the later file's counts."""
    groups: dict[tuple[str, ...], list[MeasureKey]] = {}
    for m in snapshot.measures:
        groups.setdefault((*_named(m, after), m.role, m.kind, m.score), []).append(m)
    several = 0
    for held in groups.values():
        if len(held) < 2:
            continue
        values = np.stack([snapshot.values(m) for m in held])
        there = ~np.isnan(values)
        twice = there.sum(0) > 1
        if twice.any():
            low = np.nanmin(values[:, twice], axis=0)
            several += int((low != np.nanmax(values[:, twice], axis=0)).sum())
    if several:
        found.add(
            "in_both", "ask", f"{count(several, 'student')} with different results in both",
            "As one, the later file's result counts; undo brings both back", [],
            [Choice(key="leave", label="The later file's counts")], "leave", n=several,
        )  # fmt: skip


def _done(key: str, title: str, told: list[str], found: Findings) -> None:
    if told:
        found.add(key, "done", title, listed(told, MOST_NAMED), [], n=len(told))


def names_in_use(snapshot: Snapshot) -> list[NameInUse]:
    """Every name that is kept, with how much it is of and what is said of it."""
    names = snapshot.tables.names
    roll = snapshot.rolls[-1] if snapshot.rolls else None
    n: Counter[tuple[str, str, str]] = Counter()
    dates: dict[tuple[str, str, str], set[str]] = {}
    if roll is not None:
        n |= _on(snapshot.schools, "school", "", roll.school)
        for item in snapshot.characteristics:
            codes = np.asarray(roll.characteristic(item.id, snapshot.students))
            n[("characteristic", "", item.called)] = int((codes >= 0).sum())
            n |= _on(item.options, "value", item.called, codes)
    for m in snapshot.measures:
        test, results = m.assessment.name, len(snapshot.order(m))
        for key in (("test", "", test), ("sitting", test, m.sitting.name)):
            n[key] += results
        if m.subject:
            n[("subject", "", m.subject.name)] += results
        dates.setdefault(("sitting", test, m.sitting.name), set()).add(str(m.date))
    kinds = {c.called: c.holds for c in snapshot.characteristics}
    out = []
    for what, of, name in _names_in_use(snapshot):
        told = names.declared(what, of)
        days = sorted(dates.get((what, of, name), ()))
        holds = kinds.get(name, "") if what == "characteristic" else ""
        also = sorted(other for other, then in told.items() if then == name)
        out.append(
            NameInUse(what=what, of=of, name=name, n=n[(what, of, name)], also=also, dates=days,
                      holds=holds)
        )  # fmt: skip
    return out


def _on(items: Iterable[Any], what: str, of: str, codes: Any) -> Counter[tuple[str, str, str]]:
    listed_ = list(items)
    counts = np.bincount(np.asarray(codes, np.int64) + 1, minlength=len(listed_) + 1)[1:]
    return Counter({(what, of, item.name): int(k) for item, k in zip(listed_, counts, strict=True)})
