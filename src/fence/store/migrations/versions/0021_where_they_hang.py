"""Where fixtures hang in metres, and what a scene says of them.

Revision ID: 0021
Revises: 0020
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("fixtures", sa.Column("hangs_at", sa.Text(), nullable=True))
    op.add_column("fixtures", sa.Column("scene", sa.Text(), nullable=True))


def downgrade() -> None:
    op.drop_column("fixtures", "scene")
    op.drop_column("fixtures", "hangs_at")
