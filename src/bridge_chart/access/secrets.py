"""Secrets that are given out once: the record holds their digests, and a copy of it opens
nothing."""

from __future__ import annotations

import hashlib
import secrets


def new_secret() -> str:
    """256 random bits, as they stand in an address or a cookie."""
    return secrets.token_urlsafe(32)


def digest_of(secret: str) -> str:
    """What is kept of a secret; random ones need no slow hash.

    >>> digest_of("a") == digest_of("a"), len(digest_of("a"))
    (True, 64)
    """
    return hashlib.sha256(secret.encode()).hexdigest()
