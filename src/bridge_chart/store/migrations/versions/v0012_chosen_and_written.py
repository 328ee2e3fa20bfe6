"""Which options students chose, what they wrote, and what is attached to a sitting"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0012"
down_revision = "0011"


def _fact(name: str, *columns: sa.Column[object]) -> None:
    op.create_table(
        name,
        sa.Column("batch_id", sa.Integer(), nullable=False),
        sa.Column("row", sa.Integer(), nullable=False),
        sa.Column("student_id", sa.Integer(), nullable=False),
        sa.Column("sitting_id", sa.Integer(), nullable=False),
        *columns,
    )
    op.create_index(f"ix_{name}_batch_id", name, ["batch_id"], postgresql_using="brin")


def upgrade() -> None:
    op.create_table(
        "option_list",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column(
            "names", postgresql.ARRAY(sa.Text()), nullable=False, unique=True,
            comment="as the file writes them",
        ),
    )  # fmt: skip
    _fact(
        "choice_sheet",
        sa.Column("paper_id", sa.Integer(), nullable=False),
        sa.Column("options_id", sa.Integer(), nullable=False),
        sa.Column(
            "choices", postgresql.ARRAY(sa.SmallInteger()), nullable=False,
            comment="place in the list, -1 = none",
        ),
    )  # fmt: skip
    _fact(
        "written",
        sa.Column("form_id", sa.Integer(), nullable=False, comment="0 = none"),
        sa.Column("question", sa.Text(), nullable=False),
        sa.Column("text", sa.Text(), nullable=False),
    )
    op.create_table(
        "attachment",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("account_id", sa.Integer(), sa.ForeignKey("account.id"), nullable=True),
        sa.Column("sitting_id", sa.Integer(), sa.ForeignKey("sitting.id"), nullable=False),
        sa.Column("form_id", sa.Integer(), nullable=False, comment="0 = of all forms"),
        sa.Column("kind", sa.Text(), nullable=False, comment="paper, mark scheme, report"),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("media", sa.Text(), nullable=False, comment="by what is inside"),
        sa.Column("bytes", sa.LargeBinary(), nullable=False),
        sa.Column("removed", sa.Boolean(), server_default="false", nullable=False),
    )
    op.create_index("ix_attachment_sitting_id", "attachment", ["sitting_id"])
    op.alter_column(
        "result", "column", existing_type=sa.SmallInteger(), existing_nullable=False,
        comment="the file's own, from 0; -1 = added up from the questions",
        existing_comment="the file's own column, from 0",
    )  # fmt: skip


def downgrade() -> None:
    op.alter_column(
        "result", "column", existing_type=sa.SmallInteger(), existing_nullable=False,
        comment="the file's own column, from 0",
        existing_comment="the file's own, from 0; -1 = added up from the questions",
    )  # fmt: skip
    for name in ("attachment", "written", "choice_sheet", "option_list"):
        op.drop_table(name)
