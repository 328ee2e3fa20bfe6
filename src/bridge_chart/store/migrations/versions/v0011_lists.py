"""Lists: whom they are shared with, what is planned, who looked; notes about students"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0011"
down_revision = "0010"


def _id() -> sa.Column[int]:
    return sa.Column("id", sa.Integer(), sa.Identity(), primary_key=True)


def _now() -> sa.Column[object]:
    return sa.Column(
        "at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False
    )  # fmt: skip


def upgrade() -> None:
    revised = sa.Column(
        "revision", sa.Integer(), nullable=False, server_default="1", comment="of a list"
    )
    told = "accounts and schools, where not all"
    op.add_column("saved_question", revised)
    op.add_column("saved_question", sa.Column("shared_with", JSONB(), nullable=True, comment=told))
    plan = sa.Column("plan", JSONB(), nullable=True, comment="aim, start, review, who acts")
    op.add_column("saved_question", plan)
    op.create_table(
        "list_look", _id(), _now(),
        sa.Column("question_id", sa.Integer(), sa.ForeignKey("saved_question.id"), nullable=False, index=True),
        sa.Column("account_id", sa.Integer(), sa.ForeignKey("account.id"), nullable=True),
        sa.Column("version_id", sa.Integer(), sa.ForeignKey("version.id"), nullable=False,
                  comment="what was seen"),
    )  # fmt: skip
    op.create_table(
        "student_note", _id(), _now(),
        sa.Column("account_id", sa.Integer(), sa.ForeignKey("account.id"), nullable=True),
        sa.Column("student_id", sa.Integer(), sa.ForeignKey("student.id"), nullable=False, index=True),
        sa.Column("question_id", sa.Integer(), sa.ForeignKey("saved_question.id"), nullable=True,
                  comment="in which list"),
        sa.Column("text", sa.Text(), nullable=False),
        sa.Column("shared", sa.Boolean(), nullable=False, server_default="false"),
        sa.Column("removed", sa.Boolean(), nullable=False, server_default="false"),
    )  # fmt: skip


def downgrade() -> None:
    op.drop_table("student_note")
    op.drop_table("list_look")
    for column in ("plan", "shared_with", "revision"):
        op.drop_column("saved_question", column)
