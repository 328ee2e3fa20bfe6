"""Where a student was, in which classes, with which characteristics: from roster to roster."""

from __future__ import annotations

import datetime as dt

import numpy as np

from bridge_chart.answers.person.page import Spell
from bridge_chart.store.snapshot import Roll, Snapshot
from bridge_chart.terms.words import spoken


def spells_of(snapshot: Snapshot, at: int) -> list[Spell]:
    """Everything that rosters say of a student, newest first; what a characteristic is not known
    to be makes no spell."""
    seen: dict[str, list[tuple[dt.date, str]]] = {}
    for roll in sorted(snapshot.rolls, key=lambda roll: roll.since):
        for what, value in _said(snapshot, roll, at).items():
            seen.setdefault(what, []).append((roll.since, value))
    spells = [spell for what, told in seen.items() for spell in _merged(what, told)]
    return sorted(spells, key=lambda one: (one.until is not None, one.what, one.since))


def _merged(what: str, told: list[tuple[dt.date, str]]) -> list[Spell]:
    out: list[Spell] = []
    for since, value in told:
        if out and out[-1].until is None:
            if out[-1].value == value:
                continue
            out[-1] = out[-1].model_copy(update={"until": since})
        if value:
            out.append(Spell(what=what, value=value, since=since, until=None))
    return out


def _said(snapshot: Snapshot, roll: Roll, at: int) -> dict[str, str]:
    school = int(roll.school[at])
    level = int(roll.year_level[at])
    here = school >= 0
    out = {
        "School": snapshot.schools[school].name if here else "",
        spoken().year_level: spoken().level_name(level) if here and level >= 0 else "",
        "Class": ", ".join(classes_of(snapshot, roll, at)),
    }
    for item in snapshot.characteristics:
        code = int(roll.characteristic(item.id, snapshot.students)[at])
        out[item.name] = item.options[code].name if code >= 0 else ""
    return out


def classes_of(snapshot: Snapshot, roll: Roll, at: int) -> list[str]:
    """The classes of a student with their teachers."""
    members = np.asarray(roll.members)
    first, last = np.searchsorted(members[:, 0], [at, at + 1])
    out = []
    for place in members[first:last, 1].tolist():
        item = snapshot.classes[place]
        people = ", ".join(snapshot.staff[n] for n in item.teachers)
        out.append(f"{item.name} ({people})" if people else item.name)
    return out
