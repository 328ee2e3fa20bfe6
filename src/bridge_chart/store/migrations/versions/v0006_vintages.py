"""Of which version a fit is that a narrower role is shown"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.create_table(
        "vintage",
        sa.Column("held", sa.Integer(), primary_key=True,
                  comment="the version whose fits were shown"),
        sa.Column("version_id", sa.Integer(), sa.ForeignKey("version.id"), primary_key=True),
        sa.Column("sittings", ARRAY(sa.Integer()), primary_key=True),
        sa.Column("enough", sa.Boolean(), nullable=False, comment="students changed in between"),
    )  # fmt: skip


def downgrade() -> None:
    op.drop_table("vintage")
