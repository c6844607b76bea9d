"""What the show needs, the tell-tale slot, what was set, hard places, and own wordings."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "wordings",
        sa.Column("wording", sa.Text(), nullable=False),
        sa.Column("function", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("wording", name=op.f("pk_wordings")),
    )
    op.add_column("fixtures", sa.Column("set_to", sa.Text(), nullable=True))
    op.add_column("positions", sa.Column("hard", sa.Boolean(), server_default="0", nullable=False))
    op.add_column("shows", sa.Column("needs", sa.Text(), server_default="[]", nullable=False))
    op.add_column("shows", sa.Column("tell_tale_slot", sa.Integer(), nullable=True))
    op.add_column("shows", sa.Column("tell_tale_scale", sa.Text(), nullable=True))


def downgrade() -> None:
    for table, column in (
        ("shows", "tell_tale_scale"),
        ("shows", "tell_tale_slot"),
        ("shows", "needs"),
        ("positions", "hard"),
        ("fixtures", "set_to"),
    ):
        op.drop_column(table, column)
    op.drop_table("wordings")
