"""For every key and value of the question's format: a question in which it changes the answer, or
the words in which it is refused.

A `Case` sets one place of a question to some values. Each value must give another answer than the
key left away, unless it is what the key means when left away (`SAME`), or be refused by name (a
text: words of the refusal).
"""

from __future__ import annotations

import copy
from dataclasses import dataclass
from typing import Any, get_args, get_origin

from pydantic import BaseModel

from bridge_chart.terms import question as q


class _Same:
    """The key's meaning when it is left away."""


SAME = _Same()
CHANGES = object()
ABSENT = object()


@dataclass(frozen=True)
class Case:
    """`atoms`: the values' names in `every_atom`; `values`: what is set, and what must come."""

    model: str
    base: dict[str, Any]
    path: str
    values: list[tuple[Any, Any]]
    where: str = "demo"
    without: Any = ABSENT
    """What stands at the place in the question that the answer is held against; else nothing."""

    def question(self, value: Any) -> dict[str, Any]:
        out = copy.deepcopy(self.base)
        *way, last = (int(p) if p.isdigit() else p for p in self.path.split("."))
        at: Any = out
        for step in way:
            at = at[step]
        if value is ABSENT:
            if isinstance(at, dict):
                at.pop(last, None)
        else:
            at[last] = value
        return out

    @property
    def atoms(self) -> set[str]:
        """What it is a witness for: the key, and each value that the format spells out."""
        found = {self.model}
        for value, _ in self.values:
            for one in value if isinstance(value, list) else [value]:
                if isinstance(one, str | int):
                    found.add(f"{self.model}={one}")
        return found


def every_atom() -> set[str]:
    """Every key of every part of the format, and every value that the format spells out."""
    seen: dict[type[BaseModel], None] = {}
    stack: list[type[BaseModel]] = [q.Question]
    while stack:
        model = stack.pop()
        if model in seen:
            continue
        seen[model] = None
        for field in model.model_fields.values():
            stack += [part for part in _parts(field.annotation) if isinstance(part, type)]
    return {
        name
        for model in seen
        for key, field in model.model_fields.items()
        for plain in [f"{model.__name__}.{field.alias or key}"]
        for name in [plain, *(f"{plain}={v}" for v in _parts(field.annotation)
                              if not isinstance(v, type))]
    }  # fmt: skip


def _parts(kind: Any) -> list[Any]:
    """Models and literal values in a type, however deep."""
    if get_origin(kind) is None:
        return [kind] if isinstance(kind, type) and issubclass(kind, BaseModel) else []
    if "Literal" in str(get_origin(kind)):
        return list(get_args(kind))
    arguments = get_args(kind)
    if "Annotated" in str(get_origin(kind)) or hasattr(kind, "__metadata__"):
        arguments = arguments[:1]
    return [part for argument in arguments for part in _parts(argument)]


SURVEY: dict[str, Any] = {"assessment": "Spring survey", "subject": "Mathematics"}
MATHS = {**SURVEY, "sitting": "spring 2026"}
READING = {**MATHS, "subject": "Reading"}
BEFORE = {**SURVEY, "sitting": "spring 2025"}
CHECK: dict[str, Any] = {"assessment": "Harbour check", "sitting": "winter 2026"}
FORM_A = {**CHECK, "form": "A"}
LAST_ONE = {**FORM_A, "part": {"kind": "question", "is": "Q30"}}
GRADE: dict[str, Any] = {"assessment": "Harbour certificate", "subject": "Geography"}
EIGHTH: dict[str, Any] = {"all": [{"field": "year_level", "in": [8]}]}
PRIOR: dict[str, Any] = {"prior": {}}
SPAN_OF = {"derive": "span", "of": MATHS, "against": PRIOR}
SCHOOL: dict[str, Any] = {"field": "school"}
SEX: dict[str, Any] = {"characteristic": "Sex"}
SAME_BEFORE = {"assessment": "same", "subject": "same", "sitting": {"back": 1}}
NETHERBY_8B = "Netherby: 8B, 2025-26"
PLAIN: dict[str, Any] = {"what": [MATHS], "who": EIGHTH, "split": [SCHOOL]}
QUIZ: dict[str, Any] = {"assessment": "Quiz", "subject": "Maths", "sitting": "May"}


def base(**more: Any) -> dict[str, Any]:
    return {**PLAIN, **more}


def one(value: Any, outcome: Any = CHANGES) -> list[tuple[Any, Any]]:
    return [(value, outcome)]


def who(condition: dict[str, Any], **more: Any) -> dict[str, Any]:
    return base(who={"all": [condition]}, **more)


def measured(**more: Any) -> dict[str, Any]:
    return base(what=[{**MATHS, **more}])


def derived(how: str, **more: Any) -> dict[str, Any]:
    return {"derive": how, "of": MATHS, **more}


LISTED = {**PLAIN, "show": "students", "split": []}
OPENED = base(open={"add": [{"characteristic": "Sex", "in": ["F"]}]})
STEPS = {"measure": {**MATHS, "score": "level"}, "level": ["Secure"]}
NEAR = {"measure": MATHS, "boundary": "Secure", "within": 3}
MISSING = {"missing": "absent", "measure": MATHS}
SAID = [SAME, *[CHANGES] * 9]

