"""Designs with their draft, and every edit."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    """Create the first tables."""
    op.create_table(
        "design",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
    )
    op.create_table(
        "edit",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("design_id", sa.String(32), sa.ForeignKey("design.id", ondelete="CASCADE"), nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("kind", sa.String(4), nullable=False),
        sa.Column("of", sa.BigInteger, nullable=True),
        sa.Column("patch", sa.JSON, nullable=False),
        sa.Column("inverse", sa.JSON, nullable=False),
        sa.Column("author", sa.String(80), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.UniqueConstraint("design_id", "version"),
        sa.CheckConstraint("kind in ('edit', 'undo', 'redo')", name="edit_kind"),
    )


def downgrade() -> None:
    """Drop them."""
    op.drop_table("edit")
    op.drop_table("design")
