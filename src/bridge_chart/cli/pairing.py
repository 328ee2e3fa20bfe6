"""Classes that are paired for a talk about a test, at the command line."""

from __future__ import annotations

import click

from bridge_chart.access import pairings as held
from bridge_chart.access.accounts import OPERATOR
from bridge_chart.answers.beside.attachments import sitting_named
from bridge_chart.answers.bound.names import Places
from bridge_chart.cli.instance import open_instance
from bridge_chart.store.snapshot_build import snapshot_of


@click.group("pairing")
def pairing() -> None:
    """Two classes whose teachers see each other's figures of one test."""


@pairing.command("add")
@click.argument("one")
@click.argument("other")
@click.option("--test", required=True)
@click.option("--subject", default="", help="Where the test has several.")
@click.option("--sitting", default="", help="Where the test has several.")
def add(one: str, other: str, test: str, subject: str, sitting: str) -> None:
    """Pair the classes ONE and OTHER, each as “Netherby: 8A, 2025-26”."""
    settings, engine = open_instance()
    snapshot = snapshot_of(engine, settings.snapshots)
    at = sitting_named(snapshot, test, subject, sitting)
    ids = [Places(snapshot).school_class(name) for name in (one, other)]
    made = held.pair(engine, OPERATOR, snapshot, at, *ids)
    click.echo(f"{made.id}: {' and '.join(made.classes)}, {made.sitting}")


@pairing.command("list")
def list_() -> None:
    """The pairings under way."""
    settings, engine = open_instance()
    for made in held.pairings(engine, OPERATOR, snapshot_of(engine, settings.snapshots)):
        click.echo(f"{made.id}: {' and '.join(made.classes)}, {made.sitting}, by {made.by}")


@pairing.command("end")
@click.argument("number", type=int)
def end(number: int) -> None:
    """End pairing NUMBER."""
    settings, engine = open_instance()
    held.end_pairing(engine, OPERATOR, snapshot_of(engine, settings.snapshots), number)
