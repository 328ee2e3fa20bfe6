"""`ask`: a Question from a file, the Answer that the screen shows."""

from __future__ import annotations

import datetime as dt
import json
from pathlib import Path
from typing import IO

import click

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.access.audit import note
from bridge_chart.access.rules import require
from bridge_chart.answers.asking.answer import Answer, lines_of
from bridge_chart.answers.asking.ask import answer_bytes, lines_for_outside, read_question
from bridge_chart.answers.asking.book import book_of, views_beside
from bridge_chart.cli.answer_text import to_text
from bridge_chart.cli.instance import open_instance
from bridge_chart.output.csv import to_csv
from bridge_chart.output.dictionary import dictionary_of
from bridge_chart.terms.errors import InvalidQuestion

FORMATS = ("table", "json", "csv", "xlsx")


@click.command()
@click.argument("question", type=click.File(encoding="utf-8"))
@click.option("--format", "form", type=click.Choice(FORMATS), default="table")
@click.option("--out", type=click.Path(dir_okay=False, path_type=Path), help="Write to this file.")
@click.option("--outside", is_flag=True, help="CSV with small numbers hidden, to give away.")
@click.option("--as", "login", help="Ask as this account, in its scope; else as the operator.")
def ask(question: IO[str], form: str, out: Path | None, outside: bool, login: str | None) -> None:
    """Answer QUESTION (a JSON file, or - for standard input)."""
    try:
        given = json.load(question)
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        raise InvalidQuestion(f"{question.name} is not valid JSON: {error}.") from error
    asked = read_question(given)
    settings, engine = open_instance()
    actor = actor_named(engine, login) if login else OPERATOR
    if outside:
        click.echo(to_csv(*lines_for_outside(engine, settings, actor, asked)), nl=False)
        return
    data = answer_bytes(engine, settings, actor, asked)
    if form == "json":
        click.echo(data.decode())
        return
    answer = Answer.model_validate_json(data)
    if form in ("csv", "xlsx"):
        require(actor, "export")
        note(engine, actor, "export", {"sentence": answer.sentence, "show": answer.body.show})
    if form == "xlsx":
        if out is None:
            raise InvalidQuestion("A workbook needs a file: --out answer.xlsx.")
        beside = views_beside(engine, settings, actor, asked)
        out.write_bytes(book_of(answer, actor.name, dt.datetime.now(), beside))
        return
    text = to_csv(*lines_of(answer)) if form == "csv" else to_text(answer)
    if out is None:
        click.echo(text, nl=False)
    else:
        out.write_text(text, encoding="utf-8")
        if form == "csv":
            told = dictionary_of(out.name, answer.sentence, *lines_of(answer))
            about = out.with_name(f"{out.name}-metadata.json")
            about.write_text(json.dumps(told, ensure_ascii=False, indent=1), encoding="utf-8")
