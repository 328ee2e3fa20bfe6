"""The record's tables.

Identities (student, school, test …) are made once and never undone; they are in use while
an active batch speaks of them. Facts are immutable and carry batch, row (the file's own line)
and column. Facts have no foreign keys except through `batch`: they are written only by
`intake.keep`, in bulk, under the keep lock, from ids that it has just read or made.

A spell has no stored end: it lasts until the next active roster of that school year that
covers the student, so that batches can be undone in any order (docs/architecture.md).
"""

from __future__ import annotations

from sqlalchemy import (
    BigInteger,
    Boolean,
    Column,
    Date,
    DateTime,
    Double,
    ForeignKey,
    Identity,
    Index,
    Integer,
    LargeBinary,
    MetaData,
    SmallInteger,
    Table,
    Text,
    UniqueConstraint,
    func,
)
from sqlalchemy.dialects.postgresql import ARRAY, JSONB, UUID

metadata = MetaData(
    naming_convention={
        "ix": "ix_%(table_name)s_%(column_0_name)s",
        "uq": "uq_%(table_name)s_%(column_0_name)s",
        "fk": "fk_%(table_name)s_%(column_0_name)s",
        "pk": "pk_%(table_name)s",
    }
)


def numbered() -> Column[int]:
    return Column("id", Integer, Identity(), primary_key=True)


def made_at() -> Column[object]:
    return Column("at", DateTime(timezone=True), server_default=func.now(), nullable=False)


def _shaping() -> tuple[Column[int], Column[int | None]]:
    """From- and to-version: what this table said at version v can be shown again."""
    return (
        Column("from_version", Integer, nullable=False),
        Column("to_version", Integer, nullable=True),
    )


# ── Keeping ──────────────────────────────────────────────────────────────────
account = Table(
    "account", metadata, numbered(),
    Column("login", Text, nullable=False, unique=True),
    Column("name", Text, nullable=False),
    Column("password_hash", Text, nullable=True, comment="null: invited, and not come yet"),
    Column("role", Text, nullable=False),
    Column("closed", Boolean, nullable=False, server_default="false"),
    Column("revision", Integer, nullable=False, server_default="1", comment="how often changed"),
    Column("code_secret", Text, nullable=True, comment="of one-time codes; null: none"),
    Column("code_used", BigInteger, nullable=False, server_default="0", comment="last half minute"),
    Column("subject", Text, nullable=True, unique=True, comment="who it is at the provider"),
)  # fmt: skip

instance = Table(
    "instance", metadata,
    Column("identity", UUID, primary_key=True, server_default=func.gen_random_uuid()),
)  # fmt: skip
version = Table(
    "version", metadata,
    Column("id", Integer, primary_key=True, autoincrement=False),
    Column("identity", UUID, nullable=False, server_default=func.gen_random_uuid(), unique=True),
    made_at(),
    Column("account_id", ForeignKey("account.id")),
    Column("summary", Text, nullable=False),
)  # fmt: skip

source = Table(
    "source", metadata, numbered(),
    Column("name", Text, nullable=False),
    Column("sha256", Text, nullable=False),
    Column("bytes", LargeBinary, nullable=False),
)  # fmt: skip

draft = Table(
    "draft", metadata,
    Column("id", Text, primary_key=True),
    Column("account_id", ForeignKey("account.id")),
    Column("source_id", ForeignKey("source.id"), nullable=False),
    Column("kind", Text, nullable=False),
    Column("settings", JSONB, nullable=False),
    made_at(),
    Column("large", Boolean, nullable=False, server_default="false"),
    Column("understood", JSONB),
)  # fmt: skip

work = Table(
    "work", metadata, numbered(), made_at(),
    Column("account_id", Integer),
    Column("draft_id", Text, nullable=False, index=True),
    Column("doing", Text, nullable=False, comment="examine, keep"),
    Column("kind", Text, nullable=False, comment="of the file"),
    Column("megabytes", Double, nullable=False),
    Column("said", JSONB, nullable=False, comment="settings to examine with"),
    Column("token", Text, nullable=False, server_default=""),
    Column("state", Text, nullable=False, server_default="waiting"),
    Column("phase", Text, nullable=False, server_default=""),
    Column("phase_at", DateTime(timezone=True)),
    Column("took", JSONB, nullable=False, server_default="{}", comment="phase → seconds"),
    Column("cancelled", Boolean, nullable=False, server_default="false"),
    Column("kept", JSONB, comment="batch and version"),
    Column("error", JSONB),
)  # fmt: skip

