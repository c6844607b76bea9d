"""Shows get a key that is never given twice, a counter of ids, and what the rules said of them last.

Revision ID: 0005
Revises: 0004
"""

from __future__ import annotations

from uuid import uuid4

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "counters",
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("value", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("name", name="pk_counters"),
    )
    op.execute("INSERT INTO counters (name, value) SELECT 'show', coalesce(max(id), 0) FROM shows")
    op.add_column("shows", sa.Column("key", sa.Text(), server_default="", nullable=False))
    op.add_column("shows", sa.Column("summary", sa.Text(), nullable=True))
    shows = sa.table("shows", sa.column("id", sa.Integer), sa.column("key", sa.Text))
    connection = op.get_bind()
    for (show_id,) in connection.execute(sa.select(shows.c.id)).all():
        connection.execute(sa.update(shows).where(shows.c.id == show_id).values(key=uuid4().hex))


def downgrade() -> None:
    op.drop_column("shows", "summary")
    op.drop_column("shows", "key")
    op.drop_table("counters")
