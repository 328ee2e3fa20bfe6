"""`audit`: who did what."""

from __future__ import annotations

import datetime as dt

import click

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.access.audit import ACTIONS, AuditAsked, audit_page, audit_rows
from bridge_chart.cli.instance import open_instance
from bridge_chart.output.csv import to_csv

DAY = click.DateTime(["%Y-%m-%d"])


@click.command("audit")
@click.option("--login", default="", help="Of whom.")
@click.option("--action", default="", type=click.Choice(["", *ACTIONS]), help="What was done.")
@click.option("--number", default="", help="A student's number: what was looked at of theirs.")
@click.option("--since", type=DAY, help="From this day on.")
@click.option("--until", type=DAY, help="Up to this day.")
@click.option("--csv", "as_csv", is_flag=True, help="All that fit, as CSV; noted.")
def audit(
    login: str, action: str, number: str, since: dt.datetime | None, until: dt.datetime | None,
    as_csv: bool,
) -> None:  # fmt: skip
    """Who looked, took out and changed what, newest first."""
    _, engine = open_instance()
    asked = AuditAsked(
        login=login, action=action, number=number, since=since and since.date(),
        until=until and until.date(),
    )  # fmt: skip
    if as_csv:
        click.echo(to_csv(*audit_rows(engine, OPERATOR, asked)), nl=False)
        return
    for one in audit_page(engine, OPERATOR, asked).lines:
        students = f" ({one.students} students)" if one.students > 1 else ""
        about = f": {one.about}" if one.about else ""
        click.echo(f"{one.at:%Y-%m-%d %H:%M}\t{one.login}\t{one.says}{students}{about}")
