"""What is published of the district, over HTTP."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint

from bridge_chart.answers.beside.published_figures import (
    PublishedAsked,
    PublishedFigures,
    PublishedPlace,
    lines_of_published,
    published_figures,
    published_place,
)
from bridge_chart.api.context import actor, as_json, instance, rule
from bridge_chart.output.csv import to_csv

api = APIBlueprint("published", __name__, url_prefix="/api")


@api.get("/published", responses={200: PublishedPlace}, operation_id="publishedPlace")
@rule("published")
def get_place() -> Response:
    """Which tests, year levels and characteristics are published."""
    here = instance()
    return as_json(published_place(here.engine, here.settings, actor()))


@api.get("/published/figures", responses={200: PublishedFigures}, operation_id="publishedFigures")
@rule("published")
def get_figures(query: PublishedAsked) -> Response:
    """The published figures of a test and a year level."""
    here = instance()
    return as_json(published_figures(here.engine, here.settings, actor(), query))


@api.get("/published/csv", operation_id="publishedCsv")
@rule("published")
def get_csv(query: PublishedAsked) -> Response:
    """The same as CSV."""
    here = instance()
    found = published_figures(here.engine, here.settings, actor(), query)
    named = {"Content-Disposition": 'attachment; filename="published.csv"',
             "Cache-Control": "no-store"}  # fmt: skip
    return Response(to_csv(*lines_of_published(found)), mimetype="text/csv", headers=named)
