"""With whom somebody here can share."""

from __future__ import annotations

import sqlalchemy as sa

from bridge_chart.access.rules import RULES, require
from bridge_chart.answers.asking.ask import snapshot_for
from bridge_chart.store import tables as t
from bridge_chart.store.settings import Settings
from bridge_chart.terms.answer import Value
from bridge_chart.terms.people import Actor


class Colleague(Value):
    id: int
    name: str


class Colleagues(Value):
    """People with an account, but who asks; schools of the scope of who asks."""

    people: list[Colleague]
    schools: list[Colleague]


def colleagues(engine: sa.Engine, settings: Settings, actor: Actor) -> Colleagues:
    """Names alone, of those who may open a list: no login, no role, no school of theirs."""
    require(actor, "open_students")
    table = t.account
    query = (
        sa.select(table.c.id, table.c.name)
        .where(
            ~table.c.closed,
            table.c.id.is_distinct_from(actor.account_id),
            table.c.role.in_(RULES["open_students"]),
        )
        .order_by(table.c.name)
    )
    with engine.connect() as connection:
        people = [Colleague(id=row.id, name=row.name) for row in connection.execute(query)]
    own = snapshot_for(engine, settings, actor).schools
    return Colleagues(
        people=people, schools=[Colleague(id=school.id, name=school.name) for school in own]
    )
