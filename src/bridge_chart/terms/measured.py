"""What a measure says besides its test: which part, which kind of score, whose claim."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from bridge_chart.terms.strict import LARGEST_ID, Ref, Strict


class Back(Strict):
    back: int = Field(ge=1, le=LARGEST_ID)


class Part(Strict):
    kind: PartKind
    is_: Ref | Literal["each"] | None = Field(default=None, alias="is")
    tagged: tuple[str, ...] | None = None


Score = Literal[
    "auto", "raw", "percent", "scaled", "level", "grade", "points", "percentile", "credits"
]
PartKind = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60)]
"""One of PART_KINDS, or what a district's own table of questions calls a tag."""
PART_KINDS = ("paper", "section", "question", "strand", "topic", "objective", "skill", "type")
Role = Literal["result", "target", "predicted", "estimate", "judgement"]
