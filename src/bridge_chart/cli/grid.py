"""`grid`: students by results as a file to fill; `bundle`: everything, for another program."""

from __future__ import annotations

from pathlib import Path
from typing import IO

import click
import sqlalchemy as sa
from pydantic import ValidationError

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.access.audit import note
from bridge_chart.cli.instance import open_instance
from bridge_chart.intake.drafts.grid import grid_of
from bridge_chart.output.bundle import Meant, to_bundle
from bridge_chart.output.grid import to_csv, to_xlsx
from bridge_chart.output.read_schema import write_schema
from bridge_chart.output.tidy import write_tidy
from bridge_chart.store.database import connect_owner
from bridge_chart.store.settings import Settings
from bridge_chart.store.snapshot_build import snapshot_of
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.grid import GridSpec
from bridge_chart.terms.wording import amount


@click.command("bundle")
@click.option("--sex", help="The characteristic that says a student's sex.")
@click.option("--race", help="The characteristic that says a student's race.")
@click.argument("out", type=click.Path(dir_okay=False, path_type=Path))
def bundle(out: Path, sex: str | None, race: str | None) -> None:
    """Write the rosters of today and all scores to OUT as a OneRoster 1.2 CSV bundle."""
    settings, engine = open_instance()
    made = to_bundle(snapshot_of(engine, settings.snapshots), Meant(sex, race))
    note(engine, OPERATOR, "export", {"bundle": made.lines})
    out.write_bytes(made.data)
    for name, lines in made.lines.items():
        click.echo(f"{name}.csv: {amount(lines)}")
    for left in made.left_behind:
        click.echo(f"left behind: {left}")


@click.command("export")
@click.argument("out", type=click.Path(file_okay=False, path_type=Path))
def export(out: Path) -> None:
    """Write the merged record into the folder OUT: one table per kind, as Parquet and CSV, with a
    description of every column (csv-metadata.json)."""
    settings, engine = open_instance()
    rows = write_tidy(snapshot_of(engine, settings.snapshots), out)
    note(engine, OPERATOR, "export", {"tables": rows})
    for name, n in rows.items():
        click.echo(f"{name}: {amount(n)}")


@click.command("read-schema")
@click.option("--password-file", type=click.File(encoding="utf-8"),
              help="Its first line becomes the password of the role that reads.")  # fmt: skip
def read_schema(password_file: IO[str] | None) -> None:
    """Make the schema `read` of the database anew: the merged record as tables for SQL, each
    column described, and the role bridge_read, which may look at them and at nothing else."""
    settings, engine = open_instance()
    password = None if password_file is None else password_file.readline().strip()
    snapshot = snapshot_of(engine, settings.snapshots)
    owner = connect_owner(settings)
    rows = write_schema(owner, snapshot, password or None)
    owner.dispose()
    note(engine, OPERATOR, "export", {"schema": "read", "tables": rows})
    for name, n in rows.items():
        click.echo(f"read.{name}: {amount(n)}")
    click.echo(f"version {snapshot.version}; make it anew once more is kept")


@click.command("grid")
@click.argument("spec", type=click.File(encoding="utf-8"))
@click.argument("out", type=click.Path(dir_okay=False, path_type=Path))
def grid(spec: IO[str], out: Path) -> None:
    """Write the grid that SPEC (JSON, docs/formats.md) describes to OUT (.xlsx or .csv)."""
    try:
        wanted = GridSpec.model_validate_json(spec.read())
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise InvalidQuestion(f"The grid is wrong at “{where}”: {first['msg']}.") from error
    write_grid(*open_instance(), wanted, out)


def write_grid(settings: Settings, engine: sa.Engine, wanted: GridSpec, out: Path) -> None:
    """The grid as a file, .csv or a workbook, noted in the audit."""
    made = grid_of(snapshot_of(engine, settings.snapshots), wanted)
    note(engine, OPERATOR, "open_grid", {"title": made.title, "students": len(made.rows)})
    out.write_bytes(to_csv(made) if out.suffix.lower() == ".csv" else to_xlsx(made))
    click.echo(f"{made.title}: {len(made.rows)} students, {len(made.headers)} columns")
