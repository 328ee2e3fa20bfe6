"""What a witness is, and the measures and conditions of the demo that witnesses are made of."""

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
