"""Lines: what hangs behind what.

Revision ID: 0007
Revises: 0006
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "lines",
        sa.Column("show_id", sa.Integer(), nullable=False),
        sa.Column("id", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("document", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(
            ["show_id"], ["shows.id"], name=op.f("fk_lines_show_id_shows"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("show_id", "id", name=op.f("pk_lines")),
    )


def downgrade() -> None:
    op.drop_table("lines")
