"""People from a terminal: lists, what changed in them, how they did; a student's page; notes."""

from __future__ import annotations

from pathlib import Path
from typing import IO

import click

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.answers.beside import lists, student_notes
from bridge_chart.answers.beside.effect import list_effect
from bridge_chart.answers.beside.list_grid import grid_of_list
from bridge_chart.answers.beside.saved import retire_question
from bridge_chart.answers.person.page import AwardHeld, Result
from bridge_chart.answers.person.student import student_of_number, student_page
from bridge_chart.cli.answer_text import aligned
from bridge_chart.cli.grid import write_grid
from bridge_chart.cli.instance import open_instance
from bridge_chart.cli.using import AS, QUESTION, asked_in
from bridge_chart.terms.people import Actor
from bridge_chart.terms.wording import number, signed


def _actor(login: str | None) -> Actor:
    return actor_named(open_instance()[1], login) if login else OPERATOR


@click.group("list")
def list_commands() -> None:
    """Lists of students: kept questions shown as students."""


@list_commands.command("all")
@AS
def all_lists(login: str | None) -> None:
    """The lists that may be opened."""
    settings, engine = open_instance()
    for one in lists.lists(engine, settings, _actor(login)):
        size = one.trouble or f"{one.students} students"
        click.echo(f"{one.id}  {one.name}  ({one.by}, {size})")


@list_commands.command("keep")
@click.argument("name")
@click.argument("question", type=QUESTION)
@click.option("--fixed", is_flag=True, help="These students, as they are now; else whoever fits.")
@AS
def keep(name: str, question: IO[str], fixed: bool, login: str | None) -> None:
    """Keep the students of QUESTION (a JSON file) as a list."""
    settings, engine = open_instance()
    asked = asked_in(question)
    made = lists.keep_list(engine, settings, _actor(login), name, asked, fixed=fixed)
    click.echo(f"kept as list {made.id}")


@list_commands.command("show")
@click.argument("list_id", type=int)
@AS
def show(list_id: int, login: str | None) -> None:
    """The question of a list as JSON, for `./bridge ask` and `./bridge print`."""
    settings, engine = open_instance()
    one = lists.list_of(engine, settings, _actor(login), list_id)
    click.echo(one.question.model_dump_json(by_alias=True, exclude_defaults=True))


@list_commands.command("grid")
@click.argument("list_id", type=int)
@click.argument("out", type=click.Path(dir_okay=False, path_type=Path))
def grid(list_id: int, out: Path) -> None:
    """Write a list as a grid to fill in and bring back, to OUT (.xlsx or .csv)."""
    settings, engine = open_instance()
    one = lists.list_of(engine, settings, OPERATOR, list_id)
    spec = grid_of_list(engine, settings, OPERATOR, one.question, one.name)
    write_grid(settings, engine, spec, out)


@list_commands.command("changes")
@click.argument("list_id", type=int)
@click.option("--since", type=int, help="A version; else since it was seen last.")
@AS
def changes(list_id: int, since: int | None, login: str | None) -> None:
    """What changed in a list."""
    settings, engine = open_instance()
    found = lists.list_changes(engine, settings, _actor(login), list_id, since)
    for row in found.rows:
        told = "came" if row.came else "went" if row.went else ""
        cells = "; ".join(f"{c.column}: {c.before or 'blank'} → {c.now}" for c in row.cells)
        click.echo(f"{row.name}  {told}{cells}")
    if not found.rows:
        click.echo("Nothing changed." if found.since is not None else "It was never seen before.")


@list_commands.command("effect")
@click.argument("list_id", type=int)
@AS
def effect(list_id: int, login: str | None) -> None:
    """How a list's students did since, against others who were like them."""
    settings, engine = open_instance()
    found = list_effect(engine, settings, _actor(login), list_id)
    click.echo(found.outcome)
    for line in found.says:
        click.echo(line)


@list_commands.command("retire")
@click.argument("list_id", type=int)
@AS
def retire(list_id: int, login: str | None) -> None:
    """Take a list of one's own away."""
    retire_question(open_instance()[1], _actor(login), list_id)
    click.echo("retired")


@click.command("student")
@click.argument("number")
@click.option("--json", "as_json", is_flag=True, help="Everything, as over HTTP.")
@click.option("--note", "text", help="Write a note first.")
@click.option("--shared", is_flag=True, help="Colleagues who may see the student read the note.")
@AS
def student(number: str, as_json: bool, text: str | None, shared: bool, login: str | None) -> None:
    """The page of the student with this NUMBER."""
    settings, engine = open_instance()
    actor = _actor(login)
    identity = student_of_number(engine, settings, actor, number)
    if text:
        student_notes.note_student(engine, settings, actor, identity, text, shared=shared)
    page = student_page(engine, settings, actor, identity)
    if as_json:
        click.echo(page.model_dump_json(by_alias=True))
        return
    click.echo(f"{page.name}  {page.number}  {page.place}")
    heads = ["result", "score", "level", "similar starters", "span", "national rank"]
    click.echo(aligned([heads, *map(_line, page.results)]))
    for said in (*(one.text for one in page.says), *(one.text for one in page.next_steps)):
        click.echo(said)
    for award in page.credits.awards if page.credits else ():
        click.echo(f"{award.name}: {_standing(award)}")
    for note in page.notes:
        click.echo(f"{note.at:%Y-%m-%d}  {note.by}: {note.text}")


def _standing(award: AwardHeld) -> str:
    """How they stand in an award, and what is short."""
    rests = f", resting on {', '.join(award.rests)}" if award.rests else ""
    short = [f"{one.name} {one.short:g} short" for one in award.conditions if one.short]
    return f"{award.state}{rests}{': ' if short else ''}{'; '.join(short)}"


def _line(one: Result) -> list[str]:
    def told(value: float | None) -> str:
        return "" if value is None else number(value)

    score = told(one.value) if one.value is not None else (one.level or f"– {one.why}")
    mark = {"ahead": " ▲", "behind": " ▼"}.get(one.sign, "")
    span = "" if one.span is None else signed(one.span) + mark
    return [one.label, score, one.level, told(one.expected), span, told(one.percentile)]
