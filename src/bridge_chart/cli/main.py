"""The command line's entry: commands, and errors as a good Unix tool gives them."""

from __future__ import annotations

import os
import sys
from typing import Any

import click

from bridge_chart import __version__
from bridge_chart.access.accounts import add_account
from bridge_chart.cli.asking import ask
from bridge_chart.cli.bring_in import import_group
from bridge_chart.cli.demo import demo, generate_command
from bridge_chart.cli.grid import bundle, grid
from bridge_chart.cli.instance import make_instance, open_instance, say
from bridge_chart.cli.kept import COMMANDS as KEPT
from bridge_chart.cli.serving import serve, stop, work
from bridge_chart.cli.using import find_command, group_commands, question_commands
from bridge_chart.terms.errors import BridgeError
from bridge_chart.terms.people import ROLES


@click.group(context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, prog_name="Bridge Chart")
def cli() -> None:
    """Bridge Chart: merge results with rosters, and compare them fairly.

    BRIDGE_HOME names the folder of the instance (settings, cluster, snapshots).
    """


@cli.command()
def init() -> None:
    """Make an empty instance in BRIDGE_HOME."""
    make_instance()
    settings, _ = open_instance()
    say(f"ready: {settings.home}. Add somebody with ./bridge account add")


@cli.group()
def account() -> None:
    """Accounts of this instance."""


@account.command("add")
@click.argument("login")
@click.option("--name", required=True)
@click.option("--role", type=click.Choice(ROLES), required=True)
@click.option("--school", "schools", multiple=True, help="A school to see; may be repeated.")
@click.password_option("--password", help="Asked for if not given.")
def add(login: str, name: str, role: str, schools: tuple[str, ...], password: str) -> None:
    """Make an account, or change an existing one."""
    _, engine = open_instance()
    add_account(engine, login, name, password, role, list(schools))
    say(f"{login} can sign in")


for _command in (
    import_group, ask, find_command, group_commands, question_commands, demo, generate_command,
    serve, stop, work, grid, bundle, *KEPT,
):  # fmt: skip
    cli.add_command(_command)


def main(arguments: list[str] | None = None) -> None:
    """Run; errors of ours end in one line on standard error and their own exit code."""
    os.umask(0o077)  # snapshots and files hold children's records: for their owner only
    try:
        outcome: Any = cli.main(arguments, prog_name="bridge", standalone_mode=False)
    except BridgeError as error:
        click.echo(f"bridge: {error}", err=True)
        for candidate in error.details.get("candidates", []):
            click.echo(f"  {candidate['id']}: {candidate['name']}", err=True)
        sys.exit(error.exit_code)
    except click.ClickException as error:
        error.show()
        sys.exit(64)
    except click.Abort:
        sys.exit(130)
    sys.exit(outcome if isinstance(outcome, int) else 0)


if __name__ == "__main__":
    main()
