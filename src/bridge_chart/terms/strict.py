"""What the parts of a question are made of: strict values, told apart by their keys."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Discriminator, Field

LARGEST_ID = 2**31 - 1
Ref = Annotated[int, Field(ge=-LARGEST_ID, le=LARGEST_ID)] | Annotated[str, Field(max_length=400)]
"""An id (number) or a name (text)."""


class Strict(BaseModel):
    """Unknown keys are errors; values never change after they are made, so they can be keys."""

    model_config = ConfigDict(
        extra="forbid", frozen=True, populate_by_name=True, allow_inf_nan=False
    )


def by_key(*keys: str) -> Any:
    """Choose a variant by the first of `keys` that the object has, a model by its fields."""
    by_type: dict[type, str | None] = {}

    def choose(value: Any) -> str | None:
        if isinstance(value, dict):
            return next((key for key in keys if key in value), None)
        if isinstance(value, str):
            return "word"
        kind = type(value)
        if kind not in by_type:
            fields = getattr(kind, "model_fields", {})
            names = {name.rstrip("_") for name in fields}
            by_type[kind] = next((key for key in keys if key in names), None)
        return by_type[kind]

    return Discriminator(
        choose,
        custom_error_type="unknown_variant",
        custom_error_message="must have one of the keys " + ", ".join(keys),
    )
