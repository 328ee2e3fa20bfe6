"""Print one page in a process of its own: `-m bridge_chart.api.print_page PAGE OUT [LOGIN]`."""

from __future__ import annotations

import sys
from pathlib import Path

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.api.app import make_app
from bridge_chart.api.paper import printed
from bridge_chart.store.database import connect
from bridge_chart.store.settings import load_settings
from bridge_chart.terms.errors import BridgeError


def main(page: str, out: str, login: str = "") -> int:
    """Write the PDF of a page as an account (none: the operator) sees it."""
    settings = load_settings()
    try:
        actor = actor_named(connect(settings), login) if login else OPERATOR
        Path(out).write_bytes(printed(make_app(settings), actor, page))
    except BridgeError as error:
        print(f"bridge: {error}", file=sys.stderr)
        return error.exit_code
    return 0


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
