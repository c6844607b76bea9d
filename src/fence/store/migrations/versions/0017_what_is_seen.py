"""What is seen of fixtures: that one hangs upright is kept as well, and that one did not answer as it should.

Revision ID: 0017
Revises: 0016
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column(
        "fixtures", sa.Column("upright", sa.Boolean(), nullable=False, server_default="0")
    )
    op.add_column("fixtures", sa.Column("sign", sa.Text(), nullable=True))


def downgrade() -> None:
    op.drop_column("fixtures", "sign")
    op.drop_column("fixtures", "upright")
