"""`release`, `releases`, `sight`: what others than the data lead see; `words`: the district's."""

from __future__ import annotations

from collections.abc import Sequence

import click
from pydantic import ValidationError

from bridge_chart.access import releases as released
from bridge_chart.access import sight as sights
from bridge_chart.access import words as own
from bridge_chart.access.accounts import OPERATOR
from bridge_chart.cli.answer_text import aligned
from bridge_chart.cli.instance import open_instance
from bridge_chart.terms.errors import InvalidQuestion, problems_of
from bridge_chart.terms.people import ROLES
from bridge_chart.terms.words import DistrictWords


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


PARTS = ("year_level", "level_before", "numbers", "dates")


@click.command()
@click.option("--year-level", help="What a year level is called.")
@click.option("--level-before", help="What stands before its number.")
@click.option(
    "--level",
    "own_names",
    multiple=True,
    nargs=2,
    metavar="NUMBER NAME",
    help="A year level with a name of its own; an empty name takes it back.",
)
@click.option(
    "--characteristic",
    "named",
    multiple=True,
    nargs=2,
    metavar="CALLED NAME",
    help="What a characteristic (as files call it) is called; empty: as in files.",
)
@click.option("--numbers", help="How numbers are written: 1,234.5 or 1.234,5 or …")
@click.option("--dates", help="How 2 March 2026 is written.")
def words(
    own_names: tuple[tuple[str, str], ...], named: tuple[tuple[str, str], ...], **said: str | None
) -> None:
    """The district's own words; say some with the options."""
    engine = open_instance()[1]
    held = own.said(engine, OPERATOR)
    parts: dict[str, object] = {key: said[key] for key in PARTS if said[key] is not None}
    by_name = {name: identity for identity, name in held.called.items()}
    strange = next((name for name, _ in named if name not in by_name), None)
    if strange is not None:
        raise InvalidQuestion(
            f"Files call no characteristic “{strange}”.", kept=own.UNCHANGED,
            next_step=f"They are called {', '.join(by_name)}.",
        )  # fmt: skip
    if parts or own_names or named:
        parts |= {
            "level_names": _with(held.words.level_names, own_names),
            "characteristics": _with(
                held.words.characteristics, [(str(by_name[of]), name) for of, name in named]
            ),
        }
        try:
            wanted = DistrictWords.model_validate(held.words.model_dump() | parts)
        except ValidationError as error:
            first = problems_of(error)[0]
            raise InvalidQuestion(
                f"{first['at']}: {first['problem']}.", kept=own.UNCHANGED,
                next_step="`bridge words --help` says what may be said.",
            ) from error  # fmt: skip
        held = own.say_words(engine, OPERATOR, wanted, held.revision)
    click.echo(aligned([[key, str(getattr(held.words, key)).strip()] for key in PARTS]))
    for level, name in sorted(held.words.level_names.items()):
        click.echo(f"{held.words.year_level} {level}: {name}")
    for identity, called in held.called.items():
        name = held.words.characteristics.get(identity, "")
        click.echo(f"{called}: {name}" if name else called)


def _with(held: dict[int, str], said: Sequence[tuple[str, str]]) -> dict[str, str]:
    """What was said before, with what is said now; an empty name takes one back."""
    made = {str(key): name for key, name in held.items()} | dict(said)
    return {key: name for key, name in made.items() if name}
