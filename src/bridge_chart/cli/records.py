"""Students' records from a terminal: everything held of one, erasing, and how long is kept."""

from __future__ import annotations

from pathlib import Path

import click

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.answers.person.erased import carry_out_erasures
from bridge_chart.answers.person.everything import everything_of
from bridge_chart.answers.person.student import student_of_number
from bridge_chart.cli.answer_text import aligned
from bridge_chart.cli.instance import open_instance
from bridge_chart.intake.erasing import asking
from bridge_chart.intake.erasing.asking import Erasure, Retention
from bridge_chart.store.database import connect_owner
from bridge_chart.store.settings import Settings
from bridge_chart.terms.errors import BridgeError


@click.group("record")
def record() -> None:
    """Students' records: what is held, erasing, how long is kept."""


@record.command("everything")
@click.argument("number")
@click.argument("out", type=click.Path(dir_okay=False, path_type=Path))
def everything(number: str, out: Path) -> None:
    """Write everything that is held of the student with this NUMBER into OUT (a ZIP of tables)."""
    settings, engine = open_instance()
    student = student_of_number(engine, settings, OPERATOR, number)
    out.write_bytes(everything_of(engine, settings, OPERATOR, student))
    click.echo(f"{out}: everything held of {number}")


@record.command("erase")
@click.argument("number")
@click.option("--reference", required=True, help="Of the request, without a name.")
@click.option("--yes", is_flag=True, help="Do not ask once more.")
def erase(number: str, reference: str, yes: bool) -> None:
    """Erase the student with this NUMBER from every version, file, list and note, for good."""
    settings, engine = open_instance()
    student = student_of_number(engine, settings, OPERATOR, number)
    held = asking.held_of(engine, OPERATOR, student)
    click.echo(f"{number}: lines in {held.files} files, {held.results} results, "
               f"{held.notes} notes, {held.lists} lists")  # fmt: skip
    if not yes:
        click.confirm("Erase all of it, for good?", abort=True)
    made = asking.ask_to_erase(engine, settings, OPERATOR, student, number, reference)
    _carried_out(settings, made.id)


@record.command("erase-leavers")
@click.argument("due", type=int)
def erase_leavers(due: int) -> None:
    """Erase the leavers whose time is over; DUE: how many those are, as `record kept` says."""
    settings, engine = open_instance()
    made = asking.erase_leavers(engine, settings, OPERATOR, due)
    _carried_out(settings, made.id)


@record.command("carry-out")
def carry_out() -> None:
    """Carry out erasures that were asked for and wait, where no worker runs."""
    settings, _ = open_instance()
    owner = connect_owner(settings)
    click.echo(f"carried out: {carry_out_erasures(owner, settings)}")
    owner.dispose()


@record.command("erased")
def erased() -> None:
    """What was asked for and done, the newest first, as JSON lines with receipts."""
    _, engine = open_instance()
    for one in asking.erasures(engine, OPERATOR):
        click.echo(one.model_dump_json())


@record.command("kept")
@click.option("--leavers", type=int, help="School years that leavers are kept; 0: for good.")
@click.option("--audit", type=int, help="Years that lines of the audit are kept; 0: for good.")
def kept(leavers: int | None, audit: int | None) -> None:
    """How long leavers and the audit are kept, and who left when; say it with the options."""
    settings, engine = open_instance()
    now = asking.kept(engine, settings, OPERATOR)
    if leavers is not None or audit is not None:
        said = Retention(
            leavers_years=(now.rule.leavers_years if leavers is None else leavers or None),
            audit_years=(now.rule.audit_years if audit is None else audit or None),
            revision=now.rule.revision,
        )
        asking.say_retention(engine, OPERATOR, said)
        now = asking.kept(engine, settings, OPERATOR)
    for what, years in (("leavers", now.rule.leavers_years), ("audit", now.rule.audit_years)):
        click.echo(f"{what}: {f'{years} years' if years else 'for good'}")
    rows = [[one.last_year, str(one.students), "due" if one.due else ""] for one in now.leavers]
    click.echo(aligned([["last year", "students", ""], *rows]))


def _carried_out(settings: Settings, erasure: int) -> None:
    owner = connect_owner(settings)
    carry_out_erasures(owner, settings)
    found = next(one for one in asking.erasures(owner, OPERATOR) if one.id == erasure)
    owner.dispose()
    if found.state != "done":
        raise BridgeError(found.trouble or "The erasure still waits.", kept="Nothing was changed.")
    _said(found)


def _said(found: Erasure) -> None:
    click.echo(f"erasure {found.id}: done, version {found.version}")
    assert found.receipt is not None
    click.echo(found.receipt.model_dump_json(indent=1))
