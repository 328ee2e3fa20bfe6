"""What a class is taught; numbers accepted as somebody's; rows settled later"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.create_table(
        "class_course",
        sa.Column("batch_id", sa.Integer(), nullable=False),
        sa.Column("row", sa.Integer(), nullable=False),
        sa.Column("class_id", sa.Integer(), nullable=False),
        sa.Column("subject_id", sa.Integer(), nullable=False),
    )
    op.create_index(
        "ix_class_course_batch_id", "class_course", ["batch_id"], postgresql_using="brin"
    )
    op.create_table(
        "alias",
        sa.Column("id", sa.Integer(), sa.Identity(), primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("batch_id", sa.Integer(), sa.ForeignKey("batch.id"), nullable=False),
        sa.Column(
            "text", sa.Text(), nullable=False, comment="what a file wrote instead of the number"
        ),
        sa.Column("student_id", sa.Integer(), nullable=False),
        sa.Column(
            "revoked_version",
            sa.Integer(),
            nullable=True,
            comment="the version from which it holds no more",
        ),
    )
    op.add_column(
        "set_aside",
        sa.Column(
            "settled_by",
            sa.Integer(),
            nullable=True,
            comment="the batch that brought the row in later",
        ),
    )


def downgrade() -> None:
    op.drop_column("set_aside", "settled_by")
    op.drop_table("alias")
    op.drop_table("class_course")
