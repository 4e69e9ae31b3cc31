"""Variants of a mechanism, the baseline that is pinned, and names of revisions."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.create_table(
        "variant",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("mechanism", sa.String, sa.ForeignKey("mechanism.id", ondelete="CASCADE"), nullable=False),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("head", sa.Integer, nullable=False),
        sa.Column("tip", sa.Integer, nullable=False),
        sa.UniqueConstraint("mechanism", "name"),
    )
    op.create_index("ix_variant_mechanism", "variant", ["mechanism"])
    op.add_column("mechanism", sa.Column("variant", sa.String(60), nullable=False, server_default=""))
    op.add_column("mechanism", sa.Column("baseline", sa.Integer, nullable=True))
    op.add_column("revision", sa.Column("name", sa.String(60), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("revision", "name")
    op.drop_column("mechanism", "baseline")
    op.drop_column("mechanism", "variant")
    op.drop_table("variant")
