"""`import`: a file through the real intake, unattended."""

from __future__ import annotations

import datetime as dt
import json
from pathlib import Path
from typing import Any

import click
import sqlalchemy as sa
from pydantic import ValidationError

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.cli.instance import open_instance
from bridge_chart.cli.watching import watch
from bridge_chart.intake.columns.column_names import TABLES
from bridge_chart.intake.drafts.drafts import parts_of, save_source
from bridge_chart.intake.drafts.together import as_one_test, by_year
from bridge_chart.intake.keep.keep import (
    Kept,
    Origin,
    Plan,
    change_standing,
    examine,
    keep,
)
from bridge_chart.intake.reading.apart import sheet_in
from bridge_chart.intake.reading.sheet import Sheet
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.store.settings import Settings
from bridge_chart.store.snapshot_build import snapshot_of
from bridge_chart.terms.errors import BridgeError, InvalidQuestion, Unsettled
from bridge_chart.terms.finding import Examination, Finding
from bridge_chart.terms.progress import UNWATCHED, Progress
from bridge_chart.terms.wording import amount, count


def settings_from(mapping: Path | None, **given: Any) -> IntakeSettings:
    """The mapping file's settings, with what the command line says laid over them."""
    said: dict[str, Any] = {}
    if mapping is not None:
        try:
            said = json.loads(mapping.read_text(encoding="utf-8"))
        except (json.JSONDecodeError, UnicodeDecodeError) as error:
            raise InvalidQuestion(f"{mapping} is not valid JSON: {error}.") from error
    said |= {key: value for key, value in given.items() if value}
    try:
        return IntakeSettings.model_validate(said)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise InvalidQuestion(f"The mapping is wrong at “{where}”: {first['msg']}.") from error


def bring_in(
    settings: Settings,
    engine: sa.Engine,
    kind: str,
    name: str,
    data: bytes,
    said: IntakeSettings,
    *,
    strict: bool = False,
) -> tuple[Plan, Kept]:
    """Examine and keep a file. Rows that a person would have to settle are set aside, unless
    `strict`; a name near an existing one always stops."""
    watching = watch(settings, kind, len(data))
    progress = watching or UNWATCHED
    try:
        progress.at("read")
        sheet = sheet_in(name, data, said)
        plan = examined(settings, engine, kind, sheet, said, strict, progress)
        source = save_source(engine, name, data)
        return plan, _keep(settings, engine, plan, sheet, said, source, strict, progress)
    finally:
        if watching is not None:
            watching.end()


def examined(
    settings: Settings,
    engine: sa.Engine,
    kind: str,
    sheet: Sheet,
    said: IntakeSettings,
    strict: bool = False,
    progress: Progress = UNWATCHED,
) -> Plan:
    """The plan of a file that can be kept unattended; Unsettled where it needs a person, with all
    that the screen would show at Match."""
    today = dt.date.today()
    snapshot = snapshot_of(engine, settings.snapshots)
    plan = examine(kind, sheet, said, snapshot, today, unattended=not strict, progress=progress)
    open_ = plan.examination.unsettled
    if open_:
        raise Unsettled(
            "\n".join([*report(plan.examination), f"{sheet.name} was not kept, for it needs you."]),
            kept="Nothing was kept.",
            next_step="Say in the mapping's “decisions”: "
            + json.dumps(
                {f.key: "|".join(c.key for c in f.choices) for f in open_}, ensure_ascii=False
            )
            + ("; or --set-aside" if all(_can_be_aside(f) for f in open_) else ""),
        )
    return plan


def _can_be_aside(found: Finding) -> bool:
    return any(choice.key == "set_aside" for choice in found.choices)


def _keep(
    settings: Settings, engine: sa.Engine, plan: Plan, sheet: Sheet, said: IntakeSettings,
    source: int, strict: bool, progress: Progress = UNWATCHED,
) -> Kept:  # fmt: skip
    today = dt.date.today()
    return keep(
        engine, settings, OPERATOR, plan, sheet, said, Origin(source),
        today=today, unattended=not strict, progress=progress,
    )  # fmt: skip


def report_kept(
    settings: Settings, engine: sa.Engine, kind: str, sheet: Sheet, said: IntakeSettings,
    source: int,
) -> None:  # fmt: skip
    """Keep lines of a file that is stored already, and say what was kept."""
    plan = examined(settings, engine, kind, sheet, said)
    _say(plan, _keep(settings, engine, plan, sheet, said, source, False))


def _say(plan: Plan, kept: Kept) -> None:
    for line in report(plan.examination):
        click.echo(line)
    click.echo(f"kept as batch {kept.batch_id}, version {kept.version}")


def report(shown: Examination) -> list[str]:
    """What was understood and kept, in lines."""
    lines = [f"{shown.title}: {amount(shown.rows_kept)} of {amount(shown.rows_in_file)} rows kept, "
             f"{amount(shown.rows_set_aside)} set aside, "
             f"{amount(shown.rows_copies)} exact copies"]  # fmt: skip
    lines += [f"  assumed: {d.key} = {d.value or '(none)'} ({d.why})" for d in shown.defaults]
    lines += [f"  left out: {one.header}, {count(one.n, 'cell')} ({one.why})"
              for one in shown.left_out]  # fmt: skip
    lines += [f"  {f.kind}: {f.title}. {f.detail}." + (f" → {f.chosen}" if f.chosen else "")
              for f in shown.findings]  # fmt: skip
    lines += [f"  change: {group.title}" for group in shown.change_groups]
    lines += [f"  new {c.kind}: {', '.join(c.names[:6])}" + (" …" if len(c.names) > 6 else "")
              for c in shown.creates]  # fmt: skip
    return lines + [f"  {c.label}: {amount(c.n)}" for c in shown.counts]


