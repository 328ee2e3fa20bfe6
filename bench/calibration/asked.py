"""Everyday questions, and of whom their rows speak."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

MATHS = {"assessment": "Spring survey", "subject": "Mathematics", "sitting": "spring 2026"}
EACH = {**MATHS, "subject": "each"}
LEVEL = {**MATHS, "score": "level"}
SCHOOL, CLASS, YEAR = {"field": "school"}, {"field": "class"}, {"field": "year_level"}
LANGUAGE, SEX = {"characteristic": "Home language"}, {"characteristic": "Sex"}
MEALS = {"characteristic": "Meal support"}
PRIOR: dict[str, Any] = {"prior": {}}
REST: dict[str, Any] = {"group": {"who": {}}}
POOLED: dict[str, Any] = {"prior": {"model": "multilevel"}}
EARLIER: dict[str, Any] = {"earlier": {"measure": {"assessment": "same", "sitting": {"back": 1}}}}
SINCE: dict[str, Any] = {
    "earlier": {"measure": {"assessment": "same", "subject": "same", "sitting": {"back": 1}}}
}
SHARE = {"measure": LEVEL, "statistic": "share"}
GIRLS = {"all": [{"characteristic": "Sex", "in": ["F"]}]}
AT_ONE = {"all": [{"field": "school", "in": ["School 2"]}]}
TODAY = {"as_of": "today"}
SPAN = {"derive": "span", "of": MATHS, "against": PRIOR}
BELOW = [{"measure": SPAN, "below": -18}]

Judged = Literal["school", "class", "group", "meals", "all"]
Held = Literal["start", "rest", "nothing", "earlier", "sittings"]


@dataclass(frozen=True)
class Asked:
    """A question. judged: of whom its rows are; held: against what; mixed: it judges every kind of
    group at once."""

    question: dict[str, Any]
    judged: Judged
    held: Held
    mixed: bool = field(default=False)


def _of(judged: Judged, held: Held, *, mixed: bool = False, **keys: Any) -> Asked:
    return Asked({"what": [MATHS], **keys}, judged, held, mixed)


QUESTIONS: dict[str, Asked] = {
    "schools against start": _of("school", "start", split=[SCHOOL], against=PRIOR),
    "classes against start": _of("class", "start", split=[CLASS], against=PRIOR),
    "language against start": _of("group", "start", split=[LANGUAGE], against=PRIOR),
    "sex against start": _of("group", "start", split=[SEX], against=PRIOR),
    "meal support against start": _of("meals", "start", split=[MEALS], against=PRIOR),
    "year levels against start": _of("all", "start", split=[YEAR], against=PRIOR),
    "everybody against start": _of("all", "start", against=PRIOR),
    "girls by school against start": _of("school", "start", who=GIRLS, split=[SCHOOL],
                                         against=PRIOR),
    "classes of one school against start": _of("class", "start", who=AT_ONE, split=[CLASS],
                                               against=PRIOR),
    "one school against start": _of("school", "start", who=AT_ONE, against=PRIOR),
    "sex in one school against start": _of("school", "start", who=AT_ONE, split=[SEX],
                                           against=PRIOR),
    "start bands against start": _of("all", "start", split=[{"band": "prior"}], against=PRIOR),
    "schools against the rest": _of("school", "rest", split=[SCHOOL], against=REST),
    "classes against the rest": _of("class", "rest", split=[CLASS], against=REST),
    "meal support against the rest": _of("meals", "rest", split=[MEALS], against=REST),
    "language against the rest": _of("group", "rest", split=[LANGUAGE], against=REST),
    "school × language against start": _of("school", "start", split=[SCHOOL, LANGUAGE],
                                           against=PRIOR),
    "school × sex against start": _of("school", "start", split=[SCHOOL, SEX], against=PRIOR),
    "school × sex, no yardstick": _of("group", "nothing", split=[SCHOOL, SEX]),
    "sex × meal support, no yardstick": _of("group", "nothing", split=[SEX, MEALS]),
    "schools, no yardstick": _of("school", "nothing", split=[SCHOOL]),
    "sex, no yardstick": _of("group", "nothing", split=[SEX]),
    "three subjects × school against start": _of("school", "start", what=[EACH], split=[SCHOOL],
                                                 against=PRIOR),
    "three subjects × class against start": _of("class", "start", what=[EACH], split=[CLASS],
                                                against=PRIOR),
    "schools, pooled": _of("school", "start", split=[SCHOOL], against=POOLED),
    "classes, pooled": _of("class", "start", split=[CLASS], against=POOLED),
    "schools by a smooth curve": _of("school", "start", split=[SCHOOL],
                                     against={"prior": {"expect": "spline"}}),
    "schools by equal starters": _of("school", "start", split=[SCHOOL],
                                     against={"prior": {"expect": "equal_scores"}}),
    "schools against last year": _of("school", "earlier", split=[SCHOOL], against=EARLIER),
    "sex against last year": _of("group", "earlier", split=[SEX], against=EARLIER),
    "start bands against last year": _of("all", "earlier", split=[{"band": "prior"}],
                                         against=EARLIER),
    "over time by school against start": _of("school", "start", show="over_time", split=[SCHOOL],
                                             against=PRIOR, who=TODAY),
    "over time by school": _of("school", "sittings", show="over_time", split=[SCHOOL], who=TODAY),
    "over time by sex": _of("group", "sittings", show="over_time", split=[SEX], who=TODAY),
    "make-up of those well below": _of("school", "start", show="make_up", focus=BELOW, mixed=True),
    "movement by school": _of("school", "start", what=[LEVEL], show="movement", split=[SCHOOL],
                              against=SINCE),
    "movement by class": _of("class", "start", what=[LEVEL], show="movement", split=[CLASS],
                             against=SINCE),
    "movement by sex": _of("group", "start", what=[LEVEL], show="movement", split=[SEX],
                           against=SINCE),
    "growth by school": _of("school", "start", show="growth", split=[SCHOOL], against=SINCE),
    "levels by school against start": _of("school", "start", what=[LEVEL], show="levels",
                                          split=[SCHOOL], against=PRIOR),
    "levels by class against start": _of("class", "start", what=[LEVEL], show="levels",
                                         split=[CLASS], against=PRIOR),
    "levels by sex against start": _of("group", "start", what=[LEVEL], show="levels",
                                       split=[SEX], against=PRIOR),
    "levels by sex": _of("group", "nothing", what=[LEVEL], show="levels", split=[SEX]),
    "levels by meal support": _of("meals", "nothing", what=[LEVEL], show="levels", split=[MEALS]),
    "levels by language": _of("group", "nothing", what=[LEVEL], show="levels", split=[LANGUAGE]),
    "levels by school": _of("school", "rest", what=[LEVEL], show="levels", split=[SCHOOL]),
    "levels by class": _of("class", "rest", what=[LEVEL], show="levels", split=[CLASS]),
    "share who pass by school": _of("school", "nothing", what=[SHARE], split=[SCHOOL]),
    "share who pass by sex": _of("group", "nothing", what=[SHARE], split=[SEX]),
    "share who pass by school against the rest": _of("school", "rest", what=[SHARE],
                                                     split=[SCHOOL], against=REST),
    "strip, no yardstick": _of("school", "rest", show="strip", mixed=True),
    "strip against start": _of("school", "start", show="strip", against=PRIOR, mixed=True),
}  # fmt: skip
