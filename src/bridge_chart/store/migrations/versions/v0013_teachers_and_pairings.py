"""Which teacher of the rosters an account is, and which classes are paired for a talk"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    op.create_table(
        "account_teacher",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("account_id", sa.Integer(), sa.ForeignKey("account.id"), nullable=False),
        sa.Column("school_id", sa.Integer(), sa.ForeignKey("school.id"), nullable=False),
        sa.Column("staff_id", sa.Integer(), sa.ForeignKey("staff.id"), nullable=False),
        sa.UniqueConstraint("account_id", "school_id", "staff_id"),
    )
    op.create_table(
        "pairing",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("account_id", sa.Integer(), sa.ForeignKey("account.id"), nullable=True),
        sa.Column("sitting_id", sa.Integer(), sa.ForeignKey("sitting.id"), nullable=False),
        sa.Column("class_id", sa.Integer(), sa.ForeignKey("school_class.id"), nullable=False),
        sa.Column("other_id", sa.Integer(), sa.ForeignKey("school_class.id"), nullable=False),
        sa.Column("ended", sa.Boolean(), server_default="false", nullable=False),
    )


def downgrade() -> None:
    op.drop_table("pairing")
    op.drop_table("account_teacher")
