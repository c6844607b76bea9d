"""Corrections by eye of the emitters of a type.

Revision ID: 0014
Revises: 0013
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "trims",
        sa.Column("profile", sa.Text(), nullable=False),
        sa.Column("function", sa.Text(), nullable=False),
        sa.Column("factor", sa.Float(), nullable=False),
        sa.PrimaryKeyConstraint("profile", "function", name="pk_trims"),
    )


def downgrade() -> None:
    op.drop_table("trims")
