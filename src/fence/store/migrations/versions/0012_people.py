"""People who log in, where they are logged in, invitations; marks that were sent from out of reach.

Revision ID: 0012
Revises: 0011
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "people",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("folded", sa.Text(), nullable=False),
        sa.Column("role", sa.Text(), nullable=False),
        sa.Column("password", sa.Text(), nullable=False),
        sa.Column("since", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_people"),
        sa.UniqueConstraint("folded", name="uq_people_folded"),
    )
    op.create_table(
        "sittings",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("token", sa.Text(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("device", sa.Text(), nullable=False),
        sa.Column("began", sa.DateTime(), nullable=False),
        sa.Column("seen", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["person_id"], ["people.id"], name="fk_sittings_person_id_people", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_sittings"),
        sa.UniqueConstraint("token", name="uq_sittings_token"),
    )
    op.create_index("ix_sittings_person_id", "sittings", ["person_id"])
    op.create_table(
        "invitations",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("code", sa.Text(), nullable=False),
        sa.Column("role", sa.Text(), nullable=False),
        sa.Column("by", sa.Text(), nullable=False),
        sa.Column("until", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_invitations"),
        sa.UniqueConstraint("code", name="uq_invitations_code"),
    )
    op.create_table(
        "sendings",
        sa.Column("show_id", sa.Integer(), nullable=False),
        sa.Column("id", sa.Text(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["show_id"], ["shows.id"], name="fk_sendings_show_id_shows", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("show_id", "id", name="pk_sendings"),
    )
    op.create_index("ix_sendings_at", "sendings", ["at"])


def downgrade() -> None:
    for table in ("sendings", "invitations", "sittings", "people"):
        op.drop_table(table)
