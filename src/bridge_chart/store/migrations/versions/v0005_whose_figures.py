"""Identities of the record, releases, who sees which characteristic, notes that are shared"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, UUID

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    random = sa.func.gen_random_uuid()
    op.create_table(
        "instance", sa.Column("identity", UUID(), primary_key=True, server_default=random)
    )
    op.execute("INSERT INTO instance DEFAULT VALUES")
    op.add_column("version", sa.Column("identity", UUID(), nullable=False, server_default=random))
    op.create_unique_constraint("uq_version_identity", "version", ["identity"])
    op.add_column("note", sa.Column("shared", sa.Boolean(), nullable=False, server_default="false"))
    op.create_table(
        "release",
        sa.Column("id", sa.Integer(), sa.Identity(), primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("account_id", sa.Integer(), sa.ForeignKey("account.id"), nullable=True),
        sa.Column("version_id", sa.Integer(), sa.ForeignKey("version.id"), nullable=False),
        sa.Column("title", sa.Text(), nullable=False),
    )
    op.create_table(
        "sight",
        sa.Column(
            "what", sa.Text(), primary_key=True, comment="notes, or characteristic and its id"
        ),
        sa.Column("sensitive", sa.Boolean(), nullable=False, server_default="false"),
        sa.Column("roles", ARRAY(sa.Text()), nullable=True, comment="null: as its kind says"),
    )


def downgrade() -> None:
    op.drop_table("sight")
    op.drop_table("release")
    op.drop_column("note", "shared")
    op.drop_column("version", "identity")
    op.drop_table("instance")