LEVEL_2 = "Harbour award level 2"
CREDITS = {"assessment": "Credits"}
AWARD = {"derive": "award", "of": CREDITS, "rule": LEVEL_2}
LEVEL = {**MATHS, "score": "level"}
LEVELS = {"what": [LEVEL], "show": "levels", "who": EIGHTH}
BUILDING = (4332, 1898)
"""Opaque ids of two students of year 8 who are in the second level."""
TRIED = {"of": LEVEL, "moves": [{"student": BUILDING[0], "by": 1}]}
PLAN_CASES = [
    Case("Question.plan", LEVELS, "plan", one(TRIED)),
    Case("Trial.of", {**LEVELS, "plan": TRIED}, "plan.of",
         [({**READING, "score": "level"}, CHANGES), (FORM_A, "no levels or grades")],
         without=LEVEL),
    Case("Trial.moves", {**LEVELS, "plan": TRIED}, "plan.moves",
         one([{"student": one_id, "by": 1} for one_id in BUILDING]), without=TRIED["moves"]),
    Case("Move.student", {**LEVELS, "plan": TRIED, "split": [SEX]}, "plan.moves.0.student",
         one(99_999, "of the students"), without=BUILDING[0]),
    Case("Move.by", {**LEVELS, "plan": TRIED}, "plan.moves.0.by", one(2), without=1),
]  # fmt: skip


