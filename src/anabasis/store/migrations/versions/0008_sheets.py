"""Sheets: what is built and tested on site, line by line, with what came of it."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    """Add the table."""
    op.create_table(
        "sheet",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("design_id", sa.String(32), sa.ForeignKey("design.id", ondelete="CASCADE"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("kind", sa.String(10), nullable=False),
        sa.Column("author", sa.String(80), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("about", sa.JSON, nullable=False),
        sa.Column("lines", sa.JSON, nullable=False),
        sa.Column("marks", sa.JSON, nullable=False),
        sa.UniqueConstraint("design_id", "number"),
    )


def downgrade() -> None:
    """Take it out."""
    op.drop_table("sheet")
