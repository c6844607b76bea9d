"""Heads of columns in files of others, as somebody has said which is which.

Revision ID: 0022
Revises: 0021
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "heads",
        sa.Column("head", sa.Text(), nullable=False),
        sa.Column("column", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("head", name="pk_heads"),
    )


def downgrade() -> None:
    op.drop_table("heads")
