"""Contents of files that parts came from; materials of one's own."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table(
        "content",
        sa.Column("name", sa.String(32), primary_key=True),
        sa.Column("data", sa.LargeBinary, nullable=False),
    )
    op.create_table(
        "ownmaterial",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("material", sa.Text, nullable=False),
    )


def downgrade() -> None:
    for table in ("ownmaterial", "content"):
        op.drop_table(table)
