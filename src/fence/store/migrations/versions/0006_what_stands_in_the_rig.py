"""What was read back and proven, steps of the preparation, heights, and the order of the walk.

Revision ID: 0006
Revises: 0005
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

COLUMNS = (
    ("fixtures", "read_back", sa.Text(), None),
    ("fixtures", "proven", sa.Text(), None),
    ("fixtures", "ticked", sa.Text(), "[]"),
    ("fixtures", "serial", sa.Text(), ""),
    ("fixtures", "turned", sa.Boolean(), "0"),
    ("positions", "height", sa.Float(), None),
    ("shows", "walk", sa.JSON(), "[]"),
    ("shows", "skipped", sa.JSON(), "[]"),
)


def upgrade() -> None:
    for table, name, kind, default in COLUMNS:
        op.add_column(
            table, sa.Column(name, kind, server_default=default, nullable=default is None)
        )


def downgrade() -> None:
    for table, name, _kind, _default in reversed(COLUMNS):
        op.drop_column(table, name)
