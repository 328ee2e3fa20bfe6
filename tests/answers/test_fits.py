"""What is read off the district's fits for a scope: the same, or nothing."""

from __future__ import annotations

import numpy as np
import pytest
from tests.support import Place, roster

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.answers.published.fits import FEWEST_ELSEWHERE

QUIZ = {"assessment": "Quiz", "sitting": "May"}
PRIOR = {"prior": {"priors": [{"assessment": "Quiz", "sitting": "October"}]}}


def district(place: Place, elsewhere: int) -> None:
    """Forty students of A, and some of B, with two sittings."""
    schools = ["A"] * 40 + ["B"] * elsewhere
    rng = np.random.default_rng(3)
    place.bring("roster", roster([(str(n), s, 8) for n, s in enumerate(schools)]),
                academic_year="2025-26", as_of="2025-09-01")  # fmt: skip
    start = rng.normal(100, 10, len(schools)).round(1)
    later = (start + rng.normal(5, 5, len(schools))).round(1)
    for name, date, values in (("October", "2025-10-01", start), ("May", "2026-05-01", later)):
        lines = "".join(f"{n},Quiz,{v}\n" for n, v in enumerate(values))
        place.bring("results", f"Number,Test,Score\n{lines}", f"{name}.csv", sitting=name,
                    date=date)  # fmt: skip
    place.account("lead", "school_lead", "A")


@pytest.mark.parametrize("elsewhere", [0, 1, FEWEST_ELSEWHERE - 1, FEWEST_ELSEWHERE])
def test_a_line_stands_on_enough_others_or_is_not_shown(place: Place, elsewhere: int) -> None:
    """With one student elsewhere the line would give the score; with none it is one's own."""
    district(place, elsewhere)
    for expect in ("linear", "spline"):
        _stands_or_not(place, elsewhere, expect)


def _stands_or_not(place: Place, elsewhere: int, expect: str) -> None:
    lead = actor_named(place.engine, "lead")
    asked = {"what": [QUIZ], "against": {"prior": {**PRIOR["prior"], "expect": expect}}}
    own = {"who": {"all": [{"field": "school", "in": ["A"]}]}}
    (theirs,), (ours,) = (place.ask({**asked, **own}, who).body.rows for who in (lead, OPERATOR))
    published = elsewhere in (0, FEWEST_ELSEWHERE)
    if published:
        assert (theirs.n, theirs.span) == (ours.n, ours.span)
        assert theirs.span is not None
    else:
        assert theirs.n == 0
        answer = place.ask({**asked, **own}, lead)
        assert answer.coverage[0].missing[0].n == 40
        assert answer.method.facts["year_levels"] == []
    banded = {"what": [QUIZ], "split": [{"band": {"assessment": "Quiz", "sitting": "October"}}]}
    labels = [row.label for row in place.ask({**banded, **own}, lead).body.rows]
    assert ("High start" in labels) == published


def test_a_fit_stays_until_enough_has_changed(place: Place) -> None:
    """One late result elsewhere moves the data lead's line and not the school lead's, who is told;
    ten move both. The school lead's own rows are up to date all the while."""
    district(place, 40)
    lead = actor_named(place.engine, "lead")
    asked = {"what": [QUIZ], "against": PRIOR, "who": {"all": [
        {"field": "school", "in": ["A"]}]}}  # fmt: skip

    def both() -> list[tuple[float, float]]:
        return [
            (row.span, row.mean)
            for row in (place.ask(asked, who).body.rows[0] for who in (OPERATOR, lead))
        ]

    def change(numbers: range, to: float) -> None:
        lines = "".join(f"{n},Quiz,{to + n}\n" for n in numbers)
        place.bring("results", f"Number,Test,Score\n{lines}", f"{to}.csv", sitting="May",
                    date="2026-05-01")  # fmt: skip

    first = both()
    assert first[0] == first[1]
    change(range(50, 51), 300.0)
    ours, theirs = both()
    assert ours != first[0]
    assert theirs == first[1]
    version = place.snapshot.version - 1
    assert f"that of version {version}" in place.ask(asked, lead).method.says[0]
    assert "that of version" not in place.ask(asked).method.says[0]
    change(range(0, 1), 400.0)  # one of their own: shown at once, against the line that stays
    assert both()[1][1] == pytest.approx(both()[0][1])
    assert both()[1] != theirs
    change(range(55, 70), 100.0)
    ours, theirs = both()
    assert ours == theirs
    assert "that of version" not in place.ask(asked, lead).method.says[0]
    assert place.ask({**asked, "version": version}, lead).body.rows[0].span == first[1][0]
