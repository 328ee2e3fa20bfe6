"""`sign-on`: the stand-in for a district's own sign-on, to try it out."""

from __future__ import annotations

import json
from typing import IO

import click

from bridge_chart.demo.sign_on import MERROW, SignOn, sign_on_app


@click.command("sign-on")
@click.option("--port", type=int, default=8500, show_default=True)
@click.option("--people", type=click.File(encoding="utf-8"),
              help="JSON: who is there, and what is said of them.")  # fmt: skip
def sign_on(port: int, people: IO[str] | None) -> None:
    """Serve a stand-in for a district's own sign-on. On loopback, without passwords: to try out
    provider_issuer, provider_client and provider_secret of settings.toml."""
    told = json.load(people) if people else MERROW
    here = SignOn(f"http://127.0.0.1:{port}", "bridge-chart", "stand-in", told)
    click.echo(f'provider_issuer = "{here.issuer}"')
    click.echo(f'provider_client = "{here.client}"')
    click.echo(f'provider_secret = "{here.secret}"')
    sign_on_app(here).run("127.0.0.1", port)