batch = Table(
    "batch", metadata, numbered(),
    Column("kind", Text, nullable=False),
    Column("title", Text, nullable=False),
    Column("source_id", ForeignKey("source.id"), nullable=False),
    Column("academic_year", Text),
    Column("effective_date", Date),
    Column("covers", ARRAY(Integer)),
    Column("settings", JSONB, nullable=False),
    Column("counts", JSONB, nullable=False),
    Column("columns", JSONB, nullable=False),
    made_at(),
)  # fmt: skip

batch_event = Table(
    "batch_event", metadata, numbered(),
    Column("batch_id", ForeignKey("batch.id"), nullable=False),
    Column("version_id", ForeignKey("version.id"), nullable=False),
    Column("event", Text, nullable=False),
    Column("account_id", ForeignKey("account.id")),
    made_at(),
)  # fmt: skip

set_aside = Table(
    "set_aside", metadata, numbered(),
    Column("batch_id", ForeignKey("batch.id"), nullable=False, index=True),
    Column("row", Integer, nullable=False),
    Column("reason", Text, nullable=False),
    Column("sitting_id", Integer),
    Column("cells", JSONB, nullable=False),
    Column("settled_by", Integer, comment="the batch that brought the row in later"),
)  # fmt: skip

audit = Table(
    "audit", metadata, numbered(), made_at(),
    Column("account_id", Integer),
    Column("login", Text, nullable=False),
    Column("action", Text, nullable=False),
    Column("detail", JSONB, nullable=False),
)  # fmt: skip

# ── People and places ────────────────────────────────────────────────────────
student = Table(
    "student", metadata, numbered(),
    Column("number", Text, nullable=False, unique=True),
    Column("mark", UUID, nullable=False, server_default=func.gen_random_uuid(),
           comment="says nothing; by it an erasure is done again after a restore"),
)  # fmt: skip

alias = Table(
    "alias", metadata, numbered(), made_at(),
    Column("batch_id", ForeignKey("batch.id"), nullable=False),
    Column("text", Text, nullable=False, comment="what a file wrote instead of the number"),
    Column("student_id", Integer, nullable=False),
    Column("revoked_version", Integer, comment="the version from which it holds no more"),
)  # fmt: skip

school = Table(
    "school", metadata, numbered(), Column("name", Text, nullable=False, unique=True), *_shaping()
)

account_grant = Table(
    "account_grant", metadata, numbered(),
    Column("account_id", ForeignKey("account.id"), nullable=False),
    Column("school_id", ForeignKey("school.id"), nullable=False),
    UniqueConstraint("account_id", "school_id"),
)  # fmt: skip

account_teacher = Table(
    "account_teacher", metadata, numbered(),
    Column("account_id", ForeignKey("account.id"), nullable=False),
    Column("school_id", ForeignKey("school.id"), nullable=False),
    Column("staff_id", ForeignKey("staff.id"), nullable=False),
    UniqueConstraint("account_id", "school_id", "staff_id"),
)  # fmt: skip

school_class = Table(
    "school_class", metadata, numbered(),
    Column("school_id", ForeignKey("school.id"), nullable=False),
    Column("academic_year", Text, nullable=False),
    Column("name", Text, nullable=False),
    Column("subject_id", Integer),
    UniqueConstraint("school_id", "academic_year", "name"),
)  # fmt: skip

staff = Table("staff", metadata, numbered(), Column("name", Text, nullable=False, unique=True))

characteristic = Table(
    "characteristic", metadata, numbered(),
    Column("name", Text, nullable=False, unique=True),
    Column("sensitive", Boolean, nullable=False, server_default="true"),
    *_shaping(),
)  # fmt: skip

characteristic_option = Table(
    "characteristic_option", metadata, numbered(),
    Column("characteristic_id", ForeignKey("characteristic.id"), nullable=False),
    Column("value", Text, nullable=False),
    UniqueConstraint("characteristic_id", "value"),
)  # fmt: skip


