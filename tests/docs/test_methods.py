"""Every public statistic has a page, and every page's example is worked out again."""

from __future__ import annotations

import ast
import doctest
import re
from pathlib import Path

import pytest
from tests.docs.demo import year_8

ROOT = Path(__file__).resolve().parents[2]
CORE = ROOT / "src" / "bridge_chart" / "core"
PAGES = sorted(path for path in (ROOT / "docs" / "methods").glob("*.md") if path.stem != "README")
PARTS = ("Question", "Formula", "Example", "How to read it", "When not to use it", "Source")
FOUNDATIONS = ("arrays.py", "distributions.py", "estimate.py")
"""Not statistics: array types, tails of distributions, the type of an estimate."""


def public_statistics() -> set[str]:
    """module.function of every public function of the core."""
    found = set()
    for path in CORE.rglob("*.py"):
        if path.name in FOUNDATIONS or path.name == "__init__.py":
            continue
        module = ".".join(path.relative_to(CORE).with_suffix("").parts)
        for node in ast.parse(path.read_text(encoding="utf-8")).body:
            if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
                found.add(f"{module}.{node.name}")
    return found


def test_every_public_function_of_the_core_shows_itself_at_work() -> None:
    for path in CORE.rglob("*.py"):
        for node in ast.parse(path.read_text(encoding="utf-8")).body:
            if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
                assert ">>>" in (ast.get_docstring(node) or ""), f"{path.name}: {node.name}"


def named(path: Path) -> list[str]:
    """The functions that a page names in its closing comment."""
    text = path.read_text(encoding="utf-8").split("<!-- core:")[1].split(">>>")[0]
    return text.replace("-->", "").split()


def test_every_public_statistic_has_one_page() -> None:
    listed = [name for path in PAGES for name in named(path)]
    assert len(listed) == len(set(listed)), "a statistic has two pages"
    assert public_statistics() - set(listed) == set(), "without a page"
    assert set(listed) - public_statistics() == set(), "of what is not there"


@pytest.mark.parametrize("path", PAGES, ids=lambda p: p.stem)
def test_a_page_has_all_its_parts_and_its_example_is_right(path: Path) -> None:
    text = path.read_text(encoding="utf-8")
    shown, hidden = text.removesuffix("-->\n").split("<!-- core:")
    at = [shown.find(f"**{part}.**") for part in PARTS]
    assert min(at) > 0, f"a part of {PARTS} is missing"
    assert at == sorted(at)
    examples = doctest.DocTestParser().get_examples(hidden)
    assert examples
    test = doctest.DocTest(examples, {**year_8()}, path.stem, str(path), 0, hidden)
    said: list[str] = []
    failed = doctest.DocTestRunner(verbose=False).run(test, out=said.append).failed
    assert failed == 0, "".join(said)
    numbers = {number for example in examples for number in re.findall(r"-?[\d.]*\d", example.want)}
    prose = set(re.findall(r"-?[\d.]*\d", shown.replace("−", "-").replace(",", "")))
    prose |= {number.lstrip("-") for number in prose}
    assert numbers <= prose, f"not in the text: {sorted(numbers - prose)}"


def test_the_index_lists_every_page_and_links_lead_somewhere() -> None:
    index = (ROOT / "docs" / "methods" / "README.md").read_text(encoding="utf-8")
    assert set(re.findall(r"\]\(([a-z0-9-]+)\.md\)", index)) == {path.stem for path in PAGES}
    for path in PAGES:
        for link in re.findall(r"\]\(([^)]+)\)", path.read_text(encoding="utf-8")):
            assert (path.parent / link).exists(), f"{path.name} links to {link}"


def test_pages_that_answers_name_are_there() -> None:
    for path in (ROOT / "src" / "bridge_chart" / "answers").glob("*.py"):
        for page in re.findall(r"\"(methods/[a-z0-9-]+\.md)\"", path.read_text(encoding="utf-8")):
            assert (ROOT / "docs" / page).exists()
