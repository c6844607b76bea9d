"""Distances and spacing, the stock of cables, the day of an event.

Revision ID: 0008
Revises: 0007
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

COLUMNS = (
    ("positions", "spacing", sa.Float(), None),
    ("shows", "ground", sa.Text(), None),
    ("shows", "stock", sa.Text(), "[]"),
    ("shows", "day", sa.Text(), None),
)


def upgrade() -> None:
    for table, name, kind, default in COLUMNS:
        op.add_column(
            table, sa.Column(name, kind, server_default=default, nullable=default is None)
        )


def downgrade() -> None:
    for table, name, _kind, _default in reversed(COLUMNS):
        op.drop_column(table, name)
