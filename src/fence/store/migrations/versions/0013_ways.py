"""Addresses that a show may be sent to.

Revision ID: 0013
Revises: 0012
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "ways",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("show_id", sa.Integer(), nullable=False),
        sa.Column("protocol", sa.Text(), nullable=False),
        sa.Column("to", sa.Text(), nullable=False),
        sa.Column("who", sa.Text(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["show_id"], ["shows.id"], name="fk_ways_show_id_shows", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_ways"),
    )
    op.create_index("ix_ways_show_id", "ways", ["show_id"])


def downgrade() -> None:
    op.drop_table("ways")
