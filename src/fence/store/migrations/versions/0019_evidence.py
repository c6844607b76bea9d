"""What was seen while somebody looked for what is wrong in a show.

Revision ID: 0019
Revises: 0018
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "evidence",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("show_id", sa.Integer(), nullable=False),
        sa.Column("document", sa.Text(), nullable=False),
        sa.Column("rests_on", sa.Integer(), nullable=False),
        sa.Column("who", sa.Text(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["show_id"], ["shows.id"], name="fk_evidence_show_id_shows", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_evidence"),
    )
    op.create_index("ix_evidence_show_id", "evidence", ["show_id"])


def downgrade() -> None:
    op.drop_table("evidence")
