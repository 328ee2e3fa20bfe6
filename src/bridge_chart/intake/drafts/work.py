"""Long work on large files: begun by a person, gone through by a worker, watched, taken back.

A row of `work` says how far it is; the page may be closed meanwhile.
"""

from __future__ import annotations

import datetime as dt
import time
from typing import Any, Literal

import sqlalchemy as sa
from pydantic import BaseModel

from bridge_chart.intake.drafts.drafts import Draft
from bridge_chart.intake.drafts.pace import expected, left
from bridge_chart.intake.reading.apart import size_inside
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.store import tables as t
from bridge_chart.store.queue import defer
from bridge_chart.store.settings import Settings
from bridge_chart.terms.errors import ChangedMeanwhile, NotFound
from bridge_chart.terms.people import Actor
from bridge_chart.terms.progress import PHASES, Cancelled

Doing = Literal["examine", "keep"]
State = Literal["waiting", "running", "done", "failed", "cancelled"]
UNDER_WAY = ("waiting", "running")
LOOKED_AT_EVERY = 0.4
"""Seconds between two looks whether somebody took the work back."""


class WorkError(BaseModel):
    code: str
    message: str
    kept: str
    next: str


class WorkKept(BaseModel):
    batch_id: int
    version: int


class Work(BaseModel):
    """A piece of work as it stands. `share` of it that is done, from 0 to 1; `left_seconds` is an
    estimate from the last file of its kind and from how fast this one goes."""

    id: int
    draft_id: str
    doing: Doing
    state: State
    phase: str
    share: float
    left_seconds: float | None
    waited_seconds: float
    kept: WorkKept | None
    error: WorkError | None

    @property
    def under_way(self) -> bool:
        return self.state in UNDER_WAY


def is_large(settings: Settings, name: str, data: bytes) -> bool:
    """Whether a file takes more than about a second, by what is inside."""
    return size_inside(name, data) > settings.large_file_kilobytes * 1024


def begin(
    engine: sa.Engine,
    settings: Settings,
    actor: Actor,
    draft: Draft,
    doing: Doing,
    said: IntakeSettings,
    token: str = "",
) -> Work:
    """Hand a draft to a worker. Looking again takes the place of an earlier look; a file that is
    just being kept is left alone (ChangedMeanwhile)."""
    table = t.work
    going = (table.c.draft_id == draft.id, table.c.state.in_(UNDER_WAY))
    with engine.begin() as connection:
        # One at a time for each draft, also where two people press at once.
        connection.execute(
            sa.select(t.draft.c.id).where(t.draft.c.id == draft.id).with_for_update()
        )
        keeping = sa.select(table.c.id).where(*going, table.c.doing == "keep")
        if connection.scalar(keeping) is not None:
            raise ChangedMeanwhile(
                "This file is just being kept.",
                kept="Your change was not made.",
                next_step="Wait until it is kept, or stop that first.",
            )
        connection.execute(sa.update(table).where(*going).values(cancelled=True))
        size = sa.select(sa.func.length(t.source.c.bytes)).where(t.source.c.id == draft.source_id)
        made = (
            sa.insert(table)
            .values(
                account_id=actor.account_id,
                draft_id=draft.id,
                doing=doing,
                kind=draft.kind,
                megabytes=(connection.scalar(size) or 0) / 1e6,
                said=said.model_dump(mode="json"),
                token=token,
            )
            .returning(table.c.id)
        )
        work_id = int(connection.scalar(made) or 0)
    defer(settings, work_id)
    return work_of(engine, actor, work_id)


def work_of(engine: sa.Engine, actor: Actor, work_id: int) -> Work:
    """A piece of this person's work; NotFound else."""
    mine = t.work.c.account_id.is_not_distinct_from(actor.account_id)
    found = _look(engine, t.work.c.id == work_id, mine)
    if not found:
        raise NotFound("There is no such work of yours.", next_step="Look in the history.")
    return found[0]


def work_on(engine: sa.Engine, draft_ids: list[str]) -> dict[str, Work]:
    """The newest work on each draft that is under way or did not come to its end."""
    found = _look(engine, t.work.c.draft_id.in_(draft_ids))
    newest = {work.draft_id: work for work in found}
    return {at: work for at, work in newest.items() if work.state != "done"}


