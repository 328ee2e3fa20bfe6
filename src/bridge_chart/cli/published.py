"""What is published of the district, from a terminal."""

from __future__ import annotations

import click

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.answers.beside.published_figures import (
    PublishedAsked,
    lines_of_published,
    published_figures,
    published_place,
)
from bridge_chart.cli.instance import open_instance
from bridge_chart.cli.using import AS
from bridge_chart.output.csv import to_csv


@click.command("published")
@click.argument("test", required=False)
@click.argument("year_level", type=int, required=False)
@click.option("--by", help="The name of a characteristic.")
@AS
def published(test: str | None, year_level: int | None, by: str | None, login: str | None) -> None:
    """What is published of the district. Without TEST (its key): which tests there are; else its
    figures as CSV, of one YEAR_LEVEL or of each."""
    settings, engine = open_instance()
    actor = actor_named(engine, login) if login else OPERATOR
    place = published_place(engine, settings, actor)
    if test is None:
        click.echo(f"released: {place.released or 'not yet'}")
        for one in place.tests:
            levels = ", ".join(map(str, one.year_levels))
            click.echo(f"{one.key}  {one.label} ({one.score}), year levels {levels}")
        return
    named = next((one.id for one in place.by if one.label == by), -1) if by else None
    asked = PublishedAsked(test=test, year_level=year_level, by=named)
    found = published_figures(engine, settings, actor, asked)
    click.echo(to_csv(*lines_of_published(found)), nl=False)
