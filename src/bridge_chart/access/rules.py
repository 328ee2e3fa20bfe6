"""Roles and what they allow. Every endpoint and command names one of these actions."""

from __future__ import annotations

from bridge_chart.terms.errors import NotAllowed
from bridge_chart.terms.people import ROLES, Actor, Scope

SEE_STUDENTS = frozenset({"data_lead", "school_lead", "teacher"})
RULES: dict[str, frozenset[str]] = {
    "own_account": frozenset(ROLES),
    "look": frozenset(ROLES),
    "published": frozenset(ROLES),
    "ask": SEE_STUDENTS,
    "open_students": SEE_STUDENTS,
    "export": SEE_STUDENTS,
    "pair": frozenset({"data_lead", "school_lead"}),
    "intake": frozenset({"data_lead"}),
    "history": frozenset({"data_lead"}),
    "release": frozenset({"data_lead"}),
    "sight": frozenset({"data_lead"}),
    "words": frozenset({"data_lead"}),
    "accounts": frozenset({"data_lead"}),
    "see_as": frozenset({"data_lead"}),
    "audit": frozenset({"data_lead"}),
    "backups": frozenset({"data_lead"}),
    "erase": frozenset({"data_lead"}),
}
"""Action → roles that may do it."""


LOOKING = frozenset({"look", "published", "ask", "open_students", "export"})
"""What may be done while seeing as somebody: looking. Whatever changes something is refused by
the interface, whichever action it is (`api.context.rule`)."""
HOLD_NAMES = ("intake", "history", "audit", "erase")
"""Actions on files, which hold names and numbers as they came, and on the audit, which holds what
was searched for."""


def may(actor: Actor, action: str) -> bool:
    """Whether the actor's role, and the token they ask by, allow the action; an action that is not
    declared is a bug."""
    return actor.role in RULES[action] and (actor.only is None or action in actor.only)


def require(actor: Actor, action: str) -> None:
    """Raise NotAllowed unless the actor's role allows the action."""
    if not may(actor, action):
        raise NotAllowed(
            "Your role does not allow this.",
            kept="Nothing was changed.",
            next_step="Ask the district's data lead.",
        )
    if actor.names_hidden and action in HOLD_NAMES:
        raise NotAllowed(
            "Names are hidden, and this holds them.",
            kept="Nothing was changed.",
            next_step="Show names again under your initials, then come back.",
        )


def scope_for(actor: Actor) -> Scope:
    """Whose students the actor may see: the district's for its data lead, the schools that were
    granted for a school lead, their own classes for a teacher. Without a grant that is nobody."""
    if actor.role == "data_lead":
        return Scope(None)
    schools = actor.schools if actor.role == "school_lead" else frozenset()
    return Scope(schools, actor.teachers)