QUESTION_CASES = [
    Case("Question.question", base(), "question", one(1, SAME)),
    Case("Question.who", {"what": [MATHS]}, "who", one(EIGHTH)),
    Case("Question.what", base(what=[READING]), "what.0", one(MATHS), without=READING),
    Case("Question.columns", LISTED, "columns", one([{"measure": MATHS}])),
    Case("Question.columns", base(), "columns", one(["notes"], "takes no “columns”")),
    Case("Question.columns", LISTED, "columns", one(["notes"])),
    Case("Listed.measure", {**LISTED, "columns": [{"measure": MATHS}]}, "columns.0.measure",
         one(READING), without=MATHS),
    Case("Listed.against", {**LISTED, "columns": [{"measure": MATHS}]}, "columns.0.against",
         one(PRIOR)),
    Case("Question.split", {"what": [MATHS]}, "split", one([SCHOOL])),
    *[Case("Question.split", base(what=[MATHS, BEFORE], split=[SEX]), "split",
           one([word, SEX]), without=[SEX]) for word in ("measure", "sitting", "subject", "part")],
    Case("Question.layout", base(), "layout", one({"rows": [SCHOOL]}, "layout")),
    Case("Layout.rows", base(), "layout", one({"rows": [SCHOOL]}, "layout")),
    Case("Layout.columns", base(), "layout", one({"columns": [SCHOOL]}, "layout")),
    *[Case(f"Layout.{side}={word}", base(), "layout", one({side: [word]}, "layout"))
      for side in ("rows", "columns") for word in ("measure", "sitting", "subject", "part")],
    Case("Question.against", base(), "against", one(PRIOR)),
    Case("Question.basis", base(), "basis", [("district", SAME), ("selection", "basis"),
                                             ({"who": EIGHTH}, "basis")]),
    Case("Basis.who", base(), "basis", one({"who": EIGHTH}, "basis")),
    Case("Question.unit", base(), "unit", [("own", SAME), *(
        (unit, f"unit “{unit}”") for unit in ("percent", "z", "effect", "percentile", "steps"))]),
    Case("Question.cohort", base(what=[MATHS, BEFORE], show="table"), "cohort",
         [("present", SAME), ("matched", CHANGES)]),
    Case("Question.over", base(what=[SURVEY], show="over_time", who={**EIGHTH, "as_of": "today"}),
         "over", [("sitting", SAME), ("year_level", CHANGES)]),
    Case("Question.over", base(), "over", one("year_level", "takes no “over”")),
    Case("Question.show", base(against=PRIOR, split=[SEX]), "show", [
        ("spans", SAME), *((s, CHANGES) for s in (
            "levels", "spread", "start_to_now", "over_time", "table", "students", "sure")),
        *((s, f"show “{s}”") for s in (
            "bridge", "scan", "student")), ("awards", "a whole award"),
        ("standing", CHANGES), ("trial", "a try is in steps"),
        ("movement", "from an earlier sitting"),
        ("growth", "from an earlier sitting"), ("pace", "since an earlier sitting")]),
    Case("Question.show", {"what": [MATHS]}, "show", [("chances", CHANGES), ("trial", CHANGES)]),
    Case("Question.options", {"what": [MATHS], "show": "trial", "who": EIGHTH}, "options", [
        ({"wanted": 0.9}, CHANGES), ({"at": "Strong"}, CHANGES), ({"figure": "share"}, SAME),
        ({"each": "one"}, SAME), ({"fewest": "students"}, SAME), ({"wanted": "luck"}, "options.")]),
    Case("Question.show", {"what": [MATHS], "against": {"earlier": {"measure": SAME_BEFORE}}},
         "show", [("growth", CHANGES), ("pace", CHANGES)]),
    Case("Question.options", {"what": [{"assessment": "Harbour mock", "subject": "Mathematics"}],
                              "show": "chances"},
         "options", [({"later": {"assessment": "Harbour certificate"}}, SAME),
                     ({"later": {"assessment": "Harbour certificate", "subject": "English"}},
                      CHANGES),
                     ({"later": {"assessment": "Driving test"}}, "later test")]),
    Case("Question.options", {"what": [MATHS], "show": "pace",
                              "against": {"earlier": {"measure": SAME_BEFORE}}},
         "options", [({"steps": 2}, SAME), ({"steps": 1}, CHANGES)]),
    Case("Question.options", {"what": [GRADE], "show": "standing",
                              "against": {"target": {"kind": "floor"}}},
         "options", [({"also": ["personal"]}, CHANGES), ({"also": ["dream"]}, "target")]),
    Case("Question.options", {"what": [MATHS], "show": "growth", "who": {"all": [
        {"field": "year_level", "in": [9]}]}, "against": {"earlier": {"measure": SAME_BEFORE}}},
         "options", [({"priors": 1}, SAME), ({"priors": 2}, CHANGES),
                     ({"priors": 4}, "less than or equal to 3")]),
    Case("Question.show", {"what": [{**MATHS, "score": "level"}],
                           "against": {"earlier": {"measure": SAME_BEFORE}}},
         "show", one("movement")),
    Case("Question.options", {"what": [MATHS], "show": "movement",
                              "against": {"earlier": {"measure": SAME_BEFORE}}},
         "options", [({"rule": "a rise, or the top held"}, CHANGES),
                     ({"rule": "luck"}, "rule for movement")]),
    Case("Question.show", {"what": [MATHS], "focus": [STEPS]}, "show", one("make_up")),
    Case("Question.show", {"what": [MATHS]}, "show", one("strip")),
    Case("Question.show", {"what": [FORM_A]}, "show", one("items")),
    Case("Question.show", {"what": [FORM_A], "split": [SEX]}, "show", one("bias")),
    Case("Question.options", {"what": [FORM_A], "show": "items"}, "options", [
        ({"by": "strand"}, CHANGES), ({"order": "paper"}, CHANGES), ({"look": "Q8"}, CHANGES),
        ({"only": "Fractions"}, CHANGES), ({"only": "Nothing"}, "is about “Nothing”"),
        ({"by": "colour"}, "says its colour")]),
    Case("Question.options", base(show="levels"), "options",
         one({"cuts": []}, "takes no “options”")),
    Case("Question.options", {"what": [MATHS], "show": "spread"}, "options", [
        ({"within": 9}, CHANGES), ({"cuts": []}, "options.cuts")]),
    Case("Question.options", {"what": [MATHS], "show": "spread", "who": {"all": [
        {"field": "year_level", "in": [8]}]}}, "options", one({"halves": True})),
    Case("Question.focus", base(), "focus", one([{"characteristic": "Sex", "in": ["F"]}])),
    Case("Question.focus", base(show="levels"), "focus", one([STEPS], "takes no “focus”")),
    Case("Question.reference", base(), "reference", [
        (["district"], SAME), (["nation"], CHANGES), ([], CHANGES)]),
    Case("Question.reference", base(who={"all": [{"field": "class", "in": [NETHERBY_8B]}]},
                                    split=[SEX]), "reference", one(["school"])),
    Case("Question.reference", base(show="spread", split=[SEX]), "reference",
         one(["nation"], "pins no row for the nation")),
    Case("Question.sort", base(), "sort", one([{"by": "label", "dir": "desc"}])),
    Case("Question.sort", base(what=[SURVEY], show="over_time"), "sort",
         one([{"by": "n"}], "takes no “sort”")),
    Case("SortBy.by", base(sort=[{"by": "n"}]), "sort.0.by", one("label"), without="n"),
    Case("SortBy.dir", base(sort=[{"by": "n"}]), "sort.0.dir",
         [("asc", SAME), ("desc", CHANGES)]),
    Case("Question.page", LISTED, "page", one({"size": 3})),
    Case("Question.page", base(), "page", one({"size": 3}, "takes no “page”")),
    Case("Page.size", {**LISTED, "page": {}}, "page.size", one(2)),
    Case("Page.after", {**LISTED, "page": {}}, "page.after", one(2)),
    *PLAN_CASES,
    Case("Question.version", base(), "version", one(8)),
    Case("Question.open", base(), "open", one({})),
    Case("Open.add", OPENED, "open.add", one([{"characteristic": "Sex", "in": ["M"]}])),
    Case("Open.what", {**OPENED, "what": [MATHS, READING]}, "open.what", one({"at": 1})),
    Case("Open.level", OPENED, "open.level", one(["Secure"])),
    Case("Open.columns", OPENED, "open.columns", one([{"measure": READING}])),
    Case("Open.columns", OPENED, "open.columns", one(["notes"])),
    Case("Open.sort", OPENED, "open.sort", one([{"by": "number"}])),
    Case("Open.page", OPENED, "open.page", one({"size": 2})),
    Case("Stands.at", {**OPENED, "what": [MATHS, READING], "open": {"what": {}}},
         "open.what.at", one(1)),
    Case("Stands.subject", {**PLAIN, "what": [{**MATHS, "subject": "each"}],
                            "open": {"what": {"subject": "Mathematics"}}},
         "open.what.subject", one("Reading"), without="Mathematics"),
    Case("Stands.sitting", base(what=[SURVEY], show="over_time", open={"what": {}}),
         "open.what.sitting", one("spring 2024")),
    Case("Stands.part", {**PLAIN, "who": {}, "what": [
        {**CHECK, "part": {"kind": "strand", "is": "each"}}],
        "open": {"what": {"part": "Number"}}},
        "open.what.part", one("Algebra"), without="Number"),
    Case("Stands.part", {"what": [FORM_A], "show": "items", "open": {"what": {}}},
         "open.what.part", one({"kind": "question", "is": "Q1"})),
    Case("Stands.score", base(open={"what": {}}), "open.what.score", [
        ("auto", SAME), ("scaled", SAME), ("level", CHANGES), ("raw", "no raw mark"),
        ("percent", "no percent"), ("grade", "no grade"), ("points", "no points"),
        ("percentile", "no percentile rank"), ("credits", "no credits")]),
    Case("Measure.score=credits", {"what": [CREDITS]}, "what.0.score", [
        ("credits", SAME), ("raw", "no raw mark")]),
]  # fmt: skip

