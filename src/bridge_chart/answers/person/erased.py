"""Erasures carried out, and what stands outside the record made anew after them."""

from __future__ import annotations

import sqlalchemy as sa

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.access.scoped import seen_by
from bridge_chart.intake.erasing.erase import erase_waiting
from bridge_chart.output.read_schema import SCHEMA, write_schema
from bridge_chart.store.settings import Settings


def carry_out_erasures(owner: sa.Engine, settings: Settings) -> int:
    """Carry out the erasures that wait, as the owner of the tables; how many. The tables for SQL,
    which an erasure empties, are filled again at the newest version."""
    n = erase_waiting(owner, settings)
    if n:
        with owner.connect() as connection:
            there = connection.scalar(
                sa.text("SELECT to_regnamespace(:name) IS NOT NULL"), {"name": SCHEMA}
            )
        if there:
            write_schema(owner, seen_by(owner, settings.snapshots, OPERATOR), None)
    return n
