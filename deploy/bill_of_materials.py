"""A bill of materials (CycloneDX 1.5, JSON) of what the program is made of, from its lock files.

`python3 deploy/bill_of_materials.py > bill.json`; needs nothing but Python.
"""

from __future__ import annotations

import base64
import json
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[1]
PINNED = re.compile(r"^(?P<name>[A-Za-z0-9._-]+)==(?P<version>[^ ;\\]+)")
HASHED = re.compile(r"--hash=sha256:([0-9a-f]{64})")


def python_parts(lock: str) -> Iterator[dict[str, Any]]:
    """Each package of a requirements file with the hashes of its files."""
    found: dict[str, Any] | None = None
    for line in lock.splitlines():
        if pinned := PINNED.match(line):
            if found:
                yield found
            name, version = pinned["name"].lower(), pinned["version"]
            found = _part(name, version, f"pkg:pypi/{name}@{version}")
        elif found and (hashed := HASHED.search(line)):
            found["hashes"].append({"alg": "SHA-256", "content": hashed[1]})
    if found:
        yield found


def web_parts(lock: str) -> Iterator[dict[str, Any]]:
    """Each package of a package-lock that ends up in the pages; what only builds them is left
    out."""
    for path, told in json.loads(lock)["packages"].items():
        if not path or told.get("dev"):
            continue
        name, version = path.rpartition("node_modules/")[2], told["version"]
        part = _part(name, version, f"pkg:npm/{name.replace('@', '%40', 1)}@{version}")
        algorithm, _, digest = told.get("integrity", "").partition("-")
        if algorithm == "sha512":
            content = base64.b64decode(digest).hex()
            part["hashes"].append({"alg": "SHA-512", "content": content})
        if isinstance(told.get("license"), str):
            part["licenses"] = [{"expression": told["license"]}]
        yield part


def bill() -> dict[str, Any]:
    """The whole bill."""
    python = python_parts((ROOT / "requirements.lock").read_text(encoding="utf-8"))
    web = web_parts((ROOT / "web" / "package-lock.json").read_text(encoding="utf-8"))
    return {
        "bomFormat": "CycloneDX",
        "specVersion": "1.5",
        "version": 1,
        "metadata": {"component": {"type": "application", "name": "bridge-chart"}},
        "components": [*python, *web],
    }


def _part(name: str, version: str, identity: str) -> dict[str, Any]:
    return {
        "type": "library", "name": name, "version": version, "purl": identity,
        "bom-ref": identity, "hashes": [],
    }  # fmt: skip


if __name__ == "__main__":
    print(json.dumps(bill(), indent=1))
