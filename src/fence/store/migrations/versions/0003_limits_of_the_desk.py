"""Limits of the desk."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("shows", schema=None) as batch_op:
        batch_op.add_column(sa.Column("desk_page", sa.Integer(), nullable=True))
        batch_op.add_column(sa.Column("desk_buttons", sa.Integer(), nullable=True))
        batch_op.add_column(
            sa.Column("desk_highest", sa.Integer(), server_default="512", nullable=False)
        )
        batch_op.add_column(
            sa.Column("desk_layout", sa.JSON(), server_default="[]", nullable=False)
        )


def downgrade() -> None:
    with op.batch_alter_table("shows", schema=None) as batch_op:
        batch_op.drop_column("desk_layout")
        batch_op.drop_column("desk_highest")
        batch_op.drop_column("desk_buttons")
        batch_op.drop_column("desk_page")
