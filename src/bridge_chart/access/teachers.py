"""Teachers of the rosters whom an account may be tied to, near names first."""

from __future__ import annotations

from pydantic import BaseModel
from rapidfuzz import fuzz

from bridge_chart.store.snapshot import Snapshot

NEAR = 60
"""Of 100: below it two names have little in common."""
MOST = 12


class TeacherFound(BaseModel):
    """A teacher as the rosters of a school have them; `classes`: theirs in the newest school
    year."""

    school: int
    school_name: str
    name: str
    classes: list[str]


def teachers_like(snapshot: Snapshot, text: str) -> list[TeacherFound]:
    """Teachers of the newest school year whose names are near a text, the nearest first. Rosters
    write “Wren, J.” and “Ms J Wren”: words may stand in any order, and be initials."""
    newest = max((one.academic_year for one in snapshot.classes), default="")
    schools = {one.id: one.name for one in snapshot.schools}
    held: dict[tuple[int, str], list[str]] = {}
    for one in snapshot.classes:
        if one.academic_year == newest and one.school_id in schools:
            for at in one.teachers:
                held.setdefault((one.school_id, snapshot.staff[at]), []).append(one.name)
    wanted = text.strip().casefold()
    ranked = sorted(
        (-fuzz.token_set_ratio(wanted, name.casefold()), name, schools[school], school)
        for school, name in held
    )
    return [
        TeacherFound(
            school=school, school_name=at, name=name, classes=sorted(held[(school, name)])
        )
        for score, name, at, school in ranked[:MOST]
        if -score >= NEAR
    ]  # fmt: skip
