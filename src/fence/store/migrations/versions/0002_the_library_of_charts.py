"""The library of charts."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "charts",
        sa.Column("id", sa.Text(), nullable=False),
        sa.Column("revision", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("document", sa.Text(), nullable=False),
        sa.Column("retired", sa.Boolean(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("who", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("id", "revision", name=op.f("pk_charts")),
    )


def downgrade() -> None:
    op.drop_table("charts")