def _fact(name: str, *columns: Column[object]) -> Table:
    """An immutable fact with its batch and row; the small block-range index serves undo."""
    table = Table(
        name, metadata,
        Column("batch_id", Integer, nullable=False),
        Column("row", Integer, nullable=False),
        *columns,
    )  # fmt: skip
    Index(f"ix_{name}_batch_id", table.c.batch_id, postgresql_using="brin")
    return table


student_detail = _fact(
    "student_detail", Column("student_id", Integer, nullable=False), Column("given_name", Text),
    Column("family_name", Text), Column("birth_date", Date),
)  # fmt: skip
enrolment = _fact(
    "enrolment",
    Column("student_id", Integer, nullable=False),
    Column("school_id", Integer, nullable=False),
    Column("year_level", SmallInteger, nullable=False, comment="-1 = not given"),
)
class_member = _fact(
    "class_member",
    Column("student_id", Integer, nullable=False),
    Column("class_id", Integer, nullable=False),
    Column("kind", SmallInteger, nullable=False, server_default="0",
           comment="see store.codes.CLASS_KINDS"),
)  # fmt: skip
class_staff = _fact(
    "class_staff",
    Column("class_id", Integer, nullable=False), Column("staff_id", Integer, nullable=False),
)  # fmt: skip
class_course = _fact(
    "class_course",
    Column("class_id", Integer, nullable=False), Column("subject_id", Integer, nullable=False),
)  # fmt: skip
characteristic_value = _fact(
    "characteristic_value",
    Column("student_id", Integer, nullable=False),
    Column("characteristic_id", Integer, nullable=False),
    Column("option_id", Integer, nullable=False),
)

# ── Tests ────────────────────────────────────────────────────────────────────
subject = Table(
    "subject", metadata, numbered(),
    Column("name", Text, nullable=False, unique=True),
    Column("parent_id", ForeignKey("subject.id")),
    *_shaping(),
)  # fmt: skip

assessment = Table(
    "assessment",
    metadata,
    numbered(),
    Column("name", Text, nullable=False, unique=True),
    *_shaping(),
)

sitting = Table(
    "sitting", metadata, numbered(),
    Column("assessment_id", ForeignKey("assessment.id"), nullable=False),
    Column("subject_id", ForeignKey("subject.id")),
    Column("name", Text, nullable=False),
    Column("date", Date, nullable=False),
    Column("academic_year", Text, nullable=False),
    UniqueConstraint(
        "assessment_id", "subject_id", "name", name="uq_sitting", postgresql_nulls_not_distinct=True
    ),
)  # fmt: skip

sitting_date = Table(
    "sitting_date", metadata,
    Column("batch_id", Integer, primary_key=True, autoincrement=False),
    Column("sitting_id", ForeignKey("sitting.id"), primary_key=True, autoincrement=False),
    Column("date", Date, nullable=False),
)  # fmt: skip
"""When a sitting was, as a file says that corrects it: the newest that counts holds."""

scale = Table(
    "scale", metadata, numbered(),
    Column("assessment_id", ForeignKey("assessment.id"), nullable=False),
    Column("subject_id", ForeignKey("subject.id")),
    Column("score", Text, nullable=False),
    Column("unit", Text, nullable=False),
    Column("minimum", Double),
    Column("maximum", Double),
    *_shaping(),
    UniqueConstraint(
        "assessment_id", "subject_id", "score", name="uq_scale", postgresql_nulls_not_distinct=True
    ),
)  # fmt: skip

step = Table(
    "step", metadata, numbered(),
    Column("scale_id", ForeignKey("scale.id"), nullable=False),
    Column("name", Text, nullable=False),
    Column("position", Integer, nullable=False),
    UniqueConstraint("scale_id", "name"),
)  # fmt: skip

