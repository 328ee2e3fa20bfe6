"""`backup` and `restore`: the record in one file, and back."""

from __future__ import annotations

from pathlib import Path

import click

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.access.audit import note
from bridge_chart.answers.beside.backups import back_up
from bridge_chart.cli.instance import make_instance, open_instance, say
from bridge_chart.intake.erasing.erase import erase_again
from bridge_chart.store.backup import holds_a_record, read_manifest, restore_into
from bridge_chart.store.cluster import start_cluster
from bridge_chart.store.database import connect_owner
from bridge_chart.store.erasures import marked_in
from bridge_chart.store.settings import home_folder
from bridge_chart.terms.errors import BackupTrouble
from bridge_chart.terms.wording import count


@click.command("backup")
@click.argument("out", type=click.Path(dir_okay=False, path_type=Path))
def backup(out: Path) -> None:
    """Write the record into OUT, and try it. Restored beside, all must be alike."""
    settings, engine = open_instance()
    made = back_up(engine, settings, out.resolve())
    size = made.bytes / 1e6
    say(f"{out}: {size:.1f} MB, version {made.version}; restored beside, all alike")


@click.command("restore")
@click.argument("file", type=click.Path(exists=True, dir_okay=False, path_type=Path))
def restore(file: Path) -> None:
    """Make a new instance in BRIDGE_HOME of a backup. One that is there is never written over; what
    a restore left that was ended half-way holds nothing, and is gone on with."""
    home = home_folder()
    manifest = read_manifest(file)
    settings = make_instance(home)
    start_cluster(settings, say)
    if holds_a_record(settings):
        raise BackupTrouble(
            f"There is a record in {home} already.", kept="It was not touched.",
            next_step="Name another folder in BRIDGE_HOME, or move that one away.",
        )  # fmt: skip
    restore_into(settings, settings.owner, file)
    settings, engine = open_instance()
    owner = connect_owner(settings)
    marks = [*marked_in(home), *marked_in(file.resolve().parent)]
    again = erase_again(owner, settings, marks)
    owner.dispose()
    note(engine, OPERATOR, "restore", {"name": str(file), "version": manifest.version})
    say(f"restored {home} at version {manifest.version}, as of {manifest.made[:16]}")
    if again:
        say(f"{count(again, 'student')} who had been erased since: erased again")
    say("everybody signs in anew")
