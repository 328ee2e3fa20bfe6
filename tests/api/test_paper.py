"""Every place of the page can be printed, and nothing that is no page."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from pydantic import ValidationError

from bridge_chart.api.paper import PageBody

SHELL = Path(__file__).parents[2] / "web" / "src" / "app" / "Shell.tsx"
TYPED_INTO = {"/intake"}
"""Where files are brought in there is nothing to take home on paper."""


def test_every_place_of_the_page_can_be_printed() -> None:
    places = set(re.findall(r'\{ to: "(/[a-z]+)"', SHELL.read_text(encoding="utf-8")))
    assert len(places) >= 4
    for place in places - TYPED_INTO:
        assert PageBody(page=f"{place}?q=%7B%7D").page.startswith(place)


@pytest.mark.parametrize("page", ["/api/answers", "//elsewhere", "/testsuite", "file:///etc"])
def test_what_is_no_page_is_refused(page: str) -> None:
    with pytest.raises(ValidationError):
        PageBody(page=page)
