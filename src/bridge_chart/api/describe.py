"""Prints the OpenAPI document, or what of it an address of the web page may hold:
`python -m bridge_chart.api.describe > docs/openapi.json`,
`python -m bridge_chart.api.describe asked > web/src/api/asked.schema.json`."""

from __future__ import annotations

import json
import re
import sys
from pathlib import Path
from typing import Any

from bridge_chart.api.app import describe_only, openapi_document
from bridge_chart.store.settings import Settings

IN_ADDRESSES = ("Question", "Open")
SAID_TO_PEOPLE = ("title", "description", "examples", "default", "discriminator")
"""What a check has no use for; left out, so that the page stays small."""


def asked_schema(document: dict[str, Any]) -> dict[str, Any]:
    """The schemas of what stands in an address, with all that they refer to.

    >>> found = asked_schema({"components": {"schemas": {
    ...     "Question": {"$ref": "#/components/schemas/Who"}, "Open": {}, "Who": {"title": "Who"},
    ...     "Other": {}}}})
    >>> sorted(found["$defs"]), found["$defs"]["Question"]
    (['Open', 'Question', 'Who'], {'$ref': '#/$defs/Who'})
    """
    schemas = document["components"]["schemas"]
    found: dict[str, Any] = {}
    waiting = list(IN_ADDRESSES)
    while waiting:
        name = waiting.pop()
        if name not in found:
            text = json.dumps(_bare(schemas[name])).replace("#/components/schemas/", "#/$defs/")
            found[name] = json.loads(text)
            waiting += re.findall(r'"#/\$defs/([^"]+)"', text)
    return {"$defs": dict(sorted(found.items()))}


def _bare(schema: Any) -> Any:
    """Without what is said to people; a key of that name may also be a property."""
    if isinstance(schema, list):
        return [_bare(one) for one in schema]
    if not isinstance(schema, dict):
        return schema
    return {
        # The server takes the first alternative that fits; that a second fits too is no fault.
        "anyOf" if key == "oneOf" else key:
        {name: _bare(one) for name, one in item.items()} if key == "properties" else _bare(item)
        for key, item in schema.items()
        if key not in SAID_TO_PEOPLE
    }  # fmt: skip


def main() -> None:
    """Write the document to standard output; needs no instance."""
    document = openapi_document(describe_only(Settings(home=Path("/nonexistent"))))
    asked = sys.argv[1:] == ["asked"]
    indent = "\t" if asked else 1
    json.dump(asked_schema(document) if asked else document, sys.stdout, indent=indent,
              ensure_ascii=False)  # fmt: skip
    sys.stdout.write("\n")


if __name__ == "__main__":
    main()
