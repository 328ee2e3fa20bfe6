"""What people make of what is kept: groups, questions, lists, notes, attachments, releases; and
what the district decided. None of it is a fact of a file, and no version holds it."""

from __future__ import annotations

from sqlalchemy import (
    BigInteger,
    Boolean,
    CheckConstraint,
    Column,
    DateTime,
    ForeignKey,
    Integer,
    LargeBinary,
    Table,
    Text,
    func,
)
from sqlalchemy.dialects.postgresql import ARRAY, JSONB, UUID

from bridge_chart.store.tables import made_at, numbered
from bridge_chart.store.tables import metadata as metadata

# ── Use ──────────────────────────────────────────────────────────────────────
student_set = Table(
    "student_set", metadata, numbered(), made_at(),
    Column("account_id", ForeignKey("account.id"), nullable=True),
    Column("name", Text, nullable=False),
    Column("shared", Boolean, nullable=False, server_default="false"),
    Column("rule", JSONB, nullable=True, comment="who, of a question: stays live"),
    Column("students", ARRAY(Integer), nullable=True, comment="a fixed list"),
    Column("retired", Boolean, nullable=False, server_default="false"),
)  # fmt: skip
saved_question = Table(
    "saved_question", metadata, numbered(), made_at(),
    Column("account_id", ForeignKey("account.id"), nullable=True),
    Column("name", Text, nullable=False),
    Column("shared", Boolean, nullable=False, server_default="false"),
    Column("question", JSONB, nullable=False),
    Column("retired", Boolean, nullable=False, server_default="false"),
    Column("revision", Integer, nullable=False, server_default="1", comment="of a list"),
    Column("shared_with", JSONB, nullable=True, comment="accounts and schools, where not all"),
    Column("plan", JSONB, nullable=True, comment="aim, start, review, who acts"),
)  # fmt: skip
list_look = Table(
    "list_look", metadata, numbered(), made_at(),
    Column("question_id", ForeignKey("saved_question.id"), nullable=False, index=True),
    Column("account_id", ForeignKey("account.id"), nullable=True),
    Column("version_id", ForeignKey("version.id"), nullable=False, comment="what was seen"),
)  # fmt: skip
student_note = Table(
    "student_note", metadata, numbered(), made_at(),
    Column("account_id", ForeignKey("account.id"), nullable=True),
    Column("student_id", ForeignKey("student.id"), nullable=False, index=True),
    Column("question_id", ForeignKey("saved_question.id"), nullable=True, comment="in which list"),
    Column("text", Text, nullable=False),
    Column("shared", Boolean, nullable=False, server_default="false"),
    Column("removed", Boolean, nullable=False, server_default="false"),
)  # fmt: skip
note = Table(
    "note", metadata, numbered(), made_at(),
    Column("account_id", ForeignKey("account.id"), nullable=True),
    Column("question_key", Text, nullable=False, index=True, comment="hash, without the version"),
    Column("version_id", Integer, nullable=False, comment="what was on screen"),
    Column("text", Text, nullable=False),
    Column("shared", Boolean, nullable=False, server_default="false"),
    Column("removed", Boolean, nullable=False, server_default="false"),
)  # fmt: skip

attachment = Table(
    "attachment", metadata, numbered(), made_at(),
    Column("account_id", ForeignKey("account.id"), nullable=True),
    Column("sitting_id", ForeignKey("sitting.id"), nullable=False, index=True),
    Column("form_id", Integer, nullable=False, comment="0 = of all forms"),
    Column("kind", Text, nullable=False, comment="paper, mark scheme, report"),
    Column("name", Text, nullable=False),
    Column("media", Text, nullable=False, comment="by what is inside"),
    Column("bytes", LargeBinary, nullable=False),
    Column("removed", Boolean, nullable=False, server_default="false"),
)  # fmt: skip

