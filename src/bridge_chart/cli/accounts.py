"""`init` and `account`: an empty instance, and who may use it."""

from __future__ import annotations

import click
import sqlalchemy as sa

from bridge_chart.access import links, managing, tokens
from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.access.codes import take_codes_away
from bridge_chart.cli.instance import make_instance, open_instance, say
from bridge_chart.store.settings import Settings
from bridge_chart.terms.people import ROLES


def address(settings: Settings) -> str:
    """Where people reach this instance, as far as its settings say."""
    return settings.public_address.rstrip("/") or f"http://127.0.0.1:{settings.port}"


def tell_first_link(settings: Settings, engine: sa.Engine, at: str = "") -> None:
    """Where nobody can sign in as data lead, the link by which the first one comes in."""
    link = links.first_link(engine)
    if link is not None:
        until = f"{link.good_until:%d %B}"
        say(f"nobody can sign in yet; the first data lead opens, once, until {until}:")
        click.echo(f"{at or address(settings)}{link.path}")


@click.command()
def init() -> None:
    """Make an empty instance in BRIDGE_HOME."""
    make_instance()
    settings, engine = open_instance()
    say(f"ready: {settings.home}")
    tell_first_link(settings, engine)


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
    managing.add_account(engine, login, name, password, role, schools, teachers)
    say(f"{login} can sign in")


@account.command("list")
def list_() -> None:
    """Who may sign in."""
    _, engine = open_instance()
    for one in managing.list_accounts(engine, OPERATOR):
        seen = f"{one.seen:%Y-%m-%d}" if one.seen else "never"
        click.echo(f"{one.login}\t{one.name}\t{one.role}\t{one.state}\tlast here {seen}")


@account.command("link")
@click.argument("login")
def link(login: str) -> None:
    """A one-time link, by which its person says a new password."""
    settings, engine = open_instance()
    made = managing.send_link(engine, OPERATOR, managing.account_called(engine, login).id)
    click.echo(f"{address(settings)}{made.path}")


@account.command("close")
@click.argument("login")
def close(login: str) -> None:
    """Close an account: its sessions end, nothing of its person's work is lost."""
    _stand(login, closed=True)


@account.command("open")
@click.argument("login")
def open_(login: str) -> None:
    """Open a closed account again."""
    _stand(login, closed=False)


def _stand(login: str, *, closed: bool) -> None:
    _, engine = open_instance()
    found = managing.account_called(engine, login)
    now = managing.set_closed(engine, OPERATOR, found.id, closed=closed)
    say(f"{login} is {now.state}")


@account.command("codes-away")
@click.argument("login")
def codes_away(login: str) -> None:
    """Take one-time codes from somebody who lost them, until they begin anew."""
    _, engine = open_instance()
    take_codes_away(engine, OPERATOR, managing.account_called(engine, login).id)
    say(f"{login} signs in without codes")


@account.command("sign-out")
@click.argument("login")
def sign_out(login: str) -> None:
    """Sign somebody out everywhere."""
    _, engine = open_instance()
    managing.end_all_sessions(engine, OPERATOR, managing.account_called(engine, login).id)
    say(f"{login} is signed out everywhere")


@account.command("token")
@click.argument("login")
@click.argument("name")
@click.option("--may", multiple=True, default=["ask"], help="An action; may be repeated.")
@click.option("--days", default=90, help="How long it is good.")
def token(login: str, name: str, may: tuple[str, ...], days: int) -> None:
    """A token by which the program NAME asks as LOGIN; shown this once."""
    _, engine = open_instance()
    said = tokens.NewToken(name=name, may=list(may), days=days)
    click.echo(tokens.make_token(engine, actor_named(engine, login), said).secret)


@account.command("tokens")
@click.argument("login")
@click.option("--revoke", type=int, help="Take the token with this id back.")
def tokens_(login: str, revoke: int | None) -> None:
    """Tokens of LOGIN that are good."""
    _, engine = open_instance()
    who = actor_named(engine, login)
    if revoke is not None:
        tokens.revoke_token(engine, who, revoke)
    for one in tokens.list_tokens(engine, who):
        seen = f"last used {one.seen:%Y-%m-%d}" if one.seen else "never used"
        may = ", ".join(one.may)
        click.echo(f"{one.id}\t{one.name}\t{may}\tuntil {one.good_until:%Y-%m-%d}\t{seen}")
