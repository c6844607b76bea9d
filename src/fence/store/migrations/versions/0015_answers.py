"""Who answered on the lines of a show.

Revision ID: 0015
Revises: 0014
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "answers",
        sa.Column("show_id", sa.Integer(), nullable=False),
        sa.Column("document", sa.Text(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["show_id"], ["shows.id"], name="fk_answers_show_id_shows", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("show_id", name="pk_answers"),
    )


def downgrade() -> None:
    op.drop_table("answers")
