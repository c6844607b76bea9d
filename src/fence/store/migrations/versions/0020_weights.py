"""How likely each kind of trouble is in a show to begin with.

Revision ID: 0020
Revises: 0019
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "weights",
        sa.Column("show_id", sa.Integer(), nullable=False),
        sa.Column("document", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(
            ["show_id"], ["shows.id"], name="fk_weights_show_id_shows", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("show_id", name="pk_weights"),
    )


def downgrade() -> None:
    op.drop_table("weights")
