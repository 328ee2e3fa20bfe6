"""Print a page in its own process: `-m bridge_chart.api.print_page PAGE OUT [LOGIN [PAPER]]`."""

from __future__ import annotations

import sys
from pathlib import Path

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.api.app import make_app
from bridge_chart.api.paper import printed
from bridge_chart.output.paper import PAPERS
from bridge_chart.store.database import connect
from bridge_chart.store.settings import load_settings
from bridge_chart.terms.errors import BridgeError


def main(page: str, out: str, login: str = "", paper: str = "A4") -> int:
    """Write the PDF of a page as an account (none: the operator) sees it."""
    settings = load_settings()
    size = next(one for one in PAPERS if one == paper)
    try:
        actor = actor_named(connect(settings), login) if login else OPERATOR
        Path(out).write_bytes(printed(make_app(settings), actor, page, size))
    except BridgeError as error:
        print(f"bridge: {error}", file=sys.stderr)
        return error.exit_code
    return 0


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
