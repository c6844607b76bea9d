"""The log as a page: from where a step came, notes, which fixtures it is about, moments with names; findings let stand.

Revision ID: 0011
Revises: 0010
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None

BACKFILL = """
    INSERT OR IGNORE INTO log_fixtures (log_id, fixture_id)
    SELECT log.id, COALESCE(json_extract(change.value, '$.after.id'), json_extract(change.value, '$.before.id'))
    FROM log, json_each(log.difference, '$.fixtures') AS change
    WHERE json_valid(log.difference)
      AND COALESCE(json_extract(change.value, '$.after.id'), json_extract(change.value, '$.before.id')) IS NOT NULL
"""


def upgrade() -> None:
    op.add_column("shows", sa.Column("waivers", sa.Text(), nullable=False, server_default="[]"))
    op.add_column("log", sa.Column("origin", sa.Text(), nullable=False, server_default=""))
    op.add_column("log", sa.Column("note", sa.Text(), nullable=False, server_default=""))
    op.add_column("log", sa.Column("noted_by", sa.Text(), nullable=False, server_default=""))
    op.create_index("ix_log_show_id_id", "log", ["show_id", "id"])
    op.create_table(
        "log_fixtures",
        sa.Column("fixture_id", sa.Integer(), nullable=False),
        sa.Column("log_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["log_id"], ["log.id"], name="fk_log_fixtures_log_id_log", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("fixture_id", "log_id", name="pk_log_fixtures"),
    )
    op.create_index("ix_log_fixtures_log_id", "log_fixtures", ["log_id"])
    op.create_table(
        "moments",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("show_id", sa.Integer(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("who", sa.Text(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["show_id"], ["shows.id"], name="fk_moments_show_id_shows", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_moments"),
    )
    op.create_index("ix_moments_show_id", "moments", ["show_id"])
    op.execute(BACKFILL)


def downgrade() -> None:
    op.drop_table("moments")
    op.drop_table("log_fixtures")
    op.drop_index("ix_log_show_id_id", "log")
    for column in ("noted_by", "note", "origin"):
        op.drop_column("log", column)
    op.drop_column("shows", "waivers")
