"""The one tree of errors. Every error has a stable code and says what to do next.

`message` says what happened, `kept` what was kept safe, `next_step` what to do.
The web answers with `status`; the command line leaves with `exit_code`
(the numbers of sysexits.h, so that scripts can tell bad data from bad use).
"""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ValidationError


class ErrorInfo(BaseModel):
    """What happened, what was kept safe, what to do next."""

    code: str
    message: str
    kept: str
    next: str
    details: dict[str, Any]


class ErrorBody(BaseModel):
    """The one body of every error."""

    error: ErrorInfo


class BridgeError(Exception):
    """Base of everything this program raises on purpose."""

    code = "error"
    status = 500
    exit_code = 70

    def __init__(
        self, message: str, *, kept: str = "", next_step: str = "", **details: Any
    ) -> None:
        super().__init__(message)
        self.message = message
        self.kept = kept
        self.next_step = next_step
        self.details = details

    def as_json(self) -> dict[str, Any]:
        """The JSON shape of every error: {"error": {code, message, kept, next, details}}."""
        return {
            "error": {
                "code": self.code,
                "message": self.message,
                "kept": self.kept,
                "next": self.next_step,
                "details": self.details,
            }
        }

    def __str__(self) -> str:
        return " ".join(part for part in (self.message, self.kept, self.next_step) if part)


class InvalidQuestion(BridgeError):
    """The question cannot be understood: an unknown key, a wrong type, a name that is nowhere."""

    code = "invalid"
    status = 422
    exit_code = 65


def problems_of(error: ValidationError) -> list[dict[str, str]]:
    """Where each thing that does not fit stands, and what is wrong, in words of the format:
    JSON knows lists, not the types that we keep them in."""
    return [
        {
            "at": ".".join(map(str, item["loc"])),
            "problem": "Input should be a list" if item["type"] == "tuple_type" else item["msg"],
        }
        for item in error.errors(include_url=False, include_context=False, include_input=False)
    ]


class Ambiguous(InvalidQuestion):
    """A name fits several things; `details["candidates"]` lists them."""

    code = "ambiguous"


class NotYet(BridgeError):
    """A valid question that this version cannot answer; it never answers half of it."""

    code = "not_yet"
    status = 501
    exit_code = 69


class TooWide(BridgeError):
    """The answer would be too large to show whole; ask a narrower question or a page of it."""

    code = "too_wide"
    status = 422
    exit_code = 65


class NotFound(BridgeError):
    """It does not exist, or lies outside the scope of who asks; the two read the same."""

    code = "not_found"
    status = 404
    exit_code = 66


class NotPublished(BridgeError):
    """A figure of students beyond the asker's scope that is not published, or not so fine;
    `details["instead"]` is the nearest question that is."""

    code = "not_published"
    status = 403
    exit_code = 77


class NotSignedIn(BridgeError):
    """Nobody is signed in."""

    code = "not_signed_in"
    status = 401
    exit_code = 77


class CodeNeeded(NotSignedIn):
    """The password fits, and the account asks for a one-time code too."""

    code = "code_needed"


class ProviderTrouble(BridgeError):
    """The district's own sign-on cannot be reached, or says what cannot be understood."""

    code = "provider_trouble"
    status = 502
    exit_code = 69


class TooManyTries(BridgeError):
    """A try at signing in that came too soon after others that failed."""

    code = "too_many_tries"
    status = 429
    exit_code = 75

    def __init__(self, seconds: int) -> None:
        super().__init__(
            "Too many tries at signing in.",
            kept="Nothing was changed; the account is not locked.",
            next_step=f"Wait {seconds} {'second' if seconds == 1 else 'seconds'}, then try again.",
            wait=seconds,
        )


class NotAllowed(BridgeError):
    """The role does not allow this."""

    code = "not_allowed"
    status = 403
    exit_code = 77


class UnreadableFile(BridgeError):
    """A file that cannot be read as a table, or lacks a column that is needed."""

    code = "unreadable_file"
    status = 422
    exit_code = 65


class Unsettled(BridgeError):
    """Something must be settled by a person before this can be kept."""

    code = "unsettled"
    status = 409
    exit_code = 65


class ChangedMeanwhile(BridgeError):
    """Somebody else kept something in between; what was shown no longer holds."""

    code = "changed_meanwhile"
    status = 409
    exit_code = 75


class NoPrinter(BridgeError):
    """No PDF could be made of a page."""

    code = "no_printer"
    status = 503
    exit_code = 69


class BadSettings(BridgeError):
    """The settings file has an unknown key or a value of the wrong type."""

    code = "bad_settings"
    exit_code = 78


class NoRoom(BridgeError):
    """The disk is full, or nearly."""

    code = "no_room"
    status = 507
    exit_code = 74


class RecordAway(BridgeError):
    """PostgreSQL does not answer: it falls seldom, and is started again."""

    code = "record_away"
    status = 503
    exit_code = 75


class BackupTrouble(BridgeError):
    """A backup could not be made, restored, or is not what it says."""

    code = "backup"
    exit_code = 74


class RecordTooNew(BridgeError):
    """The record was made by a newer program."""

    code = "record_too_new"
    exit_code = 78


class ClusterTrouble(BridgeError):
    """PostgreSQL could not be made or started."""

    code = "cluster"
    exit_code = 69
