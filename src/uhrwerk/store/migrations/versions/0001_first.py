"""Mechanisms, revisions, results."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "mechanism",
        sa.Column("id", sa.String(60), primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("head", sa.Integer, nullable=False),
        sa.Column("tip", sa.Integer, nullable=False),
        sa.Column("demo", sa.Boolean, nullable=False),
    )
    op.create_table(
        "revision",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("mechanism", sa.String(60), sa.ForeignKey("mechanism.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("parent", sa.Integer, sa.ForeignKey("revision.id", ondelete="CASCADE"), nullable=True, index=True),
        sa.Column("time", sa.DateTime(timezone=True), nullable=False),
        sa.Column("words", sa.String, nullable=False),
        sa.Column("command", sa.Text),
        sa.Column("document", sa.Text, nullable=False),
        sa.UniqueConstraint("mechanism", "number"),
    )
    op.create_table(
        "result",
        sa.Column("revision", sa.Integer, sa.ForeignKey("revision.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("failing", sa.Integer, nullable=False),
        sa.Column("open", sa.Integer, nullable=False),
        sa.Column("total", sa.Integer, nullable=False),
        sa.Column("words", sa.String, nullable=False),
    )


def downgrade() -> None:
    for table in ("result", "revision", "mechanism"):
        op.drop_table(table)
