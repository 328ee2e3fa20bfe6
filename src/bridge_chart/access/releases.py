"""Releases: the district's figures as those see them who see a part of it.

The data lead makes one once a period. It is pinned to a version, so that what a narrower role sees
of others stays the same whatever is kept after it, and two versions cannot be subtracted.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

import sqlalchemy as sa

from bridge_chart.access.audit import note
from bridge_chart.access.rules import require
from bridge_chart.access.scoped import Beyond, beyond, in_scope
from bridge_chart.store import tables as t
from bridge_chart.store import use_tables as u
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.store.snapshot_build import snapshot_of
from bridge_chart.store.versions import current_version
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.people import Actor

LONGEST_TITLE = 120


@dataclass(frozen=True)
class Release:
    """A release as the record holds it."""

    id: int
    at: dt.datetime
    version: int
    title: str
    by: str

    @property
    def day(self) -> str:
        return str(self.at.date())


def releases(engine: sa.Engine) -> list[Release]:
    """Every release, newest first."""
    query = (
        sa.select(u.release, t.account.c.name.label("by"))
        .outerjoin(t.account, t.account.c.id == u.release.c.account_id)
        .order_by(u.release.c.id.desc())
    )
    with engine.connect() as connection:
        return [
            Release(row.id, row.at, row.version_id, row.title, row.by or "the operator")
            for row in connection.execute(query)
        ]


def list_releases(engine: sa.Engine, actor: Actor) -> list[Release]:
    """Every release, newest first, for whoever may make one."""
    require(actor, "release")
    return releases(engine)


def make_release(engine: sa.Engine, actor: Actor, title: str) -> Release:
    """Release the newest version."""
    require(actor, "release")
    title = " ".join(title.split())
    if not 0 < len(title) <= LONGEST_TITLE:
        raise InvalidQuestion(
            f"A release must have a title of 1 to {LONGEST_TITLE} characters.",
            kept="Nothing was released.", next_step="Say which period it is of.",
        )  # fmt: skip
    with engine.begin() as connection:
        version = current_version(connection)
        if not version:
            raise InvalidQuestion(
                "Nothing has been kept yet, so there is nothing to release.",
                next_step="Bring in a roster and a results file at Intake.",
            )
        values = {"account_id": actor.account_id, "version_id": version, "title": title}
        made = connection.scalar(sa.insert(u.release).values(**values).returning(u.release.c.id))
    note(engine, actor, "release", {"release": made, "version": version, "title": title})
    return next(one for one in releases(engine) if one.id == made)


@dataclass(frozen=True)
class Released:
    """A release with its snapshot: the whole of it, which `answers.published` alone may read, and
    what of it the asker sees anyway."""

    release: Release
    load: Callable[[], tuple[Snapshot, Beyond]]

    @cached_property
    def loaded(self) -> tuple[Snapshot, Beyond]:
        """The asker's own part, and beyond."""
        return self.load()


@dataclass(frozen=True)
class Published:
    """Everything that was released, oldest first, for somebody with a scope."""

    released: tuple[Released, ...]

    @property
    def key(self) -> str:
        """What tells it from what was published before and after."""
        return ",".join(str(one.release.id) for one in self.released)


def published_for(engine: sa.Engine, folder: Path, snapshot: Snapshot) -> Published | None:
    """What has been released, for whoever has this snapshot; None where it is the whole."""
    if snapshot.scope.whole:
        return None

    def loader(version: int) -> Callable[[], tuple[Snapshot, Beyond]]:
        def load() -> tuple[Snapshot, Beyond]:
            whole, newest = snapshot_of(engine, folder, version), snapshot_of(engine, folder)
            own = in_scope(whole, newest, snapshot.scope)
            outside = beyond(own)
            assert outside is not None
            return own, outside

        return load

    every = reversed(releases(engine))
    return Published(tuple(Released(one, loader(one.version)) for one in every))
