"""Whom the record has forgotten: told by marks that say nothing of anybody, beside the record and
beside its backups, so that a restore of an older one forgets them again."""

from __future__ import annotations

import json
import os
from collections.abc import Collection
from pathlib import Path

import sqlalchemy as sa

from bridge_chart.store import use_tables as u

FILE_NAME = "erased.json"


def marked_in(folder: Path) -> list[str]:
    """The marks that a folder tells of; none where it tells nothing."""
    path = folder / FILE_NAME
    return list(json.loads(path.read_text(encoding="utf-8"))) if path.is_file() else []


def tell(folder: Path, marks: Collection[str]) -> None:
    """Add marks to those that a folder tells of, whole or not at all."""
    if not marks:
        return
    folder.mkdir(parents=True, exist_ok=True)
    told = sorted({*marked_in(folder), *marks})
    unfinished = folder / f".{FILE_NAME}.{os.getpid()}"
    with unfinished.open("w", encoding="utf-8") as out:
        out.write(json.dumps(told, indent=0))
        out.flush()
        os.fsync(out.fileno())
    os.replace(unfinished, folder / FILE_NAME)


def erased_after(connection: sa.Connection, version: int) -> list[dict[str, object]]:
    """Of each erasure after a version: how many students it was of, and the sittings in which they
    had results."""
    e = u.erasure.c
    query = sa.select(sa.func.cardinality(e.marks), e.sittings).where(e.version_id > version)
    return [{"students": n, "sittings": list(at)} for n, at in connection.execute(query)]
