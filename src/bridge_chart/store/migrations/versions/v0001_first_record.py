"""The record of the first slice"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "account",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("login", sa.Text(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("password_hash", sa.Text(), nullable=False),
        sa.Column("role", sa.Text(), nullable=False),
        sa.Column("closed", sa.Boolean(), server_default="false", nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_account")),
        sa.UniqueConstraint("login", name=op.f("uq_account_login")),
    )
    op.create_table(
        "assessment",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("from_version", sa.Integer(), nullable=False),
        sa.Column("to_version", sa.Integer(), nullable=True),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_assessment")),
        sa.UniqueConstraint("name", name=op.f("uq_assessment_name")),
    )
    op.create_table(
        "attempt",
        sa.Column("batch_id", sa.Integer(), nullable=False),
        sa.Column("row", sa.Integer(), nullable=False),
        sa.Column("id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("student_id", sa.Integer(), nullable=False),
        sa.Column("sitting_id", sa.Integer(), nullable=False),
        sa.Column("tested_year_level", sa.SmallInteger(), nullable=False, comment="-1 = not given"),
        sa.Column("number", sa.SmallInteger(), nullable=False),
        sa.Column("date", sa.Date(), nullable=False),
        sa.Column("status", sa.SmallInteger(), nullable=False, comment="see store.codes.STATUSES"),
        sa.Column("official", sa.Boolean(), nullable=False),
    )
    op.create_index(
        "ix_attempt_batch_id", "attempt", ["batch_id"], unique=False, postgresql_using="brin"
    )
    op.create_table(
        "audit",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column(
            "at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False
        ),
        sa.Column("account_id", sa.Integer(), nullable=True),
        sa.Column("login", sa.Text(), nullable=False),
        sa.Column("action", sa.Text(), nullable=False),
        sa.Column("detail", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_audit")),
    )
    op.create_table(
        "characteristic",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("sensitive", sa.Boolean(), server_default="true", nullable=False),
        sa.Column("from_version", sa.Integer(), nullable=False),
        sa.Column("to_version", sa.Integer(), nullable=True),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_characteristic")),
        sa.UniqueConstraint("name", name=op.f("uq_characteristic_name")),
    )
    op.create_table(
        "characteristic_value",
        sa.Column("batch_id", sa.Integer(), nullable=False),
        sa.Column("row", sa.Integer(), nullable=False),
        sa.Column("student_id", sa.Integer(), nullable=False),
        sa.Column("characteristic_id", sa.Integer(), nullable=False),
        sa.Column("option_id", sa.Integer(), nullable=False),
    )
    op.create_index(
        "ix_characteristic_value_batch_id",
        "characteristic_value",
        ["batch_id"],
        unique=False,
        postgresql_using="brin",
    )
    op.create_table(
        "class_member",
        sa.Column("batch_id", sa.Integer(), nullable=False),
        sa.Column("row", sa.Integer(), nullable=False),
        sa.Column("student_id", sa.Integer(), nullable=False),
        sa.Column("class_id", sa.Integer(), nullable=False),
    )
    op.create_index(
        "ix_class_member_batch_id",
        "class_member",
        ["batch_id"],
        unique=False,
        postgresql_using="brin",
    )
    op.create_table(
        "class_staff",
        sa.Column("batch_id", sa.Integer(), nullable=False),
        sa.Column("row", sa.Integer(), nullable=False),
        sa.Column("class_id", sa.Integer(), nullable=False),
        sa.Column("staff_id", sa.Integer(), nullable=False),
    )
    op.create_index(
        "ix_class_staff_batch_id",
        "class_staff",
        ["batch_id"],
        unique=False,
        postgresql_using="brin",
    )
    op.create_table(
        "enrolment",
        sa.Column("batch_id", sa.Integer(), nullable=False),
        sa.Column("row", sa.Integer(), nullable=False),
        sa.Column("student_id", sa.Integer(), nullable=False),
        sa.Column("school_id", sa.Integer(), nullable=False),
        sa.Column("year_level", sa.SmallInteger(), nullable=False, comment="-1 = not given"),
    )
    op.create_index(
        "ix_enrolment_batch_id", "enrolment", ["batch_id"], unique=False, postgresql_using="brin"
    )
    op.create_table(
        "result",
        sa.Column("batch_id", sa.Integer(), nullable=False),
        sa.Column("row", sa.Integer(), nullable=False),
        sa.Column("attempt_id", sa.BigInteger(), nullable=False),
        sa.Column("student_id", sa.Integer(), nullable=False),
        sa.Column("sitting_id", sa.Integer(), nullable=False),
        sa.Column(
            "column", sa.SmallInteger(), nullable=False, comment="the file's own column, from 0"
        ),
        sa.Column("part_id", sa.Integer(), nullable=False, comment="0 = the whole test"),
        sa.Column("score", sa.SmallInteger(), nullable=False, comment="see store.codes.SCORES"),
        sa.Column("value", sa.Double(), nullable=False, comment="NaN where the result is a step"),
        sa.Column("step_id", sa.Integer(), nullable=False, comment="0 = none"),
        sa.Column("status", sa.SmallInteger(), nullable=False),
    )
    op.create_index(
        "ix_result_batch_id", "result", ["batch_id"], unique=False, postgresql_using="brin"
    )
    op.create_table(
        "school",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("from_version", sa.Integer(), nullable=False),
        sa.Column("to_version", sa.Integer(), nullable=True),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_school")),
        sa.UniqueConstraint("name", name=op.f("uq_school_name")),
    )
    op.create_table(
        "source",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("sha256", sa.Text(), nullable=False),
        sa.Column("bytes", sa.LargeBinary(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_source")),
    )
    op.create_table(
        "staff",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_staff")),
        sa.UniqueConstraint("name", name=op.f("uq_staff_name")),
    )
    op.create_table(
        "student",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("number", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_student")),
        sa.UniqueConstraint("number", name=op.f("uq_student_number")),
    )
    op.create_table(
        "student_detail",
        sa.Column("batch_id", sa.Integer(), nullable=False),
        sa.Column("row", sa.Integer(), nullable=False),
        sa.Column("student_id", sa.Integer(), nullable=False),
        sa.Column("given_name", sa.Text(), nullable=True),
        sa.Column("family_name", sa.Text(), nullable=True),
        sa.Column("birth_date", sa.Date(), nullable=True),
    )
    op.create_index(
        "ix_student_detail_batch_id",
        "student_detail",
        ["batch_id"],
        unique=False,
        postgresql_using="brin",
    )
    op.create_table(
        "subject",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("parent_id", sa.Integer(), nullable=True),
        sa.Column("from_version", sa.Integer(), nullable=False),
        sa.Column("to_version", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(["parent_id"], ["subject.id"], name=op.f("fk_subject_parent_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_subject")),
        sa.UniqueConstraint("name", name=op.f("uq_subject_name")),
    )
    op.create_table(
        "account_grant",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("account_id", sa.Integer(), nullable=False),
        sa.Column("school_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["account_id"], ["account.id"], name=op.f("fk_account_grant_account_id")
        ),
        sa.ForeignKeyConstraint(
            ["school_id"], ["school.id"], name=op.f("fk_account_grant_school_id")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_account_grant")),
        sa.UniqueConstraint("account_id", "school_id", name=op.f("uq_account_grant_account_id")),
    )
    op.create_table(
        "batch",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("title", sa.Text(), nullable=False),
        sa.Column("source_id", sa.Integer(), nullable=False),
        sa.Column("academic_year", sa.Text(), nullable=True),
        sa.Column("effective_date", sa.Date(), nullable=True),
        sa.Column("covers", postgresql.ARRAY(sa.Integer()), nullable=True),
        sa.Column("settings", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("counts", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("columns", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column(
            "at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False
        ),
        sa.ForeignKeyConstraint(["source_id"], ["source.id"], name=op.f("fk_batch_source_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_batch")),
    )
    op.create_table(
        "characteristic_option",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("characteristic_id", sa.Integer(), nullable=False),
        sa.Column("value", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(
            ["characteristic_id"],
            ["characteristic.id"],
            name=op.f("fk_characteristic_option_characteristic_id"),
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_characteristic_option")),
        sa.UniqueConstraint(
            "characteristic_id", "value", name=op.f("uq_characteristic_option_characteristic_id")
        ),
    )
    op.create_table(
        "draft",
        sa.Column("id", sa.Text(), nullable=False),
        sa.Column("account_id", sa.Integer(), nullable=True),
        sa.Column("source_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("settings", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column(
            "at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False
        ),
        sa.ForeignKeyConstraint(["account_id"], ["account.id"], name=op.f("fk_draft_account_id")),
        sa.ForeignKeyConstraint(["source_id"], ["source.id"], name=op.f("fk_draft_source_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_draft")),
    )
    op.create_table(
        "scale",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("assessment_id", sa.Integer(), nullable=False),
        sa.Column("subject_id", sa.Integer(), nullable=True),
        sa.Column("score", sa.Text(), nullable=False),
        sa.Column("unit", sa.Text(), nullable=False),
        sa.Column("minimum", sa.Double(), nullable=True),
        sa.Column("maximum", sa.Double(), nullable=True),
        sa.Column("from_version", sa.Integer(), nullable=False),
        sa.Column("to_version", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(
            ["assessment_id"], ["assessment.id"], name=op.f("fk_scale_assessment_id")
        ),
        sa.ForeignKeyConstraint(["subject_id"], ["subject.id"], name=op.f("fk_scale_subject_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_scale")),
        sa.UniqueConstraint(
            "assessment_id",
            "subject_id",
            "score",
            name="uq_scale",
            postgresql_nulls_not_distinct=True,
        ),
    )
    op.create_table(
        "school_class",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("school_id", sa.Integer(), nullable=False),
        sa.Column("academic_year", sa.Text(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("subject_id", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(
            ["school_id"], ["school.id"], name=op.f("fk_school_class_school_id")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_school_class")),
        sa.UniqueConstraint(
            "school_id", "academic_year", "name", name=op.f("uq_school_class_school_id")
        ),
    )
    op.create_table(
        "sitting",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("assessment_id", sa.Integer(), nullable=False),
        sa.Column("subject_id", sa.Integer(), nullable=True),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("date", sa.Date(), nullable=False),
        sa.Column("academic_year", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(
            ["assessment_id"], ["assessment.id"], name=op.f("fk_sitting_assessment_id")
        ),
        sa.ForeignKeyConstraint(["subject_id"], ["subject.id"], name=op.f("fk_sitting_subject_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sitting")),
        sa.UniqueConstraint(
            "assessment_id",
            "subject_id",
            "name",
            name="uq_sitting",
            postgresql_nulls_not_distinct=True,
        ),
    )
    op.create_table(
        "version",
        sa.Column("id", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column(
            "at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False
        ),
        sa.Column("account_id", sa.Integer(), nullable=True),
        sa.Column("summary", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["account_id"], ["account.id"], name=op.f("fk_version_account_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_version")),
    )
    op.create_table(
        "batch_event",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("batch_id", sa.Integer(), nullable=False),
        sa.Column("version_id", sa.Integer(), nullable=False),
        sa.Column("event", sa.Text(), nullable=False),
        sa.Column("account_id", sa.Integer(), nullable=True),
        sa.Column(
            "at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False
        ),
        sa.ForeignKeyConstraint(
            ["account_id"], ["account.id"], name=op.f("fk_batch_event_account_id")
        ),
        sa.ForeignKeyConstraint(["batch_id"], ["batch.id"], name=op.f("fk_batch_event_batch_id")),
        sa.ForeignKeyConstraint(
            ["version_id"], ["version.id"], name=op.f("fk_batch_event_version_id")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_batch_event")),
    )
    op.create_table(
        "set_aside",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("batch_id", sa.Integer(), nullable=False),
        sa.Column("row", sa.Integer(), nullable=False),
        sa.Column("reason", sa.Text(), nullable=False),
        sa.Column("sitting_id", sa.Integer(), nullable=True),
        sa.Column("cells", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.ForeignKeyConstraint(["batch_id"], ["batch.id"], name=op.f("fk_set_aside_batch_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_set_aside")),
    )
    op.create_index(op.f("ix_set_aside_batch_id"), "set_aside", ["batch_id"], unique=False)
    op.create_table(
        "step",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("scale_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["scale_id"], ["scale.id"], name=op.f("fk_step_scale_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_step")),
        sa.UniqueConstraint("scale_id", "name", name=op.f("uq_step_scale_id")),
    )
    op.create_index(op.f("ix_attempt_id"), "attempt", ["id"], unique=False, postgresql_using="brin")
    # Files are kept as they came: compressing them in the server costs more than the rest of a keep.
    op.execute("ALTER TABLE source ALTER COLUMN bytes SET STORAGE EXTERNAL")
    # Attempts are written in blocks, so their ids come from a sequence of their own.
    op.execute("CREATE SEQUENCE attempt_id_seq AS bigint")


def downgrade() -> None:
    op.execute("DROP SEQUENCE attempt_id_seq")
    op.drop_table("step")
    op.drop_index(op.f("ix_set_aside_batch_id"), table_name="set_aside")
    op.drop_table("set_aside")
    op.drop_table("batch_event")
    op.drop_table("version")
    op.drop_table("sitting")
    op.drop_table("school_class")
    op.drop_table("scale")
    op.drop_table("draft")
    op.drop_table("characteristic_option")
    op.drop_table("batch")
    op.drop_table("account_grant")
    op.drop_table("subject")
    op.drop_index(
        "ix_student_detail_batch_id", table_name="student_detail", postgresql_using="brin"
    )
    op.drop_table("student_detail")
    op.drop_table("student")
    op.drop_table("staff")
    op.drop_table("source")
    op.drop_table("school")
    op.drop_index("ix_result_batch_id", table_name="result", postgresql_using="brin")
    op.drop_table("result")
    op.drop_index("ix_enrolment_batch_id", table_name="enrolment", postgresql_using="brin")
    op.drop_table("enrolment")
    op.drop_index("ix_class_staff_batch_id", table_name="class_staff", postgresql_using="brin")
    op.drop_table("class_staff")
    op.drop_index("ix_class_member_batch_id", table_name="class_member", postgresql_using="brin")
    op.drop_table("class_member")
    op.drop_index(
        "ix_characteristic_value_batch_id",
        table_name="characteristic_value",
        postgresql_using="brin",
    )
    op.drop_table("characteristic_value")
    op.drop_table("characteristic")
    op.drop_table("audit")
    op.drop_index("ix_attempt_batch_id", table_name="attempt", postgresql_using="brin")
    op.drop_table("attempt")
    op.drop_table("assessment")
    op.drop_table("account")