MEASURE_CASES = [
    Case("Measure.assessment", base(what=[CHECK], who={}), "what.0.assessment",
         one("Spring survey", "several subjects")),
    Case("Measure.subject", measured(), "what.0.subject", one("Reading"), without="Mathematics"),
    Case("Measure.sitting", base(what=[SURVEY]), "what.0.sitting", one("spring 2025")),
    Case("Back.back", base(what=[SURVEY]), "what.0.sitting", one({"back": 1})),
    Case("Measure.role", {"what": [GRADE]}, "what.0.role", [
        ("result", SAME), ("predicted", CHANGES), ("target", "several kinds of target"),
        ("estimate", "no estimate"), ("judgement", "no judgement")]),
    Case("Measure.role", {"what": [{**GRADE, "kind": "floor", "role": "target"}]},
         "what.0.role", one("target"), without="predicted"),
    Case("Measure.kind", {"what": [{**GRADE, "role": "target", "kind": "floor"}]},
         "what.0.kind", one("personal"), without="floor"),
    Case("Measure.kind", measured(), "what.0.kind", one("floor", "“kind”")),
    Case("Measure.collected", measured(), "what.0.collected", one("2026-01-01", "collected")),
    Case("Measure.score", {"what": [CHECK]}, "what.0.score", [
        ("auto", SAME), ("scaled", SAME), ("raw", CHANGES),
        ("percent", "no percent"), ("level", "no level"), ("grade", "no grade"),
        ("points", "no points"),
        ("percentile", "no percentile rank"), ("credits", "no credits")]),
    Case("Measure.score=credits", {"what": [CREDITS]}, "what.0.score", [
        ("credits", SAME), ("raw", "no raw mark")]),
    Case("Measure.score=scaled", {**PLAIN, "what": [{**MATHS, "score": "scaled"}]},
         "what.0.score", one("raw", "no raw mark")),
    Case("Measure.grain", base(show="levels"), "what.0.grain", [
        ("whole", SAME), ("half", CHANGES), ("step", "finer steps")]),
    Case("Measure.form", {"what": [CHECK]}, "what.0.form", one("A")),
    Case("Measure.attempt", measured(), "what.0.attempt", [("official", SAME), *(
        (a, f"attempt “{a}”") for a in ("first", "last", "best"))]),
    Case("Measure.part", {"what": [CHECK]}, "what.0.part", one("Number")),
    Case("Part.kind", {"what": [{**CHECK, "part": {"kind": "strand"}}]}, "what.0.part.kind", [
        ("question", CHANGES), ("type", CHANGES), ("paper", "no papers"),
        ("section", "no sections"), ("objective", "no objectives"), ("skill", "no skills"),
        ("topic", CHANGES)], without="strand"),
    Case("Part.kind", {"what": [{**CHECK, "part": {"kind": "type"}}]}, "what.0.part.kind",
         one("strand"), without="type"),
    Case("Part.is", {"what": [{**CHECK, "part": {"kind": "strand"}}]}, "what.0.part.is", [
        ("each", SAME), ("Number", CHANGES)]),
    Case("Part.tagged", {"what": [{**CHECK, "part": {"kind": "question"}}]},
         "what.0.part.tagged", one(["Number"])),
    Case("Part.tagged", {"what": [{**CHECK, "part": {"kind": "question"}}]},
         "what.0.part.tagged", one(["Nothing"], "no tag")),
    Case("Derived.derive", {"what": [derived("span", against={"earlier": {"measure": BEFORE}})]},
         "what.0.derive", [("gain", CHANGES), ("steps", CHANGES), *(
             (d, "has no “against”") for d in (
                 "pace", "projected", "convert", "percentile", "mastered")),
             ("growth_percentile", "among those who started alike"),
             ("status", "a word for each student"), ("award", "has no “against”")],
         without="span"),
    Case("Derived.derive", {"what": [derived("gain", against={"earlier": {"measure": BEFORE}})]},
         "what.0.derive", one("span"), without="gain"),
    Case("Derived.derive=steps", {"what": [{**MATHS, "score": "level"}]}, "what.0",
         one(derived("steps", of={**MATHS, "score": "level"},
                     against={"earlier": {"measure": SAME_BEFORE}}))),
    Case("Derived.derive=credit", {"what": [{**MATHS, "score": "level"}]}, "what.0",
         one(derived("credit", of={**MATHS, "score": "level"},
                     against={"earlier": {"measure": SAME_BEFORE}}))),
    Case("Derived.derive=award", {"what": [CREDITS]}, "what.0", one(AWARD)),
    Case("Derived.rule", {"what": [AWARD]}, "what.0.rule", one("Mainland entry"), without=LEVEL_2),
    Case("Derived.condition", {"what": [AWARD]}, "what.0.condition", [
        ("Writing", CHANGES), ("Swimming", "condition")]),
    Case("Derived.condition", {"what": [derived("gain", against={"earlier": {
        "measure": BEFORE}})]}, "what.0.condition", one("Writing", "has no “condition”")),
    Case("Derived.counting", {"what": [AWARD]}, "what.0.counting", [
        ("banked", CHANGES), ("banked and estimated", SAME)]),
    Case("Question.show=awards", {"what": [AWARD], "show": "levels"}, "show", one("awards")),
    Case("Question.options", {"what": [AWARD], "show": "awards"}, "options", [
        ({"condition": "Writing"}, CHANGES), ({"condition": "Swimming"}, "condition")]),
    Case("Derived.rule", {"what": [derived("credit", of={**MATHS, "score": "level"},
                                           against={"earlier": {"measure": SAME_BEFORE}})]},
         "what.0.rule", one("a rise, or the top held")),
    Case("Derived.derive=pace", {"what": [MATHS]}, "what.0", one(derived("pace"))),
    Case("Derived.derive=projected", {"what": [MATHS]}, "what.0", one(derived("projected"))),
    Case("Derived.derive=growth_percentile", {"what": [MATHS]}, "what.0",
         one(derived("growth_percentile"))),
    Case("Derived.against", {"what": [derived("growth_percentile")]}, "what.0.against",
         [(PRIOR, SAME), ({"prior": {"priors": [{**READING, "sitting": "spring 2025"}]}}, CHANGES),
          ({"nation": {}}, "among those who started alike")]),
    Case("Derived.derive=status", {"what": [{**MATHS, "score": "level"}], "show": "levels"},
         "what.0", one(derived("status", against=PRIOR))),
    Case("Derived.derive=convert", {"what": [{**READING, "score": "level"}], "show": "levels"},
         "what.0", one(derived("convert", of=READING))),
    Case("Derived.table", {"what": [derived("convert", of=READING)], "show": "levels"},
         "what.0.table", [("Book band", SAME), ("Shoe size", "scale")]),
    Case("Derived.derive=percentile", {"what": [MATHS]}, "what.0", one(derived("percentile")),
         without=MATHS),
    Case("Derived.derive=mastered", {"what": [CHECK]}, "what.0",
         one({"derive": "mastered", "of": CHECK}), without=CHECK),
    Case("Derived.of", {"what": [derived("percentile")]}, "what.0.of", one(READING),
         without=MATHS),
    Case("Derived.against", {"what": [derived("span", against=PRIOR)]}, "what.0.against",
         one({"nation": {}}), without=PRIOR),
    Case("Derived.table", {"what": [derived("percentile")]}, "what.0.table", one("a", "“table”")),
    Case("Derived.derive=award", {"what": [CREDITS]}, "what.0", one(AWARD)),
    Case("Derived.rule", {"what": [AWARD]}, "what.0.rule", one("Mainland entry"), without=LEVEL_2),
    Case("Derived.condition", {"what": [AWARD]}, "what.0.condition", [
        ("Writing", CHANGES), ("Swimming", "condition")]),
    Case("Derived.condition", {"what": [derived("gain", against={"earlier": {
        "measure": BEFORE}})]}, "what.0.condition", one("Writing", "has no “condition”")),
    Case("Derived.counting", {"what": [AWARD]}, "what.0.counting", [
        ("banked", CHANGES), ("banked and estimated", SAME)]),
    Case("Question.show=awards", {"what": [AWARD], "show": "levels"}, "show", one("awards")),
    Case("Question.options", {"what": [AWARD], "show": "awards"}, "options", [
        ({"condition": "Writing"}, CHANGES), ({"condition": "Swimming"}, "condition")]),
    Case("Derived.rule", {"what": [derived("percentile")]}, "what.0.rule", one("a", "“rule”")),
    Case("Figure.measure", base(what=[{"measure": MATHS, "statistic": "share"}]),
         "what.0.measure", one(READING), without=MATHS),
    Case("Figure.statistic", base(what=[{"measure": MATHS, "statistic": "mean"}]),
         "what.0.statistic", [("share", CHANGES), *(
             (s, f"statistic “{s}”") for s in (
                 "sd", "median", "quartiles", "mastered", "count", "minimum", "maximum"))],
         without="mean"),
    Case("Figure.statistic", base(what=[{"measure": MATHS, "statistic": "share"}]),
         "what.0.statistic", one("mean"), without="share"),
    Case("Figure.cut", base(what=[{"measure": MATHS, "statistic": "share"}]), "what.0.cut",
         [("Strong", CHANGES), (330.5, CHANGES)]),
    Case("Figure.meets", base(what=[{"measure": MATHS, "statistic": "share"}]), "what.0.meets",
         one([{"measure": READING, "from": 320}])),
]  # fmt: skip

