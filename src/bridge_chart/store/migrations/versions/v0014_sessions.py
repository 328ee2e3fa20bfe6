"""Sessions and one-time links on the server, tries at signing in, an audit that only grows"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"


def upgrade() -> None:
    op.alter_column(
        "account", "password_hash", nullable=True, comment="null: invited, and not come yet"
    )
    revision = sa.Column(
        "revision", sa.Integer(), server_default="1", nullable=False, comment="how often changed"
    )
    op.add_column("account", revision)
    op.drop_table("ended_session")
    op.create_table(
        "session",
        sa.Column("digest", sa.Text(), primary_key=True, comment="of what the cookie holds"),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("seen", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("account_id", sa.Integer(), sa.ForeignKey("account.id"), nullable=False),
        sa.Column("ended", sa.Boolean(), server_default="false", nullable=False),
    )
    op.create_index("ix_session_account_id", "session", ["account_id"])
    op.create_table(
        "one_time_link",
        sa.Column("digest", sa.Text(), primary_key=True, comment="of what the link holds"),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column(
            "account_id",
            sa.Integer(),
            sa.ForeignKey("account.id"),
            nullable=True,
            comment="null: the first one",
        ),
        sa.Column("good_until", sa.DateTime(timezone=True), nullable=False),
        sa.Column("used", sa.Boolean(), server_default="false", nullable=False),
    )
    op.create_table(
        "sign_in_try",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("who", sa.Text(), nullable=False, comment="a login or an address"),
    )
    op.create_index("ix_sign_in_try_who", "sign_in_try", ["who"])
    op.execute(
        "CREATE FUNCTION audit_only_grows() RETURNS trigger LANGUAGE plpgsql AS "
        "$$ BEGIN RAISE EXCEPTION 'the audit only grows'; END $$"
    )
    op.execute(
        "CREATE TRIGGER audit_only_grows BEFORE UPDATE OR DELETE OR TRUNCATE ON audit "
        "EXECUTE FUNCTION audit_only_grows()"
    )


def downgrade() -> None:
    op.execute("DROP TRIGGER audit_only_grows ON audit")
    op.execute("DROP FUNCTION audit_only_grows")
    for table in ("sign_in_try", "one_time_link", "session"):
        op.drop_table(table)
    op.create_table(
        "ended_session",
        sa.Column("session", sa.Text(), primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
    )
    op.drop_column("account", "revision")
    op.execute("UPDATE account SET password_hash = '' WHERE password_hash IS NULL")
    op.alter_column("account", "password_hash", nullable=False, comment=None)
