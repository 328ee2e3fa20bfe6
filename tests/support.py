"""Instances for tests: one cluster a session, a database of its own for whoever asks."""

from __future__ import annotations

import datetime as dt
import itertools
import json
import os
import shutil
import tempfile
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path

import sqlalchemy as sa
from flask.testing import FlaskClient
from flask_openapi3 import OpenAPI

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.access.managing import add_account
from bridge_chart.answers.asking.answer import Answer
from bridge_chart.answers.asking.ask import answer, read_question
from bridge_chart.api.app import make_app
from bridge_chart.cli.bring_in import bring_in
from bridge_chart.cli.instance import bring_up_to_date
from bridge_chart.intake.keep.keep import Plan, examine
from bridge_chart.intake.reading.read import read_sheet
from bridge_chart.intake.said.settings import IntakeSettings, within_year
from bridge_chart.store.cluster import make_cluster, start_cluster, stop_cluster
from bridge_chart.store.database import connect, make_database
from bridge_chart.store.roles import apart
from bridge_chart.store.settings import Settings, new_settings
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.store.snapshot_build import snapshot_of
from bridge_chart.terms.people import Actor
from bridge_chart.terms.question import Open

PASSWORD = "long-enough-password"
TODAY = dt.date(2026, 6, 1)
_number = itertools.count()


def quiet(_: str) -> None:
    """Progress is not wanted in tests."""


@dataclass
class Place:
    """An instance with an empty (or filled) database."""

    settings: Settings
    engine: sa.Engine

    def bring(self, kind: str, text: str | bytes, name: str = "file.csv", **said: object) -> Plan:
        """Keep a file, unattended, as the command line does."""
        path = self.settings.home / name
        path.write_bytes(text if isinstance(text, bytes) else text.encode())
        settings = IntakeSettings.model_validate(self._dated(kind, text, said))
        return bring_in(self.settings, self.engine, kind, path.name, path.read_bytes(), settings)[0]

    def look(self, kind: str, text: str | bytes, name: str = "file.csv", **said: object) -> Plan:
        """Examine a file; nothing is kept."""
        data = text if isinstance(text, bytes) else text.encode()
        settings = IntakeSettings.model_validate(self._dated(kind, text, said))
        return examine(kind, read_sheet(name, data, settings), settings, self.snapshot, TODAY)

    def _dated(self, kind: str, text: str | bytes, said: dict[str, object]) -> dict[str, object]:
        """Results whose date a test does not care for are of its own time."""
        head = text.split("\n", 1)[0].lower() if isinstance(text, str) else "date"
        silent = "date" not in head and "sitting" not in head
        if kind != "results" or not silent or {"date", "sitting"} & set(said):
            return said
        today = dt.date.today()
        year = IntakeSettings.model_validate(said).year(self.snapshot.today or today)
        return {**said, "date": within_year(today, year)}

    def ask(self, question: dict[str, object], actor: Actor = OPERATOR) -> Answer:
        return answer(self.engine, self.settings, actor, read_question(question))

    def opened(
        self,
        question: dict[str, object],
        opens: Open | None,
        actor: Actor = OPERATOR,
        **more: object,
    ) -> Answer:
        """The list of a mark: its change beside the question that it is of, as a client asks."""
        assert opens is not None
        change = opens.model_dump(mode="json", by_alias=True, exclude_defaults=True)
        return self.ask({**question, "open": {**change, **more}}, actor)

    @property
    def snapshot(self) -> Snapshot:
        return snapshot_of(self.engine, self.settings.snapshots)

    def scalar(self, query: str) -> object:
        with self.engine.connect() as connection:
            return connection.scalar(sa.text(query))

    def account(
        self, login: str, role: str, *schools: str, teachers: Sequence[tuple[str, str]] = ()
    ) -> None:
        add_account(self.engine, login, login.title(), PASSWORD, role, schools, teachers)


