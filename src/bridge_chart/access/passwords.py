"""What a password must be, and how it is kept."""

from __future__ import annotations

from functools import cache

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerifyMismatchError
from zxcvbn import zxcvbn

from bridge_chart.terms.errors import InvalidQuestion

SHORTEST = 10
LONGEST = 500
JUDGED = 72
"""Characters that are judged: what is longer takes long to judge, and is hard to guess by then."""
LEFT = 6
"""Letters and figures that are left without the person's own names."""
HARD = 3
"""Of 0 to 4: safely unguessable from outside, where tries are slowed."""
_hasher = PasswordHasher()


def require_strong(password: str, *about: str) -> None:
    """InvalidQuestion where a password is short, common, or made of who it is for."""
    kept = "The password was not set."
    if not SHORTEST <= len(password) <= LONGEST:
        raise InvalidQuestion(
            f"A password must have {SHORTEST} to {LONGEST} characters.", kept=kept
        )
    names = [word for text in about for word in (text, *text.split()) if len(word) > 2]
    rest = password.casefold()
    for name in names:
        rest = rest.replace(name.casefold(), "")
    if sum(sign.isalnum() for sign in rest) < LEFT:
        raise InvalidQuestion(
            "This password is easy to guess. It is made of who it is for.", kept=kept,
            next_step="Take several words that do not belong together.",
        )  # fmt: skip
    found = zxcvbn(password[:JUDGED], user_inputs=[*names, "bridge", "chart"])
    if found["score"] < HARD:
        told = found["feedback"]["warning"] or "It is among the first that somebody would try."
        raise InvalidQuestion(
            f"This password is easy to guess. {told}", kept=kept,
            next_step="Take several words that do not belong together.",
        )  # fmt: skip


def hashed(password: str) -> str:
    """What is kept of a password."""
    return _hasher.hash(password)


def fits(kept: str | None, password: str) -> bool:
    """Whether it is the password; where none is kept it takes as long to say no."""
    try:
        _hasher.verify(kept or _nobodys(), password)
    except (VerifyMismatchError, InvalidHashError):
        return False
    return kept is not None


@cache
def _nobodys() -> str:
    return _hasher.hash("nobody has this password")
