"""Boxes: the desk and network nodes with their ports.

Revision ID: 0009
Revises: 0008
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "boxes",
        sa.Column("show_id", sa.Integer(), nullable=False),
        sa.Column("id", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("document", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(
            ["show_id"], ["shows.id"], name=op.f("fk_boxes_show_id_shows"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("show_id", "id", name=op.f("pk_boxes")),
    )


def downgrade() -> None:
    op.drop_table("boxes")
