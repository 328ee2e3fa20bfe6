"""The bill of materials: every package of the locks, each once, with a hash that is the lock's."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]


def test_the_bill_names_every_package_of_the_locks() -> None:
    made = subprocess.run([sys.executable, "deploy/bill_of_materials.py"], cwd=ROOT,
                          capture_output=True, check=True)  # fmt: skip
    bill = json.loads(made.stdout)
    parts = {one["purl"]: one for one in bill["components"]}
    assert len(parts) == len(bill["components"])
    lock = (ROOT / "requirements.lock").read_text(encoding="utf-8")
    pinned = {line.split(" ")[0].lower() for line in lock.splitlines() if "==" in line}
    python = {one for one in parts if one.startswith("pkg:pypi/")}
    assert python == {f"pkg:pypi/{one.replace('==', '@')}" for one in pinned}
    assert lock.count("--hash=") == sum(len(parts[one]["hashes"]) for one in python)
    packages = json.loads((ROOT / "web" / "package-lock.json").read_text(encoding="utf-8"))
    shipped = {
        (path.rpartition("node_modules/")[2], told["version"])
        for path, told in packages["packages"].items()
        if path and not told.get("dev")
    }
    web = {(one["name"], one["version"]) for one in parts.values() if one["purl"] not in python}
    assert web == shipped
    assert ("react", packages["packages"]["node_modules/react"]["version"]) in web
    assert all(one["hashes"] for one in parts.values())
