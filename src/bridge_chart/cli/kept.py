"""Files that were kept: history, undo and what it means, settling, what is remembered."""

from __future__ import annotations

from pathlib import Path

import click
import orjson

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.access.audit import note
from bridge_chart.cli.bring_in import FILE, report_kept, settings_from
from bridge_chart.cli.instance import open_instance
from bridge_chart.intake.drafts import kept_files
from bridge_chart.intake.drafts.drafts import drop_draft, sheet_of
from bridge_chart.intake.drafts.memory import said_of
from bridge_chart.intake.keep.keep import change_standing
from bridge_chart.intake.keep.undoing import consequences
from bridge_chart.store.versions import history
from bridge_chart.terms.wording import amount


@click.command("history")
def history_command() -> None:
    """What was kept and undone, newest first."""
    _, engine = open_instance()
    with engine.connect() as connection:
        for row in history(connection):
            came = row["archive"].rpartition(" ")[0]
            aside = f", {amount(row['set_aside'])} set aside" if row["set_aside"] else ""
            click.echo(
                f"{row['id']:>5}  {row['event']:<6}  {row['event_at']:%Y-%m-%d %H:%M}  "
                f"{row['counts'].get('rows_kept', 0):>9,} rows{aside}  {row['title']}  "
                f"({came and f'{came}: '}{row['file']})"
            )


def _standing(batch: int, event: str, archive: bool) -> None:
    settings, engine = open_instance()
    done = change_standing(engine, settings, OPERATOR, batch, event, archive=archive)
    click.echo(f"batch {batch} {event}, version {done.version}")


@click.command()
@click.argument("batch", type=int)
@click.option("--explain", is_flag=True, help="Say what it would mean; undo nothing.")
@click.option("--archive", is_flag=True, help="With it all that came in the same archive.")
def undo(batch: int, explain: bool, archive: bool) -> None:
    """Undo a kept batch; it can be put back."""
    for sentence in consequences(open_instance()[1], batch):
        click.echo(sentence)
    if not explain:
        _standing(batch, "undone", archive)


@click.command("put-back")
@click.argument("batch", type=int)
@click.option("--archive", is_flag=True, help="With it all that came in the same archive.")
def put_back(batch: int, archive: bool) -> None:
    """Put an undone batch back."""
    _standing(batch, "kept", archive)


@click.command("aside")
@click.argument("batch", type=int)
def aside(batch: int) -> None:
    """The rows of a kept file that are set aside."""
    engine = open_instance()[1]
    rows = kept_files.set_aside_rows(engine, batch)
    note(engine, OPERATOR, "open_aside", {"batch": batch, "rows": len(rows)})
    for row in rows:
        cells = "; ".join(f"{name}: {cell}" for name, cell in row["cells"])
        click.echo(f"line {row['row']}  {row['reason']}  {cells}")


@click.command("settle")
@click.argument("batch", type=int)
@click.option("--mapping", type=FILE, help="JSON with decisions for these rows.")
def settle(batch: int, mapping: Path | None) -> None:
    """Keep those rows that a kept file set aside and that can be understood now."""
    settings, engine = open_instance()
    draft = kept_files.settle(engine, settings, OPERATOR, batch)
    try:
        own = {k: v for k, v in settings_from(mapping).model_dump().items() if v and mapping}
        decisions = {**draft.settings.decisions, **own.pop("decisions", {})}
        said = draft.settings.model_copy(update={**own, "decisions": decisions})
        sheet = sheet_of(engine, draft.source_id, said)
        report_kept(settings, engine, draft.kind, sheet, said, draft.source_id)
    finally:
        drop_draft(engine, draft)


@click.command("lines")
@click.argument("batch", type=int)
@click.argument("line", type=int, nargs=-1, required=True)
def lines(batch: int, line: tuple[int, ...]) -> None:
    """Lines of a kept file as the file has them."""
    engine = open_instance()[1]
    headers, rows = kept_files.file_lines(engine, batch, list(line))
    note(engine, OPERATOR, "open_lines", {"batch": batch, "lines": len(rows)})
    for number, cells in rows:
        told = "; ".join(f"{name}: {cell}" for name, cell in zip(headers, cells, strict=True))
        click.echo(f"line {number}  {told}")


@click.command("mapping")
@click.argument("batch", type=int)
def mapping(batch: int) -> None:
    """Print what was said of a kept file, as a mapping for the next one of its shape."""
    said = said_of(open_instance()[1], batch).model_dump(mode="json", exclude_defaults=True)
    click.echo(orjson.dumps(said, option=orjson.OPT_INDENT_2).decode())


@click.command("remembered")
def remembered() -> None:
    """Numbers that were accepted as a student's."""
    for row in kept_files.remembered(open_instance()[1]):
        click.echo(f"{row['id']:>5}  “{row['text']}” is {row['number']}  ({row['file']})")


@click.command("forget")
@click.argument("number_id", type=int)
def forget(number_id: int) -> None:
    """Take a remembered number back; what was kept with it stays."""
    settings, engine = open_instance()
    version = kept_files.forget(engine, settings, OPERATOR, number_id)
    click.echo(f"forgotten, version {version}")


COMMANDS = (
    history_command, undo, put_back, aside, settle, lines, mapping, remembered, forget,
)  # fmt: skip
