"""As of when: the date that a part of a question holds for."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, Tag

from bridge_chart.terms.strict import Ref, Strict, by_key


class AsOfSitting(Strict):
    sitting: Ref


class AsOfYear(Strict):
    year: str = Field(pattern=r"^\d{4}-\d{2}$")


class AsOfDate(Strict):
    date: str = Field(pattern=r"^\d{4}-\d{2}-\d{2}$")


AsOf = Annotated[
    Annotated[Literal["sitting", "today"], Tag("word")]
    | Annotated[AsOfSitting, Tag("sitting")]
    | Annotated[AsOfYear, Tag("year")]
    | Annotated[AsOfDate, Tag("date")],
    by_key("sitting", "year", "date"),
]
