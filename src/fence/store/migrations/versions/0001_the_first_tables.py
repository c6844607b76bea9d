"""The first tables."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "drafts",
        sa.Column("id", sa.Text(), nullable=False),
        sa.Column("filename", sa.Text(), nullable=False),
        sa.Column("content", sa.LargeBinary(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_drafts")),
    )
    op.create_table(
        "shows",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("desk_name", sa.Text(), nullable=False),
        sa.Column("desk_universes", sa.Integer(), nullable=True),
        sa.Column("next_fixture_id", sa.Integer(), nullable=False),
        sa.Column("note", sa.Text(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.Column("changed_at", sa.DateTime(), nullable=False),
        sa.Column("deleted_at", sa.DateTime(), nullable=True),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_shows")),
    )
    op.create_table(
        "fixtures",
        sa.Column("show_id", sa.Integer(), nullable=False),
        sa.Column("id", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=True),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("profile", sa.Text(), nullable=False),
        sa.Column("mode", sa.Text(), nullable=False),
        sa.Column("position", sa.Text(), nullable=False),
        sa.Column("pinned", sa.Boolean(), nullable=False),
        sa.Column("share", sa.Text(), nullable=False),
        sa.Column("note", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(
            ["show_id"], ["shows.id"], name=op.f("fk_fixtures_show_id_shows"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("show_id", "id", name=op.f("pk_fixtures")),
    )
    op.create_table(
        "log",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("show_id", sa.Integer(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("who", sa.Text(), nullable=False),
        sa.Column("words", sa.Text(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("state", sa.Text(), nullable=False),
        sa.Column("difference", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(
            ["show_id"], ["shows.id"], name=op.f("fk_log_show_id_shows"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_log")),
    )
    with op.batch_alter_table("log", schema=None) as batch_op:
        batch_op.create_index("ix_log_show_state", ["show_id", "kind", "state", "id"], unique=False)

    op.create_table(
        "positions",
        sa.Column("show_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["show_id"], ["shows.id"], name=op.f("fk_positions_show_id_shows"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("show_id", "name", name=op.f("pk_positions")),
    )
    op.create_table(
        "profiles",
        sa.Column("show_id", sa.Integer(), nullable=False),
        sa.Column("id", sa.Text(), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("document", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(
            ["show_id"], ["shows.id"], name=op.f("fk_profiles_show_id_shows"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("show_id", "id", name=op.f("pk_profiles")),
    )
    op.create_table(
        "universes",
        sa.Column("show_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("reserved", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(
            ["show_id"], ["shows.id"], name=op.f("fk_universes_show_id_shows"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("show_id", "number", name=op.f("pk_universes")),
    )
    op.create_table(
        "patches",
        sa.Column("show_id", sa.Integer(), nullable=False),
        sa.Column("fixture_id", sa.Integer(), nullable=False),
        sa.Column("part", sa.Integer(), nullable=False),
        sa.Column("universe", sa.Integer(), nullable=True),
        sa.Column("slot", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(
            ["show_id", "fixture_id"],
            ["fixtures.show_id", "fixtures.id"],
            name=op.f("fk_patches_show_id_fixtures"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("show_id", "fixture_id", "part", name=op.f("pk_patches")),
    )


def downgrade() -> None:
    op.drop_table("patches")
    op.drop_table("universes")
    op.drop_table("profiles")
    op.drop_table("positions")
    with op.batch_alter_table("log", schema=None) as batch_op:
        batch_op.drop_index("ix_log_show_state")

    op.drop_table("log")
    op.drop_table("fixtures")
    op.drop_table("shows")
    op.drop_table("drafts")
