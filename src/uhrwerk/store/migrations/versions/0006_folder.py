"""The folder of a mechanism on the shelf; empty where it is in none."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.add_column("mechanism", sa.Column("folder", sa.String(60), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("mechanism", "folder")
