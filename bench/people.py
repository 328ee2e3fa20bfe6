"""Lists and paper: sorting a long list against a plain sort of the same rows, and a PDF of a long
list against Chromium printing a bare table of them."""

from __future__ import annotations

import html
import io
import shutil
import subprocess
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from urllib.parse import urlencode

from pypdf import PdfReader

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.answers.asking.answer import lines_of
from bridge_chart.answers.asking.ask import answer, answer_bytes, forget_answers, read_question
from bridge_chart.api.app import make_app
from bridge_chart.api.paper import printed
from bridge_chart.store.database import connect
from bridge_chart.store.settings import load_settings
from bridge_chart.terms.question import Question

Row = tuple[str, float, str]
ROWS = 5_000
FEW = {"all": [{"field": "school", "in": ["Fernhollow"]}]}
"""Whose list is printed: more than twelve pages."""
TIMES = 5


def _list(who: dict[str, object] | None = None) -> Question:
    """The newest sitting of the demo's survey: students with three sittings and their span."""
    spring = {"assessment": "Spring survey", "subject": "Mathematics", "sitting": "spring 2026"}
    return read_question({
        "what": [spring], "show": "students", "sort": [{"by": "name", "dir": "desc"}],
        "who": who or {},
        "columns": [{"field": "school"}, {"field": "class"},
                    {"measure": {**spring, "sitting": "each"}},
                    {"measure": {"derive": "span", "of": spring, "against": {"prior": {}}}}],
        "page": {"size": ROWS},
    })  # fmt: skip


def _median(run: Callable[[], object]) -> float:
    took = []
    for _ in range(TIMES):
        start = time.perf_counter()
        run()
        took.append(time.perf_counter() - start)
    return sorted(took)[TIMES // 2]


def people_rows() -> list[Row]:
    """Ratios on the instance in BRIDGE_HOME, which must hold the demo district."""
    settings = load_settings()
    engine = connect(settings)
    asked = _list()
    found = answer(engine, settings, OPERATOR, asked)
    _, lines = lines_of(found)

    def anew() -> None:
        forget_answers()
        answer_bytes(engine, settings, OPERATOR, asked)

    def plain() -> list[list[object]]:
        return sorted(lines, key=lambda line: str(line[0]).casefold(), reverse=True)

    ours, theirs = _median(anew), _median(plain)
    long = _list(FEW)
    few = lines_of(answer(engine, settings, OPERATOR, long))[1]
    text = long.model_dump_json(by_alias=True, exclude_defaults=True)
    app = make_app(settings)
    page = f"/people?{urlencode({'q': text})}"
    paper = _median(lambda: printed(app, OPERATOR, page))
    bare = _median(lambda: _bare(few))
    sheets = len(PdfReader(io.BytesIO(printed(app, OPERATOR, page))).pages)
    return [
        ("a list in another order, whole Answer / a plain sort of its rows", ours / theirs,
         f"{len(lines):,} rows; {1000 * ours:.0f} ms against {1000 * theirs:.1f} ms"),
        ("PDF of a list / Chromium printing a bare table of it", paper / bare,
         f"{len(few)} rows on {sheets} pages; {paper:.1f} s against {bare:.1f} s"),
    ]  # fmt: skip


def _bare(lines: list[list[object]]) -> None:
    """The rows as a table without any style, printed by Chromium's own command."""
    cells = "".join(
        "<tr>" + "".join(f"<td>{html.escape(str(cell))}</td>" for cell in line) + "</tr>"
        for line in lines
    )
    chromium = shutil.which("chromium") or "chromium"
    with tempfile.TemporaryDirectory() as folder:
        source, out = Path(folder) / "bare.html", Path(folder) / "bare.pdf"
        source.write_text(f"<!doctype html><table>{cells}</table>", encoding="utf-8")
        subprocess.run(
            [chromium, "--headless", "--no-sandbox", "--disable-gpu", "--disable-sync",
             "--disable-background-networking", f"--print-to-pdf={out}", source.as_uri()],
            check=True, capture_output=True,
        )  # fmt: skip
