"""What is long goes out packed, to whoever takes it packed."""

from __future__ import annotations

import gzip

from flask import Request, Response

LEAST = 100_000
"""Bytes from which on an answer is packed: a shorter one is sent sooner than it is packed."""
QUICK = 1
"""How hard gzip tries: the least; JSON of many rows becomes a tenth all the same."""


def takes_gzip(request: Request) -> bool:
    """Whether who asks can unpack gzip."""
    return request.accept_encodings.quality("gzip") > 0


def packed(request: Request, response: Response) -> Response:
    """A long JSON answer, packed. Files are packed when the page is built.

    No secret stands beside what another site could choose: a request with a person's cookie that
    carries words of another site is refused before it is read.
    """
    long = (response.content_length or 0) >= LEAST
    if not long or response.mimetype != "application/json" or not takes_gzip(request):
        return response
    if response.direct_passthrough or "Content-Encoding" in response.headers:
        return response
    response.set_data(gzip.compress(response.get_data(), QUICK))
    response.headers["Content-Encoding"] = "gzip"
    response.vary.add("Accept-Encoding")
    return response