def _run(kind: str, file: Path, said: IntakeSettings, set_aside: bool, dry_run: bool) -> None:
    """One file, or every table of an archive in turn: all of them or, where one stops, none."""
    settings, engine = open_instance()
    parts = [
        (name, data, said.model_copy(update=came))
        for name, data, came in parts_of(kind, file.name, file.read_bytes())
    ]
    told: list[tuple[Plan, Kept]] = []
    for name, data, said in as_one_test(kind, file.name, by_year(kind, parts)):
        if dry_run:
            sheet, snapshot = sheet_in(name, data, said), snapshot_of(engine, settings.snapshots)
            plan = examine(kind, sheet, said, snapshot, dt.date.today())
            click.echo(plan.examination.model_dump_json(indent=2))
            continue
        try:
            told.append(bring_in(settings, engine, kind, name, data, said, strict=not set_aside))
        except BridgeError:
            if told:
                last = told[-1][1].batch_id
                change_standing(engine, settings, OPERATOR, last, "undone", archive=True)
            raise
    for plan, kept in told:
        _say(plan, kept)


SCORES_SAID = ("raw", "percent", "scaled", "level", "grade")
FILE = click.Path(exists=True, dir_okay=False, path_type=Path)


@click.group("import")
def import_group() -> None:
    """Bring in a file: a roster, results, or a table of reference."""


@import_group.command("roster")
@click.argument("file", type=FILE)
@click.option("--year", help="School year, like 2025-26, where no column says it.")
@click.option("--as-of", "as_of", help="The date that the roster holds from.")
@click.option("--school", help="The school of the whole file, where no column says it.")
@click.option("--year-level", help="The year level of the whole file, likewise.")
@click.option("--covers", multiple=True, help="A school that it covers whole; may be repeated.")
@click.option("--mapping", type=FILE, help="JSON with columns and decisions (docs/formats.md).")
@click.option("--set-aside", is_flag=True, help="Set rows aside that a person would settle.")
@click.option("--dry-run", is_flag=True, help="Print the match and the plan as JSON; keep nothing.")
def import_roster(
    file: Path,
    year: str | None,
    as_of: str | None,
    school: str | None,
    year_level: str | None,
    covers: tuple[str, ...],
    mapping: Path | None,
    set_aside: bool,
    dry_run: bool,
) -> None:
    """A row per student (or student and class) of one school year."""
    said = settings_from(
        mapping, academic_year=year, as_of=as_of, school=school, year_level=year_level,
        covers=list(covers),
    )  # fmt: skip
    _run("roster", file, said, set_aside, dry_run)


@import_group.command("results")
@click.argument("file", type=FILE)
@click.option("--test", help="The test's name, where the file does not say it.")
@click.option("--subject", help="The subject, where the file does not say it.")
@click.option("--sitting", help="The sitting's name, where the file does not say it.")
@click.option("--date", help="The sitting's date, where the file does not say it.")
@click.option("--year", help="School year, for the defaults of sitting and date.")
@click.option("--year-level", help="The year level tested, where the file does not say it.")
@click.option("--score", type=click.Choice(["raw", "percent", "scaled", "level", "grade"]))
@click.option("--mapping", type=FILE, help="JSON with columns and decisions (docs/formats.md).")
@click.option("--set-aside", is_flag=True, help="Set rows aside that a person would settle.")
@click.option("--dry-run", is_flag=True, help="Print the match and the plan as JSON; keep nothing.")
def import_results(
    file: Path, mapping: Path | None, set_aside: bool, dry_run: bool, year: str | None, **said: Any
) -> None:
    """A row per student and test."""
    _run("results", file, settings_from(mapping, academic_year=year, **said), set_aside, dry_run)


@import_group.command("credits")
@click.argument("file", type=FILE)
@click.option("--date", help="The date of the records, where the file does not say it.")
@click.option("--mapping", type=FILE, help="JSON with columns and decisions (docs/formats.md).")
@click.option("--set-aside", is_flag=True, help="Set rows aside that a person would settle.")
@click.option("--dry-run", is_flag=True, help="Print the match and the plan as JSON; keep nothing.")
def import_credits(
    file: Path, mapping: Path | None, set_aside: bool, dry_run: bool, **said: Any
) -> None:
    """A row per student and standard, banked or estimated."""
    _run("credits", file, settings_from(mapping, **said), set_aside, dry_run)


@import_group.command("table")
@click.argument("kind", type=click.Choice(TABLES))
@click.argument("file", type=FILE)
@click.option("--test", help="The test's name, where the file does not say it.")
@click.option("--subject", help="The subject, where the file does not say it.")
@click.option("--sitting", help="The sitting's name, where the file does not say it.")
@click.option("--score", type=click.Choice(SCORES_SAID), help="The kind of score, likewise.")
@click.option("--mapping", type=FILE, help="JSON with columns and decisions (docs/formats.md).")
@click.option("--set-aside", is_flag=True, help="Set rows aside that a person would settle.")
@click.option("--dry-run", is_flag=True, help="Print what was understood as JSON; keep nothing.")
def import_table(
    kind: str, file: Path, mapping: Path | None, set_aside: bool, dry_run: bool, **said: Any
) -> None:
    """A table of reference: a scale, the questions of a test, or national figures."""
    _run(kind, file, settings_from(mapping, **said), set_aside, dry_run)
