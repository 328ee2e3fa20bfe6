"""Who acts, and what they may see."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

ROLES = ("data_lead", "school_lead", "teacher", "viewer")
"""viewer: who sees what is published of the district, and no student."""


Teacher = tuple[int, str]
"""A school's id and a teacher's name."""
ScopeField = Literal["school", "teacher"] | None


@dataclass(frozen=True)
class Scope:
    """Whose students somebody may open: those of some schools (`None`: of the whole district), and
    those in the classes of some teachers: a school and a name as its rosters have it, for two
    schools may each have a teacher of that name.

    >>> Scope(None).whole, Scope(frozenset({3})).whole
    (True, False)
    >>> Scope(frozenset(), frozenset({(3, "J. Wren")})).key
    ' and the classes of J. Wren in 3'
    """

    schools: frozenset[int] | None
    teachers: frozenset[Teacher] = frozenset()

    @property
    def whole(self) -> bool:
        return self.schools is None

    @property
    def key(self) -> str:
        """Stable text of the scope, for cache keys."""
        if self.schools is None:
            return "all"
        taught = "".join(
            f" and the classes of {name} in {at}" for at, name in sorted(self.teachers)
        )
        return ",".join(map(str, sorted(self.schools))) + taught

    @property
    def field(self) -> ScopeField:
        """By what the district's students are told into those of one scope and those of others;
        none for the whole."""
        if self.schools is None:
            return None
        return "teacher" if self.teachers and not self.schools else "school"


@dataclass(frozen=True)
class Actor:
    """Who acts: an account (or the operator at the command line) and its grants: schools, and the
    teachers of the rosters who this person is. names_hidden:
    whether they want to see no name of a student, for a meeting or a picture; stand_ins: what the
    stand-ins for names are drawn by, so that they are steady within a session. only: what may be
    done by a token, or while seeing as somebody; None for a person. seeing_as: the login through
    whose eyes the data lead looks, who is called by their own in `login`."""

    account_id: int | None
    login: str
    name: str
    role: str
    schools: frozenset[int] = field(default_factory=frozenset)
    teachers: frozenset[Teacher] = field(default_factory=frozenset)
    names_hidden: bool = False
    stand_ins: str = ""
    only: frozenset[str] | None = None
    seeing_as: str = ""
