"""Prints the OpenAPI document: python -m bridge_chart.api.describe > docs/openapi.json."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from bridge_chart.api.app import describe_only, openapi_document
from bridge_chart.store.settings import Settings


def main() -> None:
    """Write the document to standard output; needs no instance."""
    app = describe_only(Settings(home=Path("/nonexistent")))
    json.dump(openapi_document(app), sys.stdout, indent=1, ensure_ascii=False)
    sys.stdout.write("\n")


if __name__ == "__main__":
    main()
