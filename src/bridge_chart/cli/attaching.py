"""Papers, mark schemes and reports of a sitting, at the command line."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import click

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.answers.beside import attachments as held
from bridge_chart.cli.instance import open_instance
from bridge_chart.store.snapshot_build import snapshot_of


@click.group("attachment")
def attachment() -> None:
    """Papers, mark schemes and reports of a sitting: a PDF or a picture each."""


def _of_sitting(command: Callable[..., None]) -> Callable[..., None]:
    """The options that name a sitting."""
    for option in ("--sitting", "--subject"):
        command = click.option(option, default="", help="Where the test has several.")(command)
    return click.option("--test", required=True)(command)


@attachment.command("add")
@click.argument("file", type=click.Path(exists=True, dir_okay=False, path_type=Path))
@_of_sitting
@click.option("--kind", type=click.Choice(held.KINDS), default="paper", show_default=True)
@click.option("--form", default="", help="Of which form it is; of all, if none is named.")
def add(file: Path, test: str, subject: str, sitting: str, kind: held.Kind, form: str) -> None:
    """Attach FILE."""
    settings, engine = open_instance()
    snapshot = snapshot_of(engine, settings.snapshots)
    at = held.sitting_named(snapshot, test, subject, sitting)
    data = file.read_bytes()
    made = held.attach(engine, OPERATOR, snapshot, at, kind, form, file.name, data)
    click.echo(f"{made.id}: {made.kind}, {made.name}")


@attachment.command("list")
@_of_sitting
def list_(test: str, subject: str, sitting: str) -> None:
    """What is attached to a sitting."""
    settings, engine = open_instance()
    snapshot = snapshot_of(engine, settings.snapshots)
    for one in held.attachments(
        engine, snapshot, held.sitting_named(snapshot, test, subject, sitting)
    ):
        of = f", form {one.form}" if one.form else ""
        click.echo(f"{one.id}: {one.kind}{of}, {one.name} ({one.kilobytes} kB)")


@attachment.command("get")
@click.argument("number", type=int)
@click.argument("out", type=click.Path(dir_okay=False, path_type=Path))
def get(number: int, out: Path) -> None:
    """Write attachment NUMBER into OUT."""
    settings, engine = open_instance()
    snapshot = snapshot_of(engine, settings.snapshots)
    out.write_bytes(held.opened(engine, OPERATOR, snapshot, number)[2])


@attachment.command("remove")
@click.argument("number", type=int)
def remove(number: int) -> None:
    """Take attachment NUMBER away."""
    _, engine = open_instance()
    held.remove(engine, OPERATOR, number)
