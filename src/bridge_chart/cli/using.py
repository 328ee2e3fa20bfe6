"""Groups, saved questions, notes and find: what the screens keep, from a terminal."""

from __future__ import annotations

import json
from typing import IO

import click

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.answers.asking.ask import read_question
from bridge_chart.answers.beside import groups, saved
from bridge_chart.answers.beside.find import find
from bridge_chart.cli.answer_text import aligned
from bridge_chart.cli.instance import open_instance
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.people import Actor
from bridge_chart.terms.question import Question

QUESTION = click.File(encoding="utf-8")
AS = click.option("--as", "login", help="As this account, in its scope; else as the operator.")


def asked_in(given: IO[str]) -> Question:
    """The question of a file."""
    try:
        return read_question(json.load(given))
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        raise InvalidQuestion(f"{given.name} is not valid JSON: {error}.") from error


def _table(lines: list[list[str]]) -> None:
    if lines:
        click.echo(aligned(lines))


@click.command("find")
@click.argument("text")
@AS
def find_command(text: str, login: str | None) -> None:
    """Find students, classes, schools, tests, saved questions and groups."""
    settings, engine = open_instance()
    found = find(engine, settings, _actor(login), text)
    _table([[one.kind, str(one.id), one.label, one.detail] for one in found])
    if not found:
        click.echo("Nothing is called so.")


def _actor(login: str | None) -> Actor:
    return actor_named(open_instance()[1], login) if login else OPERATOR


@click.group("group")
def group_commands() -> None:
    """Groups of students: by a rule, or as a list."""


@group_commands.command("list")
@AS
def list_groups(login: str | None) -> None:
    """The groups that may be used in a question."""
    _, engine = open_instance()
    for one in groups.list_groups(engine, _actor(login)):
        size = "" if one.students is None else f", {one.students} students"
        click.echo(f"{one.id}  {one.name}  ({one.kind}{size}{', shared' if one.shared else ''})")


@group_commands.command("save")
@click.argument("name")
@click.argument("question", type=QUESTION)
@click.option("--kind", type=click.Choice(["rule", "list"]), default="rule", show_default=True)
@click.option("--shared", is_flag=True, help="Everybody here may use it, in their own scope.")
@AS
def save_group(
    name: str, question: IO[str], kind: groups.Kind, shared: bool, login: str | None
) -> None:
    """Save whom QUESTION (a JSON file) asks about under NAME."""
    settings, engine = open_instance()
    asked = asked_in(question)
    made = groups.save_group(engine, settings, _actor(login), name, kind, asked, shared=shared)
    click.echo(f"saved as group {made.id}")


@group_commands.command("retire")
@click.argument("group_id", type=int)
@AS
def retire_group(group_id: int, login: str | None) -> None:
    """Take a group out of use; questions that name it still hold."""
    groups.retire_group(open_instance()[1], _actor(login), group_id)
    click.echo("retired")


@click.group("question")
def question_commands() -> None:
    """Saved questions, and notes on their answers."""


@question_commands.command("list")
@click.option("--json", "as_json", is_flag=True, help="With the questions themselves.")
@AS
def list_questions(as_json: bool, login: str | None) -> None:
    """One's own saved questions and those that are shared."""
    settings, engine = open_instance()
    for one in saved.list_questions(engine, settings, _actor(login)):
        if as_json:
            click.echo(one.model_dump_json(by_alias=True))
        else:
            click.echo(f"{one.id}  {one.name}  ({one.by}, {one.at:%Y-%m-%d})")


@question_commands.command("save")
@click.argument("name")
@click.argument("question", type=QUESTION)
@click.option("--shared", is_flag=True, help="Everybody here may ask it, in their own scope.")
@AS
def save_question(name: str, question: IO[str], shared: bool, login: str | None) -> None:
    """Save QUESTION (a JSON file) under NAME."""
    settings, engine = open_instance()
    asked = asked_in(question)
    made = saved.save_question(engine, settings, _actor(login), name, asked, shared=shared)
    click.echo(f"saved as question {made.id}")


@question_commands.command("notes")
@click.argument("question", type=QUESTION)
@click.option("--add", "text", help="Write a note first.")
@click.option("--shared", is_flag=True, help="Others who may ask the question read it too.")
@AS
def notes(question: IO[str], text: str | None, shared: bool, login: str | None) -> None:
    """The notes on the answer to QUESTION (a JSON file)."""
    settings, engine = open_instance()
    asked, actor = asked_in(question), _actor(login)
    if text:
        saved.add_note(engine, settings, actor, asked, text, shared=shared)
    for one in saved.notes_on(engine, settings, actor, asked):
        click.echo(f"{one.at:%Y-%m-%d}  {one.by}, version {one.version}: {one.text}")
