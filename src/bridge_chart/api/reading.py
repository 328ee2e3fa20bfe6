"""What a request may hold at all, read before anything else looks at it.

Whatever passes here can be stored and counted: text without NUL, numbers that are numbers, brackets
no deeper than anybody means. So no endpoint has to remember it.
"""

from __future__ import annotations

from typing import Annotated
from urllib.parse import unquote

import orjson
from flask import Request
from pydantic import Field

from bridge_chart.terms.errors import InvalidQuestion, NotFound
from bridge_chart.terms.strict import LARGEST_ID

DEEPEST = 60
"""Brackets within brackets; the deepest question that anybody wrote has twelve."""
Identity = Annotated[int, Field(ge=0, le=LARGEST_ID)]
"""An id, or a line, that the record can hold."""


def refuse_unreadable(request: Request) -> None:
    """Raise InvalidQuestion for a request that cannot be meant."""
    numbers = [value for value in (request.view_args or {}).values() if isinstance(value, int)]
    if any(number > LARGEST_ID for number in numbers):
        raise NotFound("There is nothing with so large a number.")
    if "\x00" in unquote(request.full_path):
        raise _unreadable("The address holds a NUL character.")
    if request.mimetype == "application/json":
        _look_into(request.get_data(cache=True))
    elif request.mimetype in ("multipart/form-data", "application/x-www-form-urlencoded"):
        texts = [*request.form.values(), *(file.filename or "" for file in request.files.values())]
        if any("\x00" in text for text in texts):
            raise _unreadable("The form holds a NUL character.")


def _look_into(data: bytes) -> None:
    """orjson refuses NaN, Infinity and what is no UTF-8; depth and NUL are looked at here."""
    if not data:
        return
    if _depth(data) > DEEPEST:
        raise _unreadable(f"The request has brackets deeper than {DEEPEST}.")
    try:
        orjson.loads(data)
    except orjson.JSONDecodeError as error:
        raise _unreadable(f"The request is not valid JSON: {error}.") from error
    if b"\\u0000" in data:
        raise _unreadable("The request holds a NUL character.")


def _depth(data: bytes) -> int:
    """The deepest nesting of brackets; those inside texts do not count."""
    deep = deepest = 0
    inside = escaped = False
    for byte in data:
        if inside:
            escaped, inside = byte == 0x5C and not escaped, byte != 0x22 or escaped
        elif byte == 0x22:
            inside = True
        elif byte in b"[{":
            deep += 1
            deepest = max(deepest, deep)
        elif byte in b"]}":
            deep -= 1
    return deepest


def _unreadable(message: str) -> InvalidQuestion:
    return InvalidQuestion(
        message, kept="Nothing was changed.", next_step="Compare it with /api/openapi.json."
    )
