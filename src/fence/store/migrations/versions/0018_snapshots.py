"""Named states of a show are snapshots.

Revision ID: 0018
Revises: 0017
"""

from __future__ import annotations

from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.drop_index("ix_moments_show_id", "moments")
    op.rename_table("moments", "snapshots")
    op.create_index("ix_snapshots_show_id", "snapshots", ["show_id"])


def downgrade() -> None:
    op.drop_index("ix_snapshots_show_id", "snapshots")
    op.rename_table("snapshots", "moments")
    op.create_index("ix_moments_show_id", "moments", ["show_id"])
