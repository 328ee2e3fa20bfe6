"""`demo`: Merrow Sound, made up, brought in through the real intake; an account of each role."""

from __future__ import annotations

from pathlib import Path

import click
import sqlalchemy as sa

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.access.managing import add_account
from bridge_chart.access.pairings import pair, pairings
from bridge_chart.access.releases import make_release, releases
from bridge_chart.answers.beside import attachments
from bridge_chart.answers.bound.names import Places
from bridge_chart.cli.bring_in import bring_in, report
from bridge_chart.cli.instance import make_instance, open_instance, say
from bridge_chart.cli.serving import address_of, start_serving
from bridge_chart.demo.checks import FORMS as CHECK_FORMS
from bridge_chart.demo.checks import TEST as CHECK
from bridge_chart.demo.district import SEED
from bridge_chart.demo.files import generate
from bridge_chart.demo.paper import check_paper
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.store.settings import Settings
from bridge_chart.store.snapshot_build import snapshot_of
from bridge_chart.store.versions import history
from bridge_chart.terms.wording import amount

PASSWORD = "island-ferries"
ACCOUNTS: tuple[tuple[str, str, str, list[str], list[tuple[str, str]]], ...] = (
    ("ailsa", "Ailsa Marlow", "data_lead", [], []),
    ("rowan", "Rowan Pike", "school_lead", ["Fernhollow"], []),
    ("piran", "Piran Tamblin", "teacher", [], [("Netherby", "P. Tamblin")]),
    ("tobias", "Tobias Pell", "viewer", [], []),
)
ORDER: tuple[tuple[str, str, dict[str, str]], ...] = (
    ("roster", "roster-2023-24.csv", {"academic_year": "2023-24", "as_of": "2023-09-04"}),
    ("roster", "roster-2024-25.csv", {"academic_year": "2024-25", "as_of": "2024-09-04"}),
    ("roster", "roster-2025-26.csv", {"academic_year": "2025-26", "as_of": "2025-09-04"}),
    ("roster", "roster-2025-26-april.csv", {"academic_year": "2025-26", "as_of": "2026-04-20"}),
    ("scale", "survey-scale.csv", {}),
    ("results", "spring-2024.csv", {}),
    ("results", "spring-2025.csv", {}),
    ("results", "spring-2026.csv", {}),
    ("results", "writing-2025.csv", {}),
    ("results", "writing-2026.csv", {}),
    ("reliability", "writing-reliability.csv", {}),
    ("national", "survey-national.csv", {}),
    ("scale", "certificate-scale.csv", {}),
    ("results", "certificate-2025.csv", {}),
    ("results", "certificate-papers.csv", {}),
    ("results", "check-autumn.csv", {}),
    ("results", "check-winter.csv", {}),
    ("scale", "check-scale.csv", {}),
    ("questions", "check-questions.csv", {}),
    ("questions", "check-keys.csv", {}),
    ("results", "check-winter-answers.csv", {}),
    ("next_steps", "next-steps.csv", {}),
    ("reliability", "survey-reliability.csv", {}),
    ("movement", "movement-credit.csv", {}),
    ("national", "check-national.csv", {}),
    ("expectation", "survey-growth.csv", {}),
    ("conversion", "reading-bands.csv", {}),
    ("roster", "roster-2020-21.csv", {"academic_year": "2020-21", "as_of": "2020-09-04"}),
    ("roster", "roster-2021-22.csv", {"academic_year": "2021-22", "as_of": "2021-09-04"}),
    ("roster", "roster-2022-23.csv", {"academic_year": "2022-23", "as_of": "2022-09-04"}),
    ("scale", "mock-scale.csv", {}),
    ("results", "certificates-earlier.csv", {}),
    ("results", "mock-earlier.csv", {}),
    ("results", "mock-2026.csv", {}),
    ("credits", "credits-2025.csv", {}),
    ("credits", "credits-2026.csv", {}),
    ("scale", "credit-results.csv", {}),
    ("practice", "practice.csv", {}),
    ("award", "awards.csv", {}),
)
WINTER = "winter 2026"
TALK = ("8A", "8B")
SAID = ("test", "subject", "sitting", "date")
"""What the people of Merrow Sound say about a file whose columns do not say it."""


def load_demo(settings: Settings, engine: sa.Engine, students: int = 5000) -> None:
    """Write the demo's files and bring them in, as a person at the command line would."""
    folder = settings.home / "demo"
    if (folder / "loaded").exists():
        say("what was kept is still there")
        return
    say(f"writing the files of Merrow Sound into {folder}")
    told = generate(folder, students, SEED)["files"]
    with engine.connect() as connection:
        done = {row["file"] for row in history(connection)}
    for kind, name, given in ORDER:
        if name in done:
            continue
        given = given | {key: told[name][key] for key in SAID if key in told[name]}
        said = IntakeSettings.model_validate(given)
        plan, _ = bring_in(settings, engine, kind, name, (folder / name).read_bytes(), said)
        say(f"{name}: {report(plan.examination)[0]}")
    _attach_papers(settings, engine)
    _pair_classes(settings, engine)
    for login, person, role, schools, teachers in ACCOUNTS:
        add_account(engine, login, person, PASSWORD, role, schools, teachers)
    if not releases(engine):
        make_release(engine, OPERATOR, "Spring 2026")
    (folder / "loaded").touch()


def _attach_papers(settings: Settings, engine: sa.Engine) -> None:
    """The paper of each form of the winter's check, opened at its questions."""
    snapshot = snapshot_of(engine, settings.snapshots)
    at = attachments.sitting_named(snapshot, CHECK, "", WINTER)
    if not attachments.attachments(engine, snapshot, at):
        for form in CHECK_FORMS:
            name = f"Harbour check winter 2026 {form}.pdf"
            data = check_paper(form)
            attachments.attach(engine, OPERATOR, snapshot, at, "paper", form, name, data)


def _pair_classes(settings: Settings, engine: sa.Engine) -> None:
    """The two classes of Netherby whose teachers talk about the winter's check."""
    snapshot = snapshot_of(engine, settings.snapshots)
    if not pairings(engine, OPERATOR, snapshot):
        at = attachments.sitting_named(snapshot, CHECK, "", WINTER)
        one, other = (Places(snapshot).school_class(f"Netherby: {name}, 2025-26") for name in TALK)
        pair(engine, OPERATOR, snapshot, at, one, other)


@click.command()
@click.option("--port", type=int, help="Where to serve; the settings' port if not given.")
def demo(port: int | None) -> None:
    """Make (once), start and serve the demo district."""
    make_instance()
    settings, engine = open_instance()
    load_demo(settings, engine)
    engine.dispose()
    port = start_serving(settings, port)
    click.echo(f"\nBridge Chart is at {address_of(port)}")
    for login, person, role, schools, teachers in ACCOUNTS:
        where = [*schools, *(school for school, _ in teachers), "the district"][0]
        click.echo(f"  {login} / {PASSWORD}   {person}, {role.replace('_', ' ')} of {where}")
    click.echo("Stop it with ./bridge stop")


@click.command("generate")
@click.option("--students", type=click.IntRange(200, 2_000_000), default=5000, show_default=True)
@click.option("--seed", type=int, default=SEED, show_default=True)
@click.option("--out", type=click.Path(file_okay=False, path_type=Path), required=True)
def generate_command(students: int, seed: int, out: Path) -> None:
    """Write the files of a made-up district, with planted.json beside them."""
    planted = generate(out, students, seed)
    for name, facts in planted["files"].items():
        click.echo(f"{out / name}: {amount(facts['rows'])} rows")