# ── What others than the data lead see ───────────────────────────────────────
release = Table(
    "release", metadata, numbered(), made_at(),
    Column("account_id", ForeignKey("account.id"), nullable=True),
    Column("version_id", ForeignKey("version.id"), nullable=False),
    Column("title", Text, nullable=False),
)  # fmt: skip
pairing = Table(
    "pairing", metadata, numbered(), made_at(),
    Column("account_id", ForeignKey("account.id"), nullable=True),
    Column("sitting_id", ForeignKey("sitting.id"), nullable=False),
    Column("class_id", ForeignKey("school_class.id"), nullable=False),
    Column("other_id", ForeignKey("school_class.id"), nullable=False),
    Column("ended", Boolean, nullable=False, server_default="false"),
)  # fmt: skip
vintage = Table(
    "vintage", metadata,
    Column("held", Integer, primary_key=True, comment="the version whose fits were shown"),
    Column("version_id", ForeignKey("version.id"), primary_key=True),
    Column("sittings", ARRAY(Integer), primary_key=True),
    Column("enough", Boolean, nullable=False, comment="students changed in between"),
)  # fmt: skip
session = Table(
    "session", metadata,
    Column("digest", Text, primary_key=True, comment="of what the cookie holds"),
    made_at(),
    Column("seen", DateTime(timezone=True), server_default=func.now(), nullable=False),
    Column("account_id", ForeignKey("account.id"), nullable=False, index=True),
    Column("ended", Boolean, nullable=False, server_default="false"),
    Column("provider_token", Text, nullable=True, comment="by which the provider is signed out"),
    Column("names_hidden", Boolean, nullable=False, server_default="false"),
    Column("sees_as", ForeignKey("account.id"), nullable=True, comment="through whose eyes"),
)  # fmt: skip
one_time_link = Table(
    "one_time_link", metadata,
    Column("digest", Text, primary_key=True, comment="of what the link holds"),
    made_at(),
    Column("account_id", ForeignKey("account.id"), nullable=True, comment="null: the first one"),
    Column("good_until", DateTime(timezone=True), nullable=False),
    Column("used", Boolean, nullable=False, server_default="false"),
)  # fmt: skip
recovery_code = Table(
    "recovery_code", metadata,
    Column("digest", Text, primary_key=True),
    Column("account_id", ForeignKey("account.id"), nullable=False, index=True),
    Column("used", Boolean, nullable=False, server_default="false"),
)  # fmt: skip
sign_in_try = Table(
    "sign_in_try", metadata, numbered(), made_at(),
    Column("who", Text, nullable=False, index=True, comment="a login or an address"),
)  # fmt: skip
api_token = Table(
    "api_token", metadata, numbered(), made_at(),
    Column("account_id", ForeignKey("account.id"), nullable=False),
    Column("name", Text, nullable=False, comment="which program asks by it"),
    Column("digest", Text, nullable=False, unique=True),
    Column("may", ARRAY(Text), nullable=False, comment="actions, of those of its account's role"),
    Column("good_until", DateTime(timezone=True), nullable=False),
    Column("seen", DateTime(timezone=True), nullable=True),
    Column("revoked", Boolean, nullable=False, server_default="false"),
)  # fmt: skip
backup = Table(
    "backup", metadata, numbered(), made_at(),
    Column("file", Text, nullable=False),
    Column("bytes", BigInteger, nullable=False),
    Column("version_id", Integer, nullable=False, comment="the newest version in it"),
    Column("tried", DateTime(timezone=True), nullable=True, comment="restored beside, all alike"),
    Column("trouble", Text, nullable=True, comment="why that went wrong"),
)  # fmt: skip
erasure = Table(
    "erasure", metadata, numbered(), made_at(),
    Column("account_id", ForeignKey("account.id"), nullable=True),
    Column("reference", Text, nullable=False, comment="of the request, by whoever asked"),
    Column("state", Text, nullable=False, server_default="waiting",
           comment="waiting, sweeping, done, stopped"),
    Column("marks", ARRAY(UUID(as_uuid=False)), nullable=False, comment="of the students"),
    Column("done", DateTime(timezone=True), nullable=True),
    Column("version_id", Integer, nullable=True, comment="the version that it made"),
    Column("sittings", ARRAY(Integer), nullable=False, comment="in which they had results"),
    Column("receipt", JSONB, nullable=True,
           comment="what was removed, and what was not looked into"),
    Column("trouble", Text, nullable=True),
)  # fmt: skip
retention = Table(
    "retention", metadata,
    Column("single", Boolean, primary_key=True, server_default="true", comment="one row at most"),
    Column("leavers_years", Integer, nullable=True, comment="null: as long as nobody erases them"),
    Column("audit_years", Integer, nullable=True, comment="null: for good"),
    Column("revision", Integer, nullable=False),
    CheckConstraint("single"),
)  # fmt: skip
district_words = Table(
    "district_words", metadata,
    Column("single", Boolean, primary_key=True, server_default="true", comment="one row at most"),
    Column("words", JSONB, nullable=False, comment="terms.words.DistrictWords"),
    Column("revision", Integer, nullable=False, comment="how often they were said"),
    CheckConstraint("single"),
)  # fmt: skip
sight = Table(
    "sight", metadata,
    Column("what", Text, primary_key=True, comment="notes, or characteristic and its id"),
    Column("sensitive", Boolean, nullable=False, server_default="false"),
    Column("roles", ARRAY(Text), nullable=True, comment="null: as its kind says"),
)  # fmt: skip
