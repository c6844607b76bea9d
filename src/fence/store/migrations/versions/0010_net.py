"""The network that the boxes of a show share.

Revision ID: 0010
Revises: 0009
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("shows", sa.Column("net", sa.Text(), nullable=True))


def downgrade() -> None:
    op.drop_column("shows", "net")
