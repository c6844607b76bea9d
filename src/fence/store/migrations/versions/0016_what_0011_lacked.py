"""Findings let stand: where 0011 was run as it was published first, without their column, it is added.

Revision ID: 0016
Revises: 0015
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    columns = {column["name"] for column in sa.inspect(op.get_bind()).get_columns("shows")}
    if "waivers" not in columns:
        op.add_column("shows", sa.Column("waivers", sa.Text(), nullable=False, server_default="[]"))


def downgrade() -> None:
    """The column is 0011's to take away."""