CONDITION_CASES = [
    Case("Who.all", base(who={}), "who.all", one(EIGHTH["all"])),
    Case("Who.as_of", base(what=[BEFORE]), "who.as_of", [("sitting", SAME), ("today", CHANGES)]),
    Case("AsOfDate.date", base(what=[BEFORE]), "who.as_of", one({"date": "2026-05-01"})),
    Case("AsOfYear.year", base(what=[BEFORE]), "who.as_of", one({"year": "2025-26"})),
    Case("AsOfSitting.sitting", base(what=[BEFORE]), "who.as_of", one({"sitting": "spring 2026"})),
    *[Case("FieldIs.field", base(who={"all": []}), "who.all",
           [([{"field": field, "in": value}], CHANGES)]) for field, value in (
               ("school", ["Netherby"]), ("year_level", [7]), ("class", [NETHERBY_8B]))],
    *[Case(f"FieldIs.field={field}", base(who={"all": []}), "who.all",
           one([{"field": field, "in": value}], outcome)) for field, value, outcome in (
               ("school", ["Netherby"], CHANGES), ("year_level", [7], CHANGES),
               ("class", [NETHERBY_8B], CHANGES), ("teacher", [None], CHANGES),
               ("student", [999_999_999], "no student"))],
    Case("FieldIs.field=course", {"what": [QUIZ]}, "who",
         one({"all": [{"field": "course", "in": ["Maths"]}]}), where="courses"),
    Case("FieldIs.in", who({"field": "school", "in": ["Netherby"]}), "who.all.0.in",
         one(["Brackwater"]), without=["Netherby"]),
    Case("FieldIs.from", who({"field": "year_level", "to": 9}), "who.all.0.from", one(8)),
    Case("FieldIs.to", who({"field": "year_level", "from": 6}), "who.all.0.to", one(8)),
    Case("FieldIs.of", {"what": [QUIZ], "who": {"all": [{"field": "class", "in": [None]}]}},
         "who.all.0.of", one("subject"), where="courses"),
    Case("FieldIs.of", who({"field": "school", "in": [None]}), "who.all.0.of",
         one("subject", "“of”")),
    Case("FieldIs.as_of", {"what": [BEFORE], "who": {"all": [
        {"field": "school", "in": ["Netherby"]}]}}, "who.all.0.as_of",
        [("sitting", SAME), ("today", CHANGES)]),
    Case("CharacteristicIs.characteristic", base(), "who", one(
        {"all": [{"characteristic": "Sex", "in": ["F"]}]})),
    Case("CharacteristicIs.in", who({"characteristic": "Sex", "in": ["F"]}), "who.all.0.in",
         one(["M"]), without=["F"]),
    Case("CharacteristicIs.as_of", {"what": [BEFORE], "who": {"all": [
        {"characteristic": "Meal support", "in": ["yes"]}]}}, "who.all.0.as_of",
        [("sitting", SAME), ("today", CHANGES)]),
    Case("MeasureIs.measure", who({"measure": MATHS, "from": 320}), "who.all.0.measure",
         one(READING), without=MATHS),
    *[Case(f"MeasureIs.{key}", who({"measure": MATHS, "from": 200}), f"who.all.0.{key}",
           one(320)) for key in ("from", "to", "above", "below")],
    Case("MeasureIs.level", base(), "who.all.0", one(STEPS)),
    Case("MeasureIs.status", who({"measure": MATHS, "from": 0}), "who.all.0.status",
         one(["on"], "status")),
    Case("MeasureIs.status", who({"measure": SPAN_OF, "from": -1000}), "who.all.0.status",
         one(["below"])),
    Case("MeasureIs.option", who({"measure": MATHS, "from": 0}), "who.all.0.option",
         one("A", "option")),
    Case("MeasureIs.option", {"what": [CHECK], "who": {"all": [
        {"measure": {**CHECK, "part": {"kind": "question", "is": "Q8"}}, "from": 0}]}},
         "who.all.0.option", one("A")),
    Case("MeasureIs.form", {"what": [CHECK], "who": {"all": [{"measure": CHECK, "from": 0}]}},
         "who.all.0.form", one("A")),
    Case("MeasureIs.boundary", base(), "who.all.0", one(NEAR)),
    Case("MeasureIs.within", who(NEAR), "who.all.0.within", one(9), without=3),
    Case("MeasureIs.within", who({"measure": MATHS, "from": 0}), "who.all.0.within",
         one(9, "“within”")),
    Case("MeasureIs.side", who(NEAR), "who.all.0.side", [
        ("both", SAME), ("below", CHANGES), ("above", CHANGES)]),
    Case("BandIs.band", who({"band": BEFORE, "in": ["low"]}), "who.all.0.band",
         one({**READING, "sitting": "spring 2025"}), without=BEFORE),
    Case("BandIs.in", who({"band": BEFORE, "in": ["low"]}), "who.all.0.in",
         [(["middle"], CHANGES), (["high"], CHANGES), (["clever"], "starting band")],
         without=["low"]),
    Case("BandIs.scheme", who({"band": BEFORE, "in": ["low"]}), "who.all.0.scheme",
         one({"cuts": [290, 340]})),
    Case("BandIs.in", who({"band": BEFORE, "in": ["high"]}), "who.all.0.in",
         one(["low"]), without=["high"]),
    *[Case("Missing.missing", {"what": [MATHS], "who": {"all": [{"missing": "absent", **rest}]}},
           "who.all.0.missing", one(reason), without="absent") for reason, rest in (
               ("no_row", {"measure": MATHS}), ("exempt", {"measure": MATHS}),
               ("not_sat", {"measure": MATHS}),
               ("withheld", {"measure": MATHS}), ("not_on_roll", {"measure": BEFORE}),
               ("no_prior", {"measure": MATHS, "against": PRIOR}),
               ("no_yardstick", {"measure": MATHS, "against": PRIOR}),
               ("too_few", {"measure": MATHS}),
               ("no_finer_step", {"measure": {**MATHS, "grain": "half", "score": "level"}}),
               ("not_reached", {"measure": LAST_ONE}))],
    Case("Missing.missing", who({**MISSING, "missing": "exempt"}), "who.all.0.missing",
         one("absent"), without="exempt"),
    Case("Missing.measure", {"what": [MATHS], "who": {"all": [MISSING]}}, "who.all.0.measure",
         one(READING), without=MATHS),
    Case("Missing.against", {"what": [MATHS], "who": {"all": [
        {"missing": "no_prior", "measure": MATHS}]}}, "who.all.0.against", one(PRIOR)),
    Case("InSet.set", base(), "who.all.0", one({"set": "Nobody's"}, "no group")),
    Case("Known.known", base(), "who.all.0", one({"known": [{"measure": READING, "from": 0}]})),
    Case("AnyOf.any", base(), "who.all.0", one({"any": [EIGHTH["all"][0], STEPS]})),
    Case("AllOf.all", base(), "who.all.0", one({"all": [EIGHTH["all"][0], STEPS]})),
    Case("Not.not", base(), "who.all.0", one({"not": EIGHTH["all"][0]})),
]  # fmt: skip

