"""Where a student is strong and weak within the newest test, and what the district does next."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.bound.identity import PartId
from bridge_chart.answers.bound.quantity import Quantity, of_part
from bridge_chart.answers.person.page import NextStep, Sign, Strand, Strands
from bridge_chart.answers.person.results import Found, Person
from bridge_chart.answers.published.fits import Own, fitted
from bridge_chart.answers.what.parts import parts_of
from bridge_chart.answers.what.sheets import questions_of, worth_of
from bridge_chart.answers.what.values import figures_of_students, tested_year_level
from bridge_chart.core.arrays import Codes, Floats, Mask
from bridge_chart.core.describing.describe import moments
from bridge_chart.store.reference_tables import same
from bridge_chart.store.snapshot import Snapshot

BEYOND = 1.96
"""Standard errors of a share of so few questions."""


@dataclass(frozen=True)
class Others:
    """(students,) the mean share, and how many, of all who sat the same form in the same year
    level. cell, behind: of the whole district only."""

    mean: Floats
    n: Floats
    cell: Codes
    behind: Mask


def strands_of(person: Person, found: list[Found]) -> list[Strands]:
    """For each subject the newest sitting with marks by question, weakest against others first."""
    out: dict[str, Strands] = {}
    for one in found:
        about = one.result.about
        if about in out:
            continue
        strands = _strands(person, one.quantity)
        if strands:
            out[about] = Strands(
                label=one.result.label, date=one.result.date, about=about, level=one.result.level,
                strands=sorted(strands, key=_behind),
            )  # fmt: skip
    return list(out.values())


def next_steps(person: Person, found: list[Strands]) -> list[NextStep]:
    """What the district's own table says for the weakest strand of each subject, where one lies
    below the others: at the student's level, or where the table names none."""
    rows = person.snapshot.tables.rows("next_steps")
    out = []
    for one in found:
        weakest = one.strands[0]
        if weakest.others is None or weakest.share >= weakest.others:
            continue
        for row in rows:
            fits = same(row["strand"]) == same(weakest.strand)
            fits &= same(row.get("level")) in ("", same(one.level))
            fits &= same(row.get("subject")) in ("", same(one.about))
            if fits:
                out.append(
                    NextStep(
                        strand=weakest.strand, level=row.get("level") or "", text=row["text"],
                        link=row.get("link") or "",
                    )
                )  # fmt: skip
    return out


def _strands(person: Person, quantity: Quantity) -> list[Strand]:
    snapshot, at, key = person.snapshot, person.at, quantity.key
    out = []
    for name in parts_of(snapshot, key, "strand"):
        part = PartId("strand", name)
        raw, share = (
            float(figures_of_students(snapshot, of_part(quantity, part, score))[at])
            for score in ("raw", "percent")
        )
        if np.isnan(share):
            continue
        others = others_of(snapshot, of_part(quantity, part, "percent"))
        mean, n = float(others.mean[at]), int(np.nan_to_num(others.n[at]))
        questions, worth = _asked(person, quantity, name)
        # Without the student's own part in it.
        rest = (mean * n - share) / (n - 1) if n > 1 and not np.isnan(mean) else None
        out.append(
            Strand(
                strand=name, questions=questions, won=raw, worth=worth, share=share / 100,
                others=None if rest is None else rest / 100, others_n=max(n - 1, 0),
                beyond=_beyond(share / 100, None if rest is None else rest / 100, questions),
            )
        )  # fmt: skip
    return out


def _asked(person: Person, quantity: Quantity, strand: str) -> tuple[int, float]:
    """How many questions of a strand the student's form asks, and what they are worth."""
    snapshot, key = person.snapshot, quantity.key
    for paper in snapshot.marked_forms(key.sitting.id):
        place = int(np.searchsorted(paper.at, person.at))
        if place >= len(paper.at) or paper.at[place] != person.at:
            continue
        known = questions_of(snapshot, key, paper.form)
        mine = [
            n for n, name in enumerate(paper.questions)
            if same(name) in known and same(known[same(name)].tags.get("strand")) == same(strand)
        ]  # fmt: skip
        return len(mine), float(worth_of(snapshot, key, paper.form)[mine].sum())
    return 0, 0.0


def _beyond(share: float, others: float | None, questions: int) -> Sign:
    if others is None or not questions or not 0 < others < 1:
        return ""
    reach = BEYOND * np.sqrt(others * (1 - others) / questions)
    return "behind" if share < others - reach else "ahead" if share > others + reach else "none"


def _behind(strand: Strand) -> float:
    return strand.share - (strand.share if strand.others is None else strand.others)


def others_of(snapshot: Snapshot, quantity: Quantity) -> Others:
    """Of the whole district; for a scope where enough others stand behind it."""

    def make(whole: Snapshot) -> Others:
        level = np.asarray(tested_year_level(whole, quantity.key)).astype(np.int64) + 1
        forms, form = np.unique(np.asarray(whole.form(quantity.key)), return_inverse=True)
        cell = level * len(forms) + form
        values = np.asarray(figures_of_students(whole, quantity), float)
        found = moments(values, cell, int(cell.max(initial=0)) + 1)
        there = ~np.isnan(values)
        return Others(found.mean[cell], found.n[cell].astype(float), cell, there)

    def own_part(made: Others, own: Own) -> Others:
        hidden = own.in_strata(made.cell, own.few(made.behind, made.cell, quantity.key))
        mean, n = (np.where(hidden, np.nan, own.rows(one, np.nan)) for one in (made.mean, made.n))
        return Others(mean, n, made.cell[:0], made.behind[:0])

    return fitted(snapshot, ("others", quantity.id), make, own_part, (quantity.key,))
