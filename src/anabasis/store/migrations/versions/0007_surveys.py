"""Surveys: what a site said of itself, kept with its design."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    """Add the table."""
    op.create_table(
        "survey",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("design_id", sa.String(32), sa.ForeignKey("design.id", ondelete="CASCADE"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("author", sa.String(80), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("answers", sa.JSON, nullable=False),
        sa.Column("said", sa.JSON, nullable=False),
        sa.Column("decided", sa.JSON, nullable=False),
        sa.UniqueConstraint("design_id", "number"),
    )


def downgrade() -> None:
    """Take it out."""
    op.drop_table("survey")
