"""Asking: the same Question and Answer as on screen and command line."""

from __future__ import annotations

import datetime as dt

from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel

from bridge_chart.access.audit import note
from bridge_chart.answers.asking.answer import Answer, lines_of
from bridge_chart.answers.asking.ask import answer, answer_bytes, lines_for_outside
from bridge_chart.answers.asking.book import book_of, views_beside
from bridge_chart.answers.beside.catalogue import Catalogue, catalogue
from bridge_chart.api.context import actor, as_json, instance, rule
from bridge_chart.output.csv import to_csv
from bridge_chart.output.dictionary import dictionary_of
from bridge_chart.terms.question import Question

XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
api = APIBlueprint("answers", __name__, url_prefix="/api")


@api.get("/catalogue", responses={200: Catalogue}, operation_id="catalogue")
@rule("ask")
def get_catalogue() -> Response:
    """What can be asked, in the scope of who asks."""
    here = instance()
    return as_json(catalogue(here.engine, here.settings, actor()))


@api.post("/answers", responses={200: Answer}, operation_id="ask")
@rule("ask", reads=True)
def post_answer(body: Question) -> Response:
    """Answer a question."""
    here = instance()
    return as_json(answer_bytes(here.engine, here.settings, actor(), body))


class ExportQuery(BaseModel):
    """outside: small numbers are hidden, so that the file may leave the house."""

    outside: bool = False


@api.post("/exports/csv", operation_id="exportCsv")
@rule("export", reads=True)
def post_csv(query: ExportQuery, body: Question) -> Response:
    """The answer's numbers as CSV; noted in the audit."""
    here = instance()
    if query.outside:
        lines = lines_for_outside(here.engine, here.settings, actor(), body)
        return _as_csv(f"bridge-chart-{body.show}-outside.csv", to_csv(*lines))
    found = answer(here.engine, here.settings, actor(), body)
    note(here.engine, actor(), "export", {"sentence": found.sentence, "show": found.body.show})
    return _as_csv(f"bridge-chart-{found.body.show}.csv", to_csv(*lines_of(found)))


@api.post("/exports/csv-metadata", operation_id="exportDictionary")
@rule("export", reads=True)
def post_dictionary(body: Question) -> Response:
    """What the columns of that CSV are (CSV on the Web)."""
    here = instance()
    found = answer(here.engine, here.settings, actor(), body)
    name = f"bridge-chart-{found.body.show}.csv"
    return as_json(dictionary_of(name, found.sentence, *lines_of(found)))


@api.post("/exports/workbook", operation_id="exportWorkbook")
@rule("export", reads=True)
def post_workbook(body: Question) -> Response:
    """The answer as a workbook: notes, figures, signs, a chart of spans; noted in the audit."""
    here = instance()
    found = answer(here.engine, here.settings, actor(), body)
    told = {"sentence": found.sentence, "show": found.body.show, "as": "workbook"}
    note(here.engine, actor(), "export", told)
    headers = {
        "Content-Disposition": f'attachment; filename="bridge-chart-{found.body.show}.xlsx"',
        "Cache-Control": "no-store",
    }
    beside = views_beside(here.engine, here.settings, actor(), body)
    data = book_of(found, actor().name, dt.datetime.now(), beside)
    return Response(data, mimetype=XLSX, headers=headers)


def _as_csv(name: str, text: str) -> Response:
    headers = {
        "Content-Disposition": f'attachment; filename="{name}"', "Cache-Control": "no-store",
    }  # fmt: skip
    data = "\ufeff" + text
    return Response(data.encode(), mimetype="text/csv; charset=utf-8", headers=headers)