@contextmanager
def running_cluster() -> Iterator[Settings]:
    """A throw-away cluster that does not wait for the disk."""
    home = Path(tempfile.mkdtemp(prefix="bridge-test-"))
    home.chmod(0o755)
    settings = make_cluster(replace(new_settings(home), safe_writes=False), quiet)
    start_cluster(settings, quiet)
    make_database(settings)
    try:
        yield apart(settings)
    finally:
        stop_cluster(settings, quiet)
        shutil.rmtree(home, ignore_errors=True)
        if not settings.cluster.startswith(str(home)):
            shutil.rmtree(settings.cluster, ignore_errors=True)


@contextmanager
def serving(place: Place) -> Iterator[OpenAPI]:
    """The web application of a place, its connections closed at the end."""
    app = make_app(place.settings)
    yield app
    app.extensions["bridge_chart"].engine.dispose()


@contextmanager
def signed_in(
    place: Place, login: str = "ailsa", password: str = PASSWORD
) -> Iterator[FlaskClient]:
    """A client of the place's web application, signed in."""
    with serving(place) as app:
        client = app.test_client()
        client.post("/api/session", json={"login": login, "password": password})
        yield client


def new_place(cluster: Settings) -> Place:
    """A fresh, migrated, empty instance on the session's cluster."""
    return _place_from(cluster, _empty_database(cluster))


def forget_place(place: Place) -> None:
    """Drop an instance that nobody needs any more: its database and its home."""
    place.engine.dispose()
    name = sa.make_url(place.settings.database_url).database
    url = sa.make_url(place.settings.owner).set(database="postgres")
    engine = sa.create_engine(url, isolation_level="AUTOCOMMIT", poolclass=sa.NullPool)
    with engine.connect() as connection:
        connection.execute(sa.text(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)"))
    engine.dispose()
    shutil.rmtree(place.settings.home, ignore_errors=True)


def copy_of(cluster: Settings, place: Place) -> Place:
    """An instance of its own with everything that a place holds."""
    place.engine.dispose()  # nobody may look on while a database is copied
    made = _place_from(cluster, str(place.engine.url.database))
    for folder in ("demo", "snapshots"):
        shutil.copytree(place.settings.home / folder, made.settings.home / folder)
    return made


def _place_from(cluster: Settings, database: str) -> Place:
    name = f"place_{os.getpid()}_{next(_number)}"
    home = cluster.home / name
    home.mkdir()
    home.chmod(0o755)
    settings = replace(_on(cluster, name), home=home)
    _copy_database(cluster, database, name)
    settings.save()
    return Place(settings, connect(settings))


@cache
def _empty_database(cluster: Settings) -> str:
    """A migrated database that nobody uses: to copy it is quicker than to migrate another."""
    settings = _on(cluster, "empty")
    make_database(settings)
    bring_up_to_date(settings)
    return "empty"


def _on(cluster: Settings, database: str) -> Settings:
    """The cluster's settings for one of its databases, for each of its roles."""
    application, owner = (
        sa.make_url(url).set(database=database).render_as_string(False)
        for url in (cluster.database_url, cluster.owner)
    )
    return replace(cluster, database_url=application, owner_url=owner)


def _copy_database(cluster: Settings, template: str, name: str) -> None:
    url = sa.make_url(cluster.owner).set(database="postgres")
    engine = sa.create_engine(url, isolation_level="AUTOCOMMIT", poolclass=sa.NullPool)
    with engine.connect() as connection:
        connection.execute(sa.text(f"CREATE DATABASE {name} TEMPLATE {template}"))
    engine.dispose()


def planted(place: Place) -> dict[str, object]:
    """What the demo's generator planted."""
    text = (place.settings.home / "demo" / "planted.json").read_text(encoding="utf-8")
    return dict(json.loads(text))


def roster(rows: list[tuple[str, str, int]]) -> str:
    """A small roster: number, school, year level."""
    lines = [f"{number},{school},{level}" for number, school, level in rows]
    return "\n".join(["Student number,School,Year level", *lines]) + "\n"
