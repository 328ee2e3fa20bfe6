"""The command line's entry: commands, and errors as a good Unix tool gives them."""

from __future__ import annotations

import json
import os
import sys
from importlib import import_module
from typing import Any

import click

from bridge_chart import __version__
from bridge_chart.terms.errors import BridgeError

COMMANDS: dict[str, tuple[str, str]] = {
    "account": ("accounts:account", "Accounts of this instance."),
    "aside": ("kept:aside", "The rows of a kept file that are set aside."),
    "attachment": ("attaching:attachment", "Papers, mark schemes and reports of a sitting."),
    "audit": ("audit:audit", "Who looked, took out and changed what."),
    "ask": ("asking:ask", "Answer QUESTION (a JSON file, or - for standard input)."),
    "export": ("grid:export", "Write the merged record into OUT: a table per kind."),
    "backup": (
        "backup:backup",
        "Write the record into OUT, and try it.",
    ),
    "bundle": ("grid:bundle", "Write the rosters of today and all scores to OUT."),
    "demo": ("demo:demo", "Make (once), start and serve the demo district."),
    "find": ("using:find_command", "Find students, classes, schools, tests, questions, groups."),
    "forget": ("kept:forget", "Take a remembered number back; what was kept stays."),
    "generate": ("demo:generate_command", "Write the files of a made-up district."),
    "grid": ("grid:grid", "Write the grid that SPEC (JSON, docs/formats.md) describes."),
    "group": ("using:group_commands", "Groups of students: by a rule, or as a list."),
    "history": ("kept:history_command", "What was kept and undone, newest first."),
    "import": ("bring_in:import_group", "Bring in a file: a roster, results, a table."),
    "init": ("accounts:init", "Make an empty instance in BRIDGE_HOME."),
    "lines": ("kept:lines", "Lines of a kept file as the file has them."),
    "list": ("people:list_commands", "Lists of students, what changed in them, how they did."),
    "mapping": ("kept:mapping", "Print what was said of a kept file, as a mapping."),
    "awards": ("awards:awards", "Rules of awards, read back and tried."),
    "pairing": ("pairing:pairing", "Two classes whose teachers talk about one test."),
    "print": ("paper:print_command", "Print QUESTION into OUT, as the screen shows it (PDF)."),
    "put-back": ("kept:put_back", "Put an undone batch back."),
    "read-schema": ("grid:read_schema", "Make the merged record tables for SQL, with a role."),
    "sign-on": ("sign_on:sign_on", "Serve a stand-in for a district's own sign-on."),
    "published": ("published:published", "What is published of the district."),
    "record": (
        "records:record",
        "Students' records: what is held, erasing, how long is kept.",
    ),
    "release": ("setup:release", "Release the district's figures as they are now."),
    "releases": ("setup:releases", "The releases of the district's figures."),
    "question": ("using:question_commands", "Saved questions, and notes on their answers."),
    "remembered": ("kept:remembered", "Numbers that were accepted as a student's."),
    "restore": ("backup:restore", "Make a new instance in BRIDGE_HOME of a backup."),
    "serve": ("serving:serve", "Serve this instance until interrupted."),
    "settle": ("kept:settle", "Keep rows that a kept file set aside, where they can be now."),
    "student": ("people:student", "The page of the student with this NUMBER."),
    "words": ("setup:words", "The district's own words, and how it writes numbers and dates."),
    "sight": ("setup:sight", "Which role sees which characteristic, and notes."),
    "stop": ("serving:stop", "Stop this instance's web server and PostgreSQL."),
    "undo": ("kept:undo", "Undo a kept batch; it can be put back."),
    "work": ("serving:work", "Go through long work until interrupted."),
}
"""Where each command is, and its line of help: only the one that runs is loaded."""


class Commands(click.Group):
    """The commands by name, each loaded when it runs."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(COMMANDS)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        if cmd_name not in COMMANDS:
            return None
        module, name = COMMANDS[cmd_name][0].split(":")
        command = getattr(import_module(f"bridge_chart.cli.{module}"), name)
        assert isinstance(command, click.Command)
        return command

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        with formatter.section("Commands"):
            formatter.write_dl([(name, told) for name, (_, told) in COMMANDS.items()])


@click.group(cls=Commands, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, prog_name="Bridge Chart")
def cli() -> None:
    """Bridge Chart: merge results with rosters, and compare them fairly.

    BRIDGE_HOME names the folder of the instance (settings, cluster, snapshots).
    """


def main(arguments: list[str] | None = None) -> None:
    """Run; errors of ours end in one line on standard error and their own exit code."""
    os.umask(0o077)  # snapshots and files hold children's records: for their owner only
    try:
        outcome: Any = cli.main(arguments, prog_name="bridge", standalone_mode=False)
    except BridgeError as error:
        click.echo(f"bridge: {error}", err=True)
        if "instead" in error.details:
            click.echo(f"  with {json.dumps(error.details['instead'])}", err=True)
        for candidate in error.details.get("candidates", []):
            click.echo(f"  {candidate['id']}: {candidate['name']}", err=True)
        sys.exit(error.exit_code)
    except (click.ClickException, click.Abort) as error:
        if isinstance(error, click.Abort):
            sys.exit(130)
        error.show()
        sys.exit(64)
    except Exception as error:
        full = import_module("bridge_chart.store.room").as_no_room(error)
        if full is None:
            raise
        click.echo(f"bridge: {full}", err=True)
        sys.exit(full.exit_code)
    sys.exit(outcome if isinstance(outcome, int) else 0)


if __name__ == "__main__":
    main()
