"""Opening the instance that BRIDGE_HOME names: settings, cluster, tables."""

from __future__ import annotations

import os
from pathlib import Path

import click
import sqlalchemy as sa

from bridge_chart.store.cluster import make_cluster, start_cluster
from bridge_chart.store.database import connect, connect_owner, make_database, migrate
from bridge_chart.store.roles import apart, grant
from bridge_chart.store.settings import (
    FILE_NAME,
    Settings,
    home_folder,
    load_settings,
    new_settings,
)
from bridge_chart.store.words import words_of
from bridge_chart.terms.words import speak


def say(text: str) -> None:
    """Progress goes to standard error, so that standard output stays data."""
    click.echo(f"· {text}", err=True)


def make_instance(home: Path | None = None) -> Settings:
    """Settings, cluster and database in an empty folder; an existing instance is left alone."""
    home = home or home_folder()
    if (home / FILE_NAME).exists():
        return load_settings(home)
    say(f"making an instance in {home}")
    home.mkdir(parents=True, exist_ok=True)
    if os.geteuid() == 0:
        home.chmod(0o711)  # PostgreSQL's own user has to pass through; nobody can list it
    settings = make_cluster(new_settings(home), say)
    start_cluster(settings, say)
    make_database(settings)
    settings.save()
    return settings


def bring_up_to_date(settings: Settings) -> None:
    """The tables as this program knows them, and what the application may do with them."""
    owner = connect_owner(settings)
    try:
        migrate(owner)
        grant(owner, settings)
    finally:
        owner.dispose()


def open_instance() -> tuple[Settings, sa.Engine]:
    """The instance, its cluster running and its tables up to date."""
    settings = load_settings()
    start_cluster(settings, say)
    settings = apart(settings)
    bring_up_to_date(settings)
    engine = connect(settings)
    speak(words_of(engine))
    return settings, engine