attempt = _fact(
    "attempt",
    Column("id", BigInteger, nullable=False),
    Column("student_id", Integer, nullable=False),
    Column("sitting_id", Integer, nullable=False),
    Column("tested_year_level", SmallInteger, nullable=False, comment="-1 = not given"),
    Column("number", SmallInteger, nullable=False),
    Column("date", Date, nullable=False),
    Column("status", SmallInteger, nullable=False, comment="see store.codes.STATUSES"),
    Column("official", Boolean, nullable=False),
    Column("form_id", Integer, nullable=False, server_default="0", comment="0 = none"),
)
Index("ix_attempt_id", attempt.c.id, postgresql_using="brin")
result = _fact(
    "result",
    Column("attempt_id", BigInteger, nullable=False),
    Column("student_id", Integer, nullable=False),
    Column("sitting_id", Integer, nullable=False),
    Column(
        "column",
        SmallInteger,
        nullable=False,
        comment="the file's own, from 0; -1 = added up from the questions",
    ),
    Column("part_id", Integer, nullable=False, comment="0 = the whole test"),
    Column("score", SmallInteger, nullable=False, comment="see store.codes.SCORES"),
    Column("value", Double, nullable=False, comment="NaN where the result is a step"),
    Column("step_id", Integer, nullable=False, comment="0 = none"),
    Column("status", SmallInteger, nullable=False),
)
form = Table(
    "form", metadata, numbered(),
    Column("sitting_id", ForeignKey("sitting.id"), nullable=False),
    Column("name", Text, nullable=False),
    UniqueConstraint("sitting_id", "name"),
)  # fmt: skip
paper = Table(
    "paper", metadata, numbered(),
    Column("sitting_id", ForeignKey("sitting.id"), nullable=False),
    Column("form_id", Integer, nullable=False, comment="0 = none"),
    Column("questions", ARRAY(Text), nullable=False, comment="in the order of the marks"),
    UniqueConstraint("sitting_id", "form_id", "questions"),
)  # fmt: skip
mark_sheet = _fact(
    "mark_sheet",
    Column("attempt_id", BigInteger, nullable=False),
    Column("student_id", Integer, nullable=False),
    Column("sitting_id", Integer, nullable=False),
    Column("paper_id", Integer, nullable=False),
    Column("marks", ARRAY(SmallInteger), nullable=False, comment="-1 = no mark"),
)
option_list = Table(
    "option_list", metadata, numbered(),
    Column("names", ARRAY(Text), nullable=False, unique=True, comment="as the file writes them"),
)  # fmt: skip
choice_sheet = _fact(
    "choice_sheet",
    Column("student_id", Integer, nullable=False),
    Column("sitting_id", Integer, nullable=False),
    Column("paper_id", Integer, nullable=False),
    Column("options_id", Integer, nullable=False),
    Column("choices", ARRAY(SmallInteger), nullable=False, comment="place in the list, -1 = none"),
)
written = _fact(
    "written",
    Column("student_id", Integer, nullable=False),
    Column("sitting_id", Integer, nullable=False),
    Column("form_id", Integer, nullable=False, comment="0 = none"),
    Column("question", Text, nullable=False),
    Column("text", Text, nullable=False),
)
claim_kind = Table(
    "claim_kind", metadata, numbered(),
    Column("role", Text, nullable=False, comment="target, predicted, estimate, judgement"),
    Column("name", Text, nullable=False, comment="which target; empty where there is one"),
    UniqueConstraint("role", "name"),
)  # fmt: skip
claim = _fact(
    "claim",
    Column("column", SmallInteger, nullable=False),
    Column("student_id", Integer, nullable=False),
    Column("sitting_id", Integer, nullable=False),
    Column("kind_id", Integer, nullable=False),
    Column("score", SmallInteger, nullable=False, comment="see store.codes.SCORES"),
    Column("value", Double, nullable=False, comment="NaN where the claim is a step"),
    Column("step_id", Integer, nullable=False, comment="0 = none"),
)
credit = _fact(
    "credit",
    Column("student_id", Integer, nullable=False),
    Column("standard", Text, nullable=False),
    Column("title", Text, nullable=False),
    Column("subject", Text, nullable=False),
    Column("level", Text, nullable=False),
    Column("kind", Text, nullable=False, comment="of assessment"),
    Column("result", Text, nullable=False),
    Column("credits", Double, nullable=False),
    Column("estimated", Boolean, nullable=False, comment="else banked"),
    Column("date", Date, nullable=False),
)
table_row = _fact(
    "table_row", Column("kind", Text, nullable=False, comment="scale, questions, national"),
    Column("cells", JSONB, nullable=False, comment="one row of the table, by column"),
)  # fmt: skip
