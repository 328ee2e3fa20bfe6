"""The district's own words"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.create_table(
        "district_words",
        sa.Column("single", sa.Boolean(), sa.CheckConstraint("single"), primary_key=True,
                  server_default="true", comment="one row at most"),
        sa.Column("words", JSONB(), nullable=False, comment="terms.words.DistrictWords"),
        sa.Column("revision", sa.Integer(), nullable=False, comment="how often they were said"),
    )  # fmt: skip


def downgrade() -> None:
    op.drop_table("district_words")
