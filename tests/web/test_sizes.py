"""What a page loads before it shows something: compressed script, from the build's own manifest."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

DIST = Path(__file__).resolve().parents[2] / "web" / "dist"
MOST = 230_000
"""Bytes of compressed script for a first look, whatever the page."""
PAGES = ("compare/Compare", "intake/Intake", "intake/Draft", "grid/Grid", "scale/Scale",
         "exact/Exact", "setup/Setup", "methods/Method", "people/People",
         "people/Student")  # fmt: skip


def needed(manifest: dict[str, dict[str, object]], *entries: str) -> set[str]:
    """The files that entries load at once, with all that these import."""
    found: set[str] = set()
    waiting = list(entries)
    while waiting:
        entry = waiting.pop()
        if entry not in found:
            found.add(entry)
            waiting += [str(name) for name in manifest[entry].get("imports", [])]  # type: ignore[attr-defined]
    return {str(manifest[entry]["file"]) for entry in found}


def compressed(files: set[str]) -> int:
    return sum((DIST / f"{file}.gz").stat().st_size for file in files)


@pytest.mark.parametrize("page", PAGES)
def test_a_page_loads_little_script_at_first(page: str) -> None:
    manifest = json.loads((DIST / ".vite" / "manifest.json").read_text(encoding="utf-8"))
    at_once = needed(manifest, "index.html")
    whole = at_once | needed(manifest, f"src/features/{page}Page.tsx")
    assert compressed(at_once) < compressed(whole) < MOST


def test_what_is_looked_at_later_is_loaded_later() -> None:
    manifest = json.loads((DIST / ".vite" / "manifest.json").read_text(encoding="utf-8"))
    first = needed(manifest, "index.html") | needed(
        manifest, "src/features/compare/ComparePage.tsx"
    )
    for later in ("lenses/spread/Spread.tsx", "question/pickers/MeasurePicker.tsx",
                  "question/drawer/Drawer.tsx", "ui/PickList.tsx"):  # fmt: skip
        files = [item["file"] for name, item in manifest.items() if name == f"src/{later}"]
        assert not set(files) & first
