"""Tries at signing in: slowed, not locked, for a login and for an address, over all processes.

Whoever keeps failing waits longer each time, a minute at most for a login and a few seconds for an
address, where a whole school may stand behind one. Nobody is shut out of their account by others.
"""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

import sqlalchemy as sa

from bridge_chart.access.secrets import digest_of
from bridge_chart.store import use_tables as u
from bridge_chart.terms.errors import TooManyTries

WINDOW = dt.timedelta(minutes=15)


@dataclass(frozen=True)
class Limit:
    """free: failures within the window that cost nothing; each further one doubles the seconds to
    wait, up to the longest."""

    free: int
    longest: int

    def wait(self, failures: int) -> int:
        """Seconds from the last failure to the next try.

        >>> [Limit(5, 60).wait(n) for n in (0, 5, 6, 8, 40)]
        [0, 1, 2, 8, 60]
        """
        return 0 if failures < self.free else min(2 ** min(failures - self.free, 30), self.longest)


LOGIN, ADDRESS = Limit(5, 60), Limit(20, 5)


@dataclass(frozen=True)
class Try:
    """A try that counts as a failure until it is known to be none."""

    ids: tuple[int, ...]


def begin_try(engine: sa.Engine, login: str, address: str) -> Try:
    """Note a try; TooManyTries where it comes too soon. Tries at once see each other."""
    keys = {_of_login(login): LOGIN, f"address {address[:100]}": ADDRESS}
    table = u.sign_in_try
    with engine.begin() as connection:
        for key in sorted(keys):
            lock = sa.text("SELECT pg_advisory_xact_lock(hashtext(:key))")
            connection.execute(lock, {"key": key})
        connection.execute(sa.delete(table).where(table.c.at < _since()))
        waits = [_left(connection, key, limit) for key, limit in keys.items()]
        if (left := max(waits)) > 0:
            raise TooManyTries(left)
        rows = [{"who": key, "at": sa.func.clock_timestamp()} for key in keys]
        made = [
            connection.scalar(sa.insert(table).values(**row).returning(table.c.id)) for row in rows
        ]
    return Try(tuple(int(one) for one in made if one is not None))


def came_through(connection: sa.Connection, one: Try, login: str) -> None:
    """It was no failure, and the login's earlier ones are forgotten."""
    table = u.sign_in_try
    mine = table.c.who == _of_login(login)
    connection.execute(sa.delete(table).where(table.c.id.in_(one.ids) | mine))


def _of_login(login: str) -> str:
    """What is typed where the login belongs may be a password: its digest tells tries apart."""
    return f"login {digest_of(login.casefold())}"


def _left(connection: sa.Connection, key: str, limit: Limit) -> int:
    table = u.sign_in_try
    query = sa.select(
        sa.func.count(),
        sa.extract("epoch", sa.func.clock_timestamp() - sa.func.max(table.c.at)),
    ).where(table.c.who == key)
    failures, ago = connection.execute(query).one()
    left = limit.wait(failures) - float(ago or 0)
    return max(0, int(left + 0.999))


def _since() -> sa.ColumnElement[dt.datetime]:
    return sa.func.now() - WINDOW
