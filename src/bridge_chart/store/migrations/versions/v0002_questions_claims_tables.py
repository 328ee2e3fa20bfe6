"""Forms, mark sheets, targets and predictions, reference tables; groups, saved questions, notes"""

from __future__ import annotations

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0002"
down_revision = "0001"


def _fact(name: str, *columns: sa.Column[Any]) -> None:
    op.create_table(
        name,
        sa.Column("batch_id", sa.Integer(), nullable=False),
        sa.Column("row", sa.Integer(), nullable=False),
        *columns,
    )
    op.create_index(f"ix_{name}_batch_id", name, ["batch_id"], postgresql_using="brin")


def _id() -> sa.Column[Any]:
    return sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False)


def _made() -> list[sa.Column[Any]]:
    return [
        _id(),
        sa.Column(
            "at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False
        ),
        sa.Column("account_id", sa.Integer(), nullable=True),
    ]


def _flag(name: str) -> sa.Column[Any]:
    return sa.Column(name, sa.Boolean(), server_default="false", nullable=False)


def upgrade() -> None:
    op.add_column(
        "attempt",
        sa.Column("form_id", sa.Integer(), server_default="0", nullable=False, comment="0 = none"),
    )
    _tests()
    _use()


def _tests() -> None:
    op.create_table(
        "form",
        _id(),
        sa.Column("sitting_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["sitting_id"], ["sitting.id"], name=op.f("fk_form_sitting_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_form")),
        sa.UniqueConstraint("sitting_id", "name", name=op.f("uq_form_sitting_id")),
    )
    op.create_table(
        "paper",
        _id(),
        sa.Column("sitting_id", sa.Integer(), nullable=False),
        sa.Column("form_id", sa.Integer(), nullable=False, comment="0 = none"),
        sa.Column(
            "questions", postgresql.ARRAY(sa.Text()), nullable=False,
            comment="in the order of the marks",
        ),
        sa.ForeignKeyConstraint(
            ["sitting_id"], ["sitting.id"], name=op.f("fk_paper_sitting_id")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_paper")),
        sa.UniqueConstraint("sitting_id", "form_id", "questions", name=op.f("uq_paper_sitting_id")),
    )  # fmt: skip
    _fact(
        "mark_sheet",
        sa.Column("attempt_id", sa.BigInteger(), nullable=False),
        sa.Column("student_id", sa.Integer(), nullable=False),
        sa.Column("sitting_id", sa.Integer(), nullable=False),
        sa.Column("paper_id", sa.Integer(), nullable=False),
        sa.Column(
            "marks", postgresql.ARRAY(sa.SmallInteger()), nullable=False, comment="-1 = no mark"
        ),
    )
    op.create_table(
        "claim_kind",
        _id(),
        sa.Column(
            "role", sa.Text(), nullable=False, comment="target, predicted, estimate, judgement"
        ),
        sa.Column(
            "name", sa.Text(), nullable=False, comment="which target; empty where there is one"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_claim_kind")),
        sa.UniqueConstraint("role", "name", name=op.f("uq_claim_kind_role")),
    )
    _fact(
        "claim",
        sa.Column("column", sa.SmallInteger(), nullable=False),
        sa.Column("student_id", sa.Integer(), nullable=False),
        sa.Column("sitting_id", sa.Integer(), nullable=False),
        sa.Column("kind_id", sa.Integer(), nullable=False),
        sa.Column("score", sa.SmallInteger(), nullable=False, comment="see store.codes.SCORES"),
        sa.Column("value", sa.Double(), nullable=False, comment="NaN where the claim is a step"),
        sa.Column("step_id", sa.Integer(), nullable=False, comment="0 = none"),
    )
    _fact(
        "table_row",
        sa.Column("kind", sa.Text(), nullable=False, comment="scale, questions, national"),
        sa.Column(
            "cells", postgresql.JSONB(astext_type=sa.Text()), nullable=False,
            comment="one row of the table, by column",
        ),
    )  # fmt: skip


def _use() -> None:
    json = postgresql.JSONB(astext_type=sa.Text())
    made: dict[str, list[sa.Column[Any]]] = {
        "student_set": [
            sa.Column("name", sa.Text(), nullable=False),
            _flag("shared"),
            sa.Column("rule", json, nullable=True, comment="who, of a question: stays live"),
            sa.Column(
                "students", postgresql.ARRAY(sa.Integer()), nullable=True, comment="a fixed list"
            ),
            _flag("retired"),
        ],
        "saved_question": [
            sa.Column("name", sa.Text(), nullable=False),
            _flag("shared"),
            sa.Column("question", json, nullable=False),
            _flag("retired"),
        ],
        "note": [
            sa.Column(
                "question_key", sa.Text(), nullable=False, comment="hash, without the version"
            ),
            sa.Column("version_id", sa.Integer(), nullable=False, comment="what was on screen"),
            sa.Column("text", sa.Text(), nullable=False),
            _flag("removed"),
        ],
    }
    for name, columns in made.items():
        op.create_table(
            name,
            *_made(),
            *columns,
            sa.ForeignKeyConstraint(
                ["account_id"], ["account.id"], name=op.f(f"fk_{name}_account_id")
            ),
            sa.PrimaryKeyConstraint("id", name=op.f(f"pk_{name}")),
        )
    op.create_index(op.f("ix_note_question_key"), "note", ["question_key"])
