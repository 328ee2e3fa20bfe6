"""The rooms and manners of docs/architecture.md, as far as a machine can see them."""

from __future__ import annotations

import ast
import re
import sys
from pathlib import Path

import pytest

SRC = Path(__file__).resolve().parents[2] / "src" / "bridge_chart"
WEB = SRC.parents[1] / "web" / "src"
FILES = sorted(SRC.rglob("*.py"))


def imported(path: Path) -> set[str]:
    """The top names of everything that a file imports, wherever in the file."""
    names: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            names |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            names.add(node.module)
    return names


@pytest.mark.parametrize("path", sorted((SRC / "core").rglob("*.py")), ids=lambda p: p.stem)
def test_core_knows_the_standard_library_numpy_and_scipy_only(path: Path) -> None:
    for name in imported(path):
        top = name.split(".")[0]
        allowed = top in sys.stdlib_module_names or top in ("numpy", "scipy")
        assert allowed or name.startswith("bridge_chart.core"), f"{path.name} imports {name}"


def test_columns_are_read_by_one_door() -> None:
    guilty = {
        path.stem for path in FILES if re.search(r"\bnp\.load\(|mmap_mode", path.read_text("utf-8"))
    }
    assert guilty == {"columns"}


def test_whatever_answers_gets_its_snapshot_in_the_scope_of_who_asks() -> None:
    """A whole snapshot is made for intake and the data lead; an answer has it by one door."""
    guilty = {
        str(path.relative_to(SRC))
        for room in ("answers", "output")
        for path in (SRC / room).rglob("*.py")
        if "bridge_chart.store.snapshot_build" in imported(path)
    }
    assert guilty == set()


def test_nothing_but_what_publishes_looks_beyond_a_scope() -> None:
    beyond = re.compile(
        r"\bbeyond\((?:own|snapshot)\b|\boutside\.(?:whole|at|known)\b|\.loaded\b|\._whole\b"
    )
    looking = {
        str(path.relative_to(SRC)) for path in FILES if beyond.search(path.read_text("utf-8"))
    }
    assert looking == {
        "access/scoped.py",  # cuts it
        "access/releases.py",  # hands it on, unread
        "answers/published/paired.py",  # lets out the figures of a class that is paired
        "answers/published/fits.py",  # reads figures off for the scope's own students
        "answers/published/names.py",  # lets out names of tests and values, no figure
        "answers/asking/wider.py",  # lets out what answers/published/cells.py says
    }


def test_the_web_page_never_casts_what_it_sends() -> None:
    """A question is built as the generated types have it, or the compiler says so."""
    cast = re.compile(r"\bas (unknown|any|Question|Condition|Dimension|Measure|Open|What)\b")
    files = [path for path in WEB.rglob("*.ts*") if path.name != "schema.d.ts"]
    assert len(files) > 50
    guilty = [
        f"{path.name}: {line.strip()}"
        for path in files
        for line in path.read_text("utf-8").splitlines()
        if cast.search(line)
    ]
    assert guilty == []


def test_only_api_imports_flask() -> None:
    guilty = {
        str(path.relative_to(SRC))
        for path in FILES
        for name in imported(path)
        if name.split(".")[0].startswith("flask") and path.parent.name != "api"
    }
    assert guilty == {"demo/sign_on.py"}  # a stand-in for somebody else's server


def test_test_references_never_run_in_the_program() -> None:
    guilty = {
        (path.name, name)
        for path in FILES
        for name in imported(path)
        if name.split(".")[0] in ("statsmodels", "pandas", "pytest", "hypothesis")
    }
    assert guilty == set()


def test_web_features_never_import_each_other() -> None:
    features = [folder.name for folder in (WEB / "features").iterdir()]
    assert len(features) >= 3
    for path in (WEB / "features").rglob("*.ts*"):
        mine = path.relative_to(WEB / "features").parts[0]
        text = path.read_text(encoding="utf-8")
        for other in features:
            assert other == mine or f"../{other}/" not in text, f"{path} imports {other}"


def test_files_functions_and_components_stay_small() -> None:
    for path in [*FILES, *WEB.rglob("*.ts*")]:
        if path.name == "schema.d.ts":
            continue
        lines = path.read_text(encoding="utf-8").splitlines()
        assert len(lines) < 500, path
        if path.suffix == ".py" and "migrations" not in path.parts:
            for node in ast.walk(ast.parse("\n".join(lines))):
                if isinstance(node, ast.FunctionDef) and node.end_lineno:
                    assert node.end_lineno - node.lineno < 60, f"{path}: {node.name}"


def test_init_files_only_hand_names_on() -> None:
    for path in SRC.rglob("__init__.py"):
        for node in ast.parse(path.read_text(encoding="utf-8")).body:
            assert isinstance(node, (ast.Expr, ast.Import, ast.ImportFrom, ast.Assign)), path


def test_lock_files_carry_no_download_address() -> None:
    root = SRC.parents[1]
    for name in (
        "requirements.lock", "requirements-test.lock", "requirements-node.lock",
        "web/package-lock.json",
    ):  # fmt: skip
        text = (root / name).read_text(encoding="utf-8")
        assert "index-url" not in text
        assert '"resolved": "http' not in text


def test_files_are_opened_in_a_reader_and_nowhere_else() -> None:
    """What unpacks or parses a file that came from outside is loaded by the reading process."""
    reading = SRC / "intake" / "reading"
    openers = {"bridge_chart.intake.reading." + name for name in ("read", "archive", "workbook",
               "text", "bundle", "extent", "layout")}  # fmt: skip
    openers |= {"python_calamine", "zipfile"}
    guilty = {
        str(path.relative_to(SRC))
        for path in FILES
        if reading not in path.parents and imported(path) & openers
    }
    # The bundle that goes out is packed, not opened; a backup is the operator's own, and holds no
    # file of anybody's but a dump.
    packing = {"output/archive.py", "output/bundle.py", "output/tidy.py"}
    assert guilty == {*packing, "store/backup.py"}
