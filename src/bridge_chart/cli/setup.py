"""`release`, `releases`, `sight`: what others than the data lead see."""

from __future__ import annotations

import click

from bridge_chart.access import releases as released
from bridge_chart.access import sight as sights
from bridge_chart.access.accounts import OPERATOR
from bridge_chart.cli.answer_text import aligned
from bridge_chart.cli.instance import open_instance
from bridge_chart.terms.people import ROLES


@click.command()
@click.argument("title")
def release(title: str) -> None:
    """Release the district's figures as they are now, under TITLE (the period)."""
    made = released.make_release(open_instance()[1], OPERATOR, title)
    click.echo(f"released version {made.version} as “{made.title}”")


@click.command()
def releases() -> None:
    """The releases of the district's figures, newest first."""
    for one in released.list_releases(open_instance()[1], OPERATOR):
        click.echo(
            f"{one.id:>4}  {one.at:%Y-%m-%d}  version {one.version}  {one.title}  ({one.by})"
        )


@click.command()
@click.argument("what", required=False)
@click.option("--sensitive/--plain", default=None, help="For leads only unless said otherwise.")
@click.option("--role", "roles", multiple=True, type=click.Choice(ROLES), help="Who sees it.")
def sight(what: str | None, sensitive: bool | None, roles: tuple[str, ...]) -> None:
    """Which role sees which characteristic, and notes; say it of WHAT (its id, or notes)."""
    engine = open_instance()[1]
    if what is not None:
        sights.say_who_sees(
            engine, OPERATOR, what, sensitive=bool(sensitive), roles=list(roles) or None
        )
    lines = [
        [one.what, one.label, "sensitive" if one.sensitive else "", ", ".join(one.roles)]
        for one in sights.sights(engine, OPERATOR)
    ]
    click.echo(aligned(lines))
