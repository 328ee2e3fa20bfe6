"""Long work: a queue, how far each piece is, what was understood of a large file; credit records"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

from bridge_chart.store.queue import make_queue

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    make_queue(op.get_bind())
    op.create_table(
        "work",
        sa.Column("id", sa.Integer(), sa.Identity(), primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("account_id", sa.Integer(), nullable=True),
        sa.Column("draft_id", sa.Text(), nullable=False),
        sa.Column("doing", sa.Text(), nullable=False, comment="examine, keep"),
        sa.Column("kind", sa.Text(), nullable=False, comment="of the file"),
        sa.Column("megabytes", sa.Double(), nullable=False),
        sa.Column("said", JSONB(), nullable=False, comment="settings to examine with"),
        sa.Column("token", sa.Text(), nullable=False, server_default=""),
        sa.Column("state", sa.Text(), nullable=False, server_default="waiting"),
        sa.Column("phase", sa.Text(), nullable=False, server_default=""),
        sa.Column("phase_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("took", JSONB(), nullable=False, server_default="{}", comment="phase → seconds"),
        sa.Column("cancelled", sa.Boolean(), nullable=False, server_default="false"),
        sa.Column("kept", JSONB(), nullable=True, comment="batch and version"),
        sa.Column("error", JSONB(), nullable=True),
    )
    op.create_index("ix_work_draft_id", "work", ["draft_id"])
    op.add_column("draft", sa.Column("large", sa.Boolean(), nullable=False, server_default="false"))
    op.add_column("draft", sa.Column("understood", JSONB(), nullable=True))
    op.create_table(
        "credit",
        sa.Column("batch_id", sa.Integer(), nullable=False),
        sa.Column("row", sa.Integer(), nullable=False),
        sa.Column("student_id", sa.Integer(), nullable=False),
        sa.Column("standard", sa.Text(), nullable=False),
        sa.Column("title", sa.Text(), nullable=False),
        sa.Column("subject", sa.Text(), nullable=False),
        sa.Column("level", sa.Text(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False, comment="of assessment"),
        sa.Column("result", sa.Text(), nullable=False),
        sa.Column("credits", sa.Double(), nullable=False),
        sa.Column("estimated", sa.Boolean(), nullable=False, comment="else banked"),
        sa.Column("date", sa.Date(), nullable=False),
    )
    op.create_index("ix_credit_batch_id", "credit", ["batch_id"], postgresql_using="brin")


def downgrade() -> None:
    op.drop_table("credit")
    op.drop_column("draft", "understood")
    op.drop_column("draft", "large")
    op.drop_table("work")
    op.execute("DROP SCHEMA queue CASCADE")
