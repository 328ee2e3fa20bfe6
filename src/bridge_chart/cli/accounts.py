"""`init` and `account`: an empty instance, and who may use it."""

from __future__ import annotations

import click

from bridge_chart.access.accounts import add_account
from bridge_chart.cli.instance import make_instance, open_instance, say
from bridge_chart.terms.people import ROLES


@click.command()
def init() -> None:
    """Make an empty instance in BRIDGE_HOME."""
    make_instance()
    settings, _ = open_instance()
    say(f"ready: {settings.home}. Add somebody with ./bridge account add")


@click.group()
def account() -> None:
    """Accounts of this instance."""


@account.command("add")
@click.argument("login")
@click.option("--name", required=True)
@click.option("--role", type=click.Choice(ROLES), required=True)
@click.option("--school", "schools", multiple=True, help="A school to see; may be repeated.")
@click.option(
    "--teacher", "teachers", type=(str, str), multiple=True, metavar="SCHOOL NAME",
    help="A teacher as the school's rosters name them, for their own classes; may be repeated.",
)  # fmt: skip
@click.password_option("--password", help="Asked for if not given.")
def add(
    login: str, name: str, role: str, schools: tuple[str, ...],
    teachers: tuple[tuple[str, str], ...], password: str,
) -> None:  # fmt: skip
    """Make an account, or change an existing one."""
    _, engine = open_instance()
    add_account(engine, login, name, password, role, schools, teachers)
    say(f"{login} can sign in")
