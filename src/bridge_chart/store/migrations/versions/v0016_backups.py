"""When the record was backed up, and whether that was tried"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"


def upgrade() -> None:
    op.create_table(
        "backup",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("file", sa.Text(), nullable=False),
        sa.Column("bytes", sa.BigInteger(), nullable=False),
        sa.Column("version_id", sa.Integer(), nullable=False, comment="the newest version in it"),
        sa.Column(
            "tried",
            sa.DateTime(timezone=True),
            nullable=True,
            comment="restored beside, all alike",
        ),
        sa.Column("trouble", sa.Text(), nullable=True, comment="why that went wrong"),
    )


def downgrade() -> None:
    op.drop_table("backup")
