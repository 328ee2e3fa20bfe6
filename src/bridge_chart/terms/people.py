"""Who acts, and what they may see."""

from __future__ import annotations

from dataclasses import dataclass, field

ROLES = ("data_lead", "school_lead")


@dataclass(frozen=True)
class Scope:
    """Which schools' students somebody may open. `None` means the whole district.

    >>> Scope(None).whole, Scope(frozenset({3})).whole
    (True, False)
    """

    schools: frozenset[int] | None

    @property
    def whole(self) -> bool:
        return self.schools is None

    @property
    def key(self) -> str:
        """Stable text of the scope, for cache keys."""
        return "all" if self.schools is None else ",".join(map(str, sorted(self.schools)))


@dataclass(frozen=True)
class Actor:
    """Who acts: an account (or the operator at the command line) and its grants. names_hidden:
    whether they want to see no name of a student, for a meeting or a picture."""

    account_id: int | None
    login: str
    name: str
    role: str
    schools: frozenset[int] = field(default_factory=frozenset)
    names_hidden: bool = False
