"""Going through a piece of long work: understand a large file, or keep it."""

from __future__ import annotations

import datetime as dt
import logging
from dataclasses import replace

import sqlalchemy as sa

from bridge_chart.access.accounts import OPERATOR, actor_of
from bridge_chart.access.rules import require
from bridge_chart.intake.drafts import drafts
from bridge_chart.intake.drafts.understood import Understood, rows_of, understand_draft
from bridge_chart.intake.drafts.work import UNDER_WAY, Watched
from bridge_chart.intake.keep.keep import Origin, Plan, keep
from bridge_chart.intake.reading.sheet import Sheet
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.store import tables as t
from bridge_chart.store.room import as_no_room
from bridge_chart.store.settings import Settings
from bridge_chart.store.words import words_of
from bridge_chart.terms.errors import BridgeError, ChangedMeanwhile
from bridge_chart.terms.people import Actor
from bridge_chart.terms.progress import Cancelled
from bridge_chart.terms.words import speak

log = logging.getLogger(__name__)


def go_through(engine: sa.Engine, settings: Settings, work_id: int) -> None:
    """Do a piece of work to its end, whichever: done, failed (with the error for the person) or
    cancelled. One that ended, or was kept before its worker died, is left as it is."""
    with engine.connect() as connection:
        row = connection.execute(sa.select(t.work).where(t.work.c.id == work_id)).mappings().first()
    if row is None or row["state"] not in UNDER_WAY:
        return
    watched = Watched(engine, work_id)
    if row["kept"] is not None:
        watched.end("done")
        return
    try:
        actor = OPERATOR if row["account_id"] is None else actor_of(engine, row["account_id"])
        require(actor, "intake")
        speak(words_of(engine))
        draft = drafts.open_draft(engine, actor, row["draft_id"])
        said = IntakeSettings.model_validate(row["said"])
        if row["doing"] == "keep":
            _keep(engine, settings, actor, draft, row["token"], work_id, watched)
        else:
            _examine(engine, settings, actor, draft, said, watched)
        watched.end("done")
    except Cancelled:
        watched.end("cancelled")
    except BridgeError as error:
        watched.end("failed", error.as_json()["error"])
    except Exception as error:
        log.exception("work %s ended unforeseen", work_id)
        ours = as_no_room(error) or BridgeError(
            "Something went wrong on our side.", kept="What was kept before is safe.",
            next_step="Try again; if it stays, the server's log says more.",
        )  # fmt: skip
        watched.end("failed", ours.as_json()["error"])
    finally:
        drafts.forget_sheets()


def _examine(
    engine: sa.Engine,
    settings: Settings,
    actor: Actor,
    draft: drafts.Draft,
    said: IntakeSettings,
    watched: Watched,
) -> None:
    """Understand the file and store what was understood with its draft. A file that is new is
    first looked at as a whole: an archive becomes a draft for each of its tables."""
    watched.at("read")
    if drafts.understood_of(engine, draft) is None:
        draft, *others = drafts.unpack(engine, actor, draft, said)
    else:
        draft, others = replace(draft, settings=said), []
    for one in [draft, *others]:
        told, sheet, plan = understand_draft(engine, settings.snapshots, one, watched)
        watched.alive()
        drafts.store_understood(engine, one, with_rows(told, sheet, plan).model_dump(mode="json"))


def with_rows(told: Understood, sheet: Sheet, plan: Plan | None) -> Understood:
    """What was understood, with the rows of every finding."""
    found = plan.examination.findings if plan else []
    return told.model_copy(update={"rows": {f.key: rows_of(sheet, f.rows) for f in found}})


def _keep(
    engine: sa.Engine,
    settings: Settings,
    actor: Actor,
    draft: drafts.Draft,
    token: str,
    work_id: int,
    watched: Watched,
) -> None:
    """Keep the file if it still reads as it did on screen; else what it reads now is stored."""
    told, sheet, plan = understand_draft(engine, settings.snapshots, draft, watched)
    try:
        if plan is None or plan.examination.token != token:
            raise ChangedMeanwhile(
                "Somebody kept another file meanwhile, and this one now reads differently.",
                kept="Nothing of this file was kept; your choices still stand.",
                next_step="Look at the match again, then keep it.",
            )
        keep(
            engine, settings, actor, plan, sheet, draft.settings,
            Origin(draft.source_id, draft.id, work_id),
            token=token, today=dt.date.today(), progress=watched,
        )  # fmt: skip
    except BridgeError:
        drafts.store_understood(engine, draft, with_rows(told, sheet, plan).model_dump(mode="json"))
        raise
