"""Tokens by which programs ask"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    op.create_table(
        "api_token",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("account_id", sa.Integer(), sa.ForeignKey("account.id"), nullable=False),
        sa.Column("name", sa.Text(), nullable=False, comment="which program asks by it"),
        sa.Column("digest", sa.Text(), nullable=False, unique=True),
        sa.Column(
            "may",
            ARRAY(sa.Text()),
            nullable=False,
            comment="actions, of those of its account's role",
        ),
        sa.Column("good_until", sa.DateTime(timezone=True), nullable=False),
        sa.Column("seen", sa.DateTime(timezone=True), nullable=True),
        sa.Column("revoked", sa.Boolean(), server_default="false", nullable=False),
    )


def downgrade() -> None:
    op.drop_table("api_token")
