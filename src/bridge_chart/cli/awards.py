"""Rules of awards at the command line."""

from __future__ import annotations

import json
from pathlib import Path

import click

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.answers.beside import award_rules as held
from bridge_chart.cli.instance import open_instance
from bridge_chart.terms.award_rule import read_rules


@click.command("awards")
@click.argument("rows", required=False, type=click.Path(path_type=Path, exists=True))
def awards(rows: Path | None) -> None:
    """Rules of awards as sentences; those in ROWS (JSON: a list of rows by column) read back and
    tried on three students, nothing kept."""
    settings, engine = open_instance()
    if rows is None:
        kept = held.kept_rules(engine, settings, OPERATOR)
        for rule in read_rules([held.cells_of(row) for row in kept.rows]):
            since = f" (from {rule.since})" if rule.since else ""
            click.echo(f"{rule.name}{since}: {' '.join(rule.says)}")
        return
    written = [held.RuleRow.model_validate(row) for row in json.loads(rows.read_text("utf-8"))]
    told = held.read_back(engine, settings, OPERATOR, written)
    for trouble in told.troubles:
        click.echo(f"row {trouble.row + 1} “{written[trouble.row].condition}” {trouble.why}")
    for read in told.rules:
        click.echo(f"{read.name}: {' '.join(read.says)}")
    for one in told.tried:
        has = "; ".join(f"{c.name} {c.has:g} of {c.needed:g}" for c in one.conditions)
        click.echo(f"  {one.rule}, {one.name}: {one.state} ({has})")
    if told.troubles:
        raise SystemExit(65)
