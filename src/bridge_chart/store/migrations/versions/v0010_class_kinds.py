"""Whether a class is a form or tutor group, a set, or just a class"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    kind = sa.Column(
        "kind", sa.SmallInteger(), nullable=False, server_default="0",
        comment="see store.codes.CLASS_KINDS",
    )  # fmt: skip
    op.add_column("class_member", kind)


def downgrade() -> None:
    op.drop_column("class_member", "kind")
