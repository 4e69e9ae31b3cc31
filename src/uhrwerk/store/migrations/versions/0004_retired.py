"""Ids of mechanisms that were taken off the shelf: none is used again."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.create_table("retired", sa.Column("id", sa.String(60), primary_key=True))


def downgrade() -> None:
    op.drop_table("retired")