SPLIT_CASES = [
    *[Case("ByField.field", {"what": [MATHS], "who": EIGHTH}, "split", one([{"field": field}]))
      for field in ("school", "class", "teacher")],
    *[Case(f"ByField.field={field}", {"what": [MATHS]}, "split",
           one([{"field": field}], outcome)) for field, outcome in (
               ("school", CHANGES), ("class", CHANGES), ("teacher", CHANGES),
               ("year_level", CHANGES), ("student", "a row for each student"))],
    Case("ByField.field=course", {"what": [QUIZ]}, "split", one([{"field": "course"}]),
         where="courses"),
    Case("ByField.of", {"what": [QUIZ], "split": [{"field": "class"}]}, "split.0.of",
         one("subject"), where="courses"),
    Case("ByField.of", base(), "split.0.of", one("subject", "“of”")),
    Case("ByField.as_of", {"what": [BEFORE], "split": [SCHOOL]}, "split.0.as_of",
         [("sitting", SAME), ("today", CHANGES)]),
    Case("ByCharacteristic.characteristic", base(), "split.0", one(SEX), without=SCHOOL),
    Case("ByCharacteristic.as_of", {"what": [BEFORE], "split": [{"characteristic":
         "Meal support"}]}, "split.0.as_of", [("sitting", SAME), ("today", CHANGES)]),
    Case("ByBand.band", base(against=PRIOR), "split.0", [({"band": "prior"}, CHANGES),
         ({"band": {**READING, "sitting": "spring 2025"}}, CHANGES)], without=SCHOOL),
    Case("ByBand.band=prior", base(), "split.0", one({"band": "prior"}), without=SCHOOL),
    Case("ByBand.scheme", base(split=[{"band": "prior"}]), "split.0.scheme",
         [({"cuts": [300]}, CHANGES), ({"cuts": [340, 300]}, "must rise")]),
    Case("BandScheme.cuts", base(split=[{"band": "prior", "scheme": {"cuts": [300]}}]),
         "split.0.scheme.cuts", one([310, 340]), without=[300]),
    Case("BandScheme.names", base(split=[{"band": "prior", "scheme": {"cuts": [300]}}]),
         "split.0.scheme.names", [(["catching up", "there"], CHANGES), (["one"], "2 bands")]),
    Case("ByLevel.level_of", base(), "split.0", one({"level_of": BEFORE}), without=SCHOOL),
    Case("ByPopulations.populations", base(), "split.0",
         one({"populations": [{"label": "a", "who": {}}]}), without=SCHOOL),
    Case("Population.label", base(split=[{"populations": [{"label": "a", "who": {}}]}]),
         "split.0.populations.0.label", one("b"), without="a"),
    Case("Population.who", base(split=[{"populations": [{"label": "a", "who": {}}]}]),
         "split.0.populations.0.who", one({"all": [STEPS]}), without={}),
]  # fmt: skip

