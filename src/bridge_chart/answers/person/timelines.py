"""A subject's results over time, in one unit that holds for all of them."""

from __future__ import annotations

from bridge_chart.answers.person.page import Result, Timeline
from bridge_chart.answers.person.results import NINE_IN_TEN, Found
from bridge_chart.answers.person.standing import Turned


def timelines_of(found: list[Found]) -> tuple[list[Timeline], list[Result]]:
    """The timelines, and the results with their standing in them; `found` keeps its order."""
    results = [one.result for one in found]
    lines = []
    for about in dict.fromkeys(result.about for result in results):
        places = [at for at, one in enumerate(found) if one.result.about == about]
        there = [at for at in places if results[at].value is not None]
        if not there:
            lines.append(Timeline(about=about, unit="none", results=places[::-1]))
            continue
        nation = all(found[at].percentile is not None for at in there)
        district = all(found[at].deviation is not None for at in there)
        for at in there if nation or district else ():
            turned = found[at].percentile if nation else found[at].deviation
            assert turned is not None
            results[at] = _standing(results[at], turned)
        unit = "percentile" if nation else "z" if district else "none"
        lines.append(Timeline(about=about, unit=unit, results=places[::-1]))
    return lines, results


def _standing(result: Result, turned: Turned) -> Result:
    value = result.value
    assert value is not None
    more: dict[str, float] = {"standing": turned(value)}
    if result.measured:
        more |= {
            "standing_low": turned(value - result.measured),
            "standing_high": turned(value + result.measured),
        }
    if result.expected is not None and result.error:
        reach = NINE_IN_TEN * result.error
        more |= {
            "similar_low": turned(result.expected - reach),
            "similar_high": turned(result.expected + reach),
        }
    return result.model_copy(update=more)
