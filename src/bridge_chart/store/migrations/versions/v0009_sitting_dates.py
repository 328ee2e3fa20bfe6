"""When a sitting was, as a file says that corrects it"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    op.create_table(
        "sitting_date",
        sa.Column("batch_id", sa.Integer(), nullable=False),
        sa.Column("sitting_id", sa.Integer(), sa.ForeignKey("sitting.id"), nullable=False),
        sa.Column("date", sa.Date(), nullable=False),
        sa.PrimaryKeyConstraint("batch_id", "sitting_id"),
    )


def downgrade() -> None:
    op.drop_table("sitting_date")
