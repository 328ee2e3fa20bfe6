"""Erasures, retention, one-time codes, and who somebody is at a provider"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB, UUID

revision = "0017"
down_revision = "0016"


def upgrade() -> None:
    op.add_column(
        "student",
        sa.Column(
            "mark",
            UUID(),
            server_default=sa.func.gen_random_uuid(),
            nullable=False,
            comment="says nothing; by it an erasure is done again after a restore",
        ),
    )
    op.add_column(
        "account",
        sa.Column("code_secret", sa.Text(), nullable=True, comment="of one-time codes; null: none"),
    )
    op.add_column(
        "account",
        sa.Column(
            "code_used",
            sa.BigInteger(),
            server_default="0",
            nullable=False,
            comment="last half minute",
        ),
    )
    op.add_column(
        "account",
        sa.Column("subject", sa.Text(), nullable=True, comment="who it is at the provider"),
    )
    op.create_unique_constraint("uq_account_subject", "account", ["subject"])
    op.add_column(
        "session",
        sa.Column(
            "provider_token",
            sa.Text(),
            nullable=True,
            comment="by which the provider is signed out",
        ),
    )
    op.add_column(
        "session", sa.Column("names_hidden", sa.Boolean(), server_default="false", nullable=False)
    )
    op.add_column(
        "session",
        sa.Column(
            "sees_as",
            sa.Integer(),
            sa.ForeignKey("account.id"),
            nullable=True,
            comment="through whose eyes",
        ),
    )
    op.create_table(
        "recovery_code",
        sa.Column("digest", sa.Text(), primary_key=True),
        sa.Column("account_id", sa.Integer(), sa.ForeignKey("account.id"), nullable=False),
        sa.Column("used", sa.Boolean(), server_default="false", nullable=False),
    )
    op.create_index("ix_recovery_code_account_id", "recovery_code", ["account_id"])
    op.create_table(
        "erasure",
        sa.Column("id", sa.Integer(), sa.Identity(), primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("account_id", sa.Integer(), sa.ForeignKey("account.id"), nullable=True),
        sa.Column(
            "reference", sa.Text(), nullable=False, comment="of the request, by whoever asked"
        ),
        sa.Column(
            "state",
            sa.Text(),
            server_default="waiting",
            nullable=False,
            comment="waiting, sweeping, done, stopped",
        ),
        sa.Column("marks", ARRAY(UUID(as_uuid=False)), nullable=False, comment="of the students"),
        sa.Column("done", sa.DateTime(timezone=True), nullable=True),
        sa.Column("version_id", sa.Integer(), nullable=True, comment="the version that it made"),
        sa.Column(
            "sittings", ARRAY(sa.Integer()), nullable=False, comment="in which they had results"
        ),
        sa.Column(
            "receipt",
            JSONB(),
            nullable=True,
            comment="what was removed, and what was not looked into",
        ),
        sa.Column("trouble", sa.Text(), nullable=True),
    )
    op.create_table(
        "retention",
        sa.Column(
            "single",
            sa.Boolean(),
            server_default="true",
            primary_key=True,
            comment="one row at most",
        ),
        sa.Column(
            "leavers_years",
            sa.Integer(),
            nullable=True,
            comment="null: as long as nobody erases them",
        ),
        sa.Column("audit_years", sa.Integer(), nullable=True, comment="null: for good"),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.CheckConstraint("single"),
    )


def downgrade() -> None:
    for table in ("retention", "erasure", "recovery_code"):
        op.drop_table(table)
    for column in ("sees_as", "names_hidden", "provider_token"):
        op.drop_column("session", column)
    for column in ("subject", "code_used", "code_secret"):
        op.drop_column("account", column)
    op.drop_column("student", "mark")
