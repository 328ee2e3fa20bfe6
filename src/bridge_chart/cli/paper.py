"""`print`: a question as the screen shows it, as PDF."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path
from typing import IO
from urllib.parse import urlencode

import click

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.access.audit import note
from bridge_chart.access.rules import require
from bridge_chart.answers.asking.ask import read_question
from bridge_chart.cli.instance import open_instance
from bridge_chart.output.paper import PAPERS
from bridge_chart.terms.errors import InvalidQuestion


@click.command("print")
@click.argument("question", type=click.File(encoding="utf-8"))
@click.argument("out", type=click.Path(dir_okay=False, path_type=Path))
@click.option("--as", "login", help="As this account, in its scope; else as the operator.")
@click.option("--paper", type=click.Choice(PAPERS), default="A4", show_default=True)
def print_command(question: IO[str], out: Path, login: str | None, paper: str) -> None:
    """Print QUESTION (a JSON file, or - for standard input) into OUT, as PDF."""
    try:
        given = json.load(question)
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        raise InvalidQuestion(f"{question.name} is not valid JSON: {error}.") from error
    asked = read_question(given)
    settings, engine = open_instance()
    actor = actor_named(engine, login) if login else OPERATOR
    require(actor, "export")
    place = "/people" if asked.show == "students" else "/compare"
    text = json.dumps(asked.model_dump(mode="json", by_alias=True, exclude_defaults=True))
    page = f"{place}?{urlencode({'q': text})}"
    note(engine, actor, "export", {"page": page[:2000], "as": "pdf"})
    os.environ["BRIDGE_HOME"] = str(settings.home)
    # The interface answers its own page in a process of its own; nothing listens on any port.
    module = [sys.executable, "-m", "bridge_chart.api.print_page"]
    done = subprocess.run([*module, page, str(out), login or "", paper], check=False)
    if done.returncode:
        sys.exit(done.returncode)
    click.echo(f"written to {out}")
