"""When a mechanism was deleted: it is kept in the bin for a while."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.add_column("mechanism", sa.Column("deleted", sa.DateTime(timezone=True), nullable=True))


def downgrade() -> None:
    op.drop_column("mechanism", "deleted")