def stop(engine: sa.Engine, actor: Actor, work_id: int) -> Work:
    """Take work back. What was kept already stays kept (ChangedMeanwhile)."""
    work = work_of(engine, actor, work_id)
    if work.kept is not None:
        raise ChangedMeanwhile(
            "The file is kept already.", kept="It counts.", next_step="Undo it in the history."
        )
    with engine.begin() as connection:
        row = t.work.c.id == work_id
        connection.execute(sa.update(t.work).where(row).values(cancelled=True))
        waiting = sa.update(t.work).where(row, t.work.c.state == "waiting")
        connection.execute(waiting.values(state="cancelled"))
    return work_of(engine, actor, work_id)


def _look(engine: sa.Engine, *where: sa.ColumnElement[bool]) -> list[Work]:
    now = sa.func.clock_timestamp().label("now")
    with engine.connect() as connection:
        rows = connection.execute(sa.select(t.work, now).where(*where).order_by(t.work.c.id))
        return [_as_work(connection, dict(row)) for row in rows.mappings()]


def _as_work(connection: sa.Connection, row: dict[str, Any]) -> Work:
    took = dict(row["took"])
    seconds_in = (row["now"] - row["phase_at"]).total_seconds() if row["phase_at"] else 0.0
    remaining, share = None, 0.0
    if row["state"] in UNDER_WAY:
        plan = expected(row["kind"], row["doing"], row["megabytes"], _last(connection, row))
        remaining = left(plan, took, row["phase"], seconds_in)
        gone = sum(took.values()) + seconds_in
        share = gone / max(gone + remaining, 0.01)
    return Work(
        id=row["id"],
        draft_id=row["draft_id"],
        doing=row["doing"],
        state=row["state"],
        phase=PHASES.get(row["phase"], "Waiting for a worker"),
        share=share,
        left_seconds=remaining,
        waited_seconds=(row["now"] - row["at"]).total_seconds(),
        kept=row["kept"],
        error=row["error"],
    )


def _last(connection: sa.Connection, row: dict[str, Any]) -> tuple[dict[str, float], float] | None:
    """What the phases took when such a file was last gone through."""
    query = (
        sa.select(t.work.c.took, t.work.c.megabytes)
        .where(
            t.work.c.kind == row["kind"], t.work.c.doing == row["doing"], t.work.c.state == "done"
        )
        .order_by(t.work.c.id.desc())
        .limit(1)
    )
    found = connection.execute(query).first()
    return None if found is None else (dict(found.took), found.megabytes)


class Watched:
    """Progress that is written into a row of `work`; Cancelled where somebody took it back."""

    def __init__(self, engine: sa.Engine, work_id: int) -> None:
        self.engine, self.row = engine, t.work.c.id == work_id
        self.took: dict[str, float] = {}
        self.phase, self.since = "", time.monotonic()
        self.looked = 0.0

    def at(self, phase: str) -> None:
        """Note what the last phase took, and that this one begins."""
        self._close()
        self.phase = phase
        self._write(state="running", phase=phase, took=self.took, phase_at=sa.func.now())

    def alive(self) -> None:
        """Look whether somebody took the work back, not too often."""
        if time.monotonic() - self.looked > LOOKED_AT_EVERY:
            self._write(state="running")

    def end(self, state: State, error: dict[str, Any] | None = None) -> None:
        """Nothing more will be done."""
        self._close()
        with self.engine.begin() as connection:
            values = {"state": state, "phase": "", "took": self.took, "error": error}
            connection.execute(sa.update(t.work).where(self.row).values(**values))

    def _close(self) -> None:
        now = time.monotonic()
        if self.phase:
            self.took[self.phase] = self.took.get(self.phase, 0.0) + now - self.since
        self.since = now

    def _write(self, **values: Any) -> None:
        self.looked = time.monotonic()
        statement = sa.update(t.work).where(self.row).values(**values)
        with self.engine.begin() as connection:
            row = connection.execute(statement.returning(t.work.c.cancelled, t.work.c.kept)).one()
        if row.cancelled and row.kept is None:
            raise Cancelled("The work was taken back.", kept="Nothing was changed.")


def sweep(engine: sa.Engine, older_than: dt.timedelta = dt.timedelta(days=30)) -> None:
    """Forget work that ended long ago."""
    old = t.work.c.at < sa.func.now() - older_than
    with engine.begin() as connection:
        connection.execute(sa.delete(t.work).where(old, t.work.c.state.not_in(UNDER_WAY)))