FIRST_OF = {"prior": {"priors": [{"first_of": [BEFORE]}]}}
GROWN = {"growth_table": {"goal": "expected", "from": SAME_BEFORE}}
YARDSTICK_CASES = [
    Case("AgainstPrior.prior", base(), "against", one(PRIOR)),
    Case("PriorSpec.priors", base(against={"prior": {}}), "against.prior.priors", [
        ("declared", SAME), ([{**READING, "sitting": "spring 2025"}], CHANGES)]),
    Case("PriorSpec.expect", base(against={"prior": {}}), "against.prior.expect", [
        ("linear", SAME), ("cubic", CHANGES), ("spline", CHANGES), ("equal_scores", CHANGES),
        ("table", CHANGES)]),
    Case("PriorSpec.model", base(against={"prior": {}}), "against.prior.model", [
        ("simple", SAME), ("multilevel", CHANGES), ("corrected", CHANGES)]),
    Case("PriorSpec.covariates", base(against={"prior": {}}), "against.prior.covariates",
         [(["Sex"], CHANGES), (["Colour"], "no characteristic")]),
    Case("PriorSpec.table", base(against={"prior": {}}), "against.prior.table",
         one("a", "table by name")),
    Case("FirstOf.first_of", base(), "against", one(FIRST_OF, "the first of several priors")),
    Case("AgainstTarget.target", {"what": [GRADE]}, "against", one({"target": {"kind": "floor"}})),
    Case("TargetSpec.kind", {"what": [GRADE], "against": {"target": {"kind": "floor"}}},
         "against.target.kind", one("personal"), without="floor"),
    Case("TargetSpec.about", {"what": [GRADE], "against": {"target": {"kind": "floor"}}},
         "against.target.about", [("same", SAME), (GRADE, "about another measure")]),
    Case("AgainstPredicted.predicted", {"what": [GRADE]}, "against", one({"predicted": {}})),
    Case("PredictedSpec.about", {"what": [GRADE], "against": {"predicted": {}}},
         "against.predicted.about", [("same", SAME), (GRADE, "about another measure")]),
    Case("PredictedSpec.collected", {"what": [GRADE], "against": {"predicted": {}}},
         "against.predicted.collected", one("2025-01-01", "collected")),
    Case("AgainstNation.nation", base(), "against", one({"nation": {}})),
    Case("NationSpec.table", base(against={"nation": {}}), "against.nation.table",
         one("a", "table by name")),
    Case("AgainstEarlier.earlier", base(), "against", one({"earlier": {"measure": SAME_BEFORE}})),
    Case("EarlierSpec.measure", base(against={"earlier": {"measure": SAME_BEFORE}}),
         "against.earlier.measure", one({**SURVEY, "sitting": "spring 2024"}),
         without=SAME_BEFORE),
    Case("AgainstGroup.group", base(), "against", one({"group": {"who": {}}})),
    Case("GroupSpec.who", base(against={"group": {"who": {}}}), "against.group.who",
         one({"all": [{"field": "school", "in": ["Netherby"]}]}), without={}),
    Case("AgainstGrowthTable.growth_table", base(), "against",
         one({"growth_table": {"goal": "expected", "from": SAME_BEFORE}})),
    Case("GrowthTableSpec.goal", base(against=GROWN), "against.growth_table.goal",
         one("ambitious"), without="expected"),
    Case("GrowthTableSpec.goal=expected",
         base(against={"growth_table": {"goal": "ambitious", "from": SAME_BEFORE}}),
         "against.growth_table.goal", one("expected"), without="ambitious"),
    Case("GrowthTableSpec.from", base(against=GROWN), "against.growth_table.from",
         one({**SURVEY, "sitting": "spring 2024"}), without=SAME_BEFORE),
    Case("GrowthTableSpec.table", base(against=GROWN), "against.growth_table.table",
         one(1, "table by name")),
    Case("AgainstThreshold.threshold", base(), "against",
         one({"threshold": {"rule": "Mainland entry"}}, "what a student has of it")),
    Case("AgainstThreshold.threshold", {"what": [AWARD]}, "against",
         one({"threshold": {"rule": "Harbour award level 2"}})),
    Case("ThresholdSpec.rule", {"what": [AWARD], "against": {"threshold": {"rule": LEVEL_2}}},
         "against.threshold.rule", one("Mainland entry"), without=LEVEL_2),
    Case("ThresholdSpec.condition", {"what": [{**AWARD, "condition": "Level total"}],
                                     "against": {"threshold": {"rule": LEVEL_2,
                                                               "condition": "Level total"}}},
         "against.threshold.condition", one("Number"), without="Level total"),
]  # fmt: skip

CASES = [*QUESTION_CASES, *MEASURE_CASES, *CONDITION_CASES, *SPLIT_CASES, *YARDSTICK_CASES]
ELSEWHERE = {"Open.students"}
"""Keys that need an id of the moment; the tests of marks are their witness."""
