"""Rules of awards, written on screen, over HTTP."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.answers.beside import award_rules as held
from bridge_chart.api.context import actor, as_json, instance, rule

api = APIBlueprint("awards", __name__, url_prefix="/api")


class AwardRowsBody(BaseModel):
    model_config = ConfigDict(extra="forbid")

    rows: list[held.RuleRow] = Field(max_length=500)


@api.get("/award-rules", responses={200: held.RulesKept}, operation_id="awardRules")
@rule("intake")
def get_award_rules() -> Response:
    """The rules that hold, as rows, and what credit records name."""
    here = instance()
    return as_json(held.kept_rules(here.engine, here.settings, actor()))


@api.post("/award-rules/try", responses={200: held.RulesRead}, operation_id="tryAwardRules")
@rule("intake")
def post_award_rules(body: AwardRowsBody) -> Response:
    """Rules read back and tried on three students; nothing is kept."""
    here = instance()
    return as_json(held.read_back(here.engine, here.settings, actor(), body.rows))
