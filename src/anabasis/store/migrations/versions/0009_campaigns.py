"""Campaigns: what was asked of which documents, and a row a case."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    """Add the tables."""
    op.create_table(
        "campaign",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("kind", sa.String(10), nullable=False),
        sa.Column("author", sa.String(80), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("asked", sa.JSON, nullable=False),
        sa.Column("documents", sa.JSON, nullable=False),
        sa.Column("done", sa.Integer, nullable=False),
        sa.Column("total", sa.Integer, nullable=False),
        sa.Column("state", sa.String(10), nullable=False),
    )
    op.create_table(
        "campaign_design",
        sa.Column("campaign_id", sa.BigInteger, sa.ForeignKey("campaign.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("name", sa.String(200), primary_key=True),
        sa.Column("design_id", sa.String(32), sa.ForeignKey("design.id", ondelete="CASCADE"), nullable=False),
        sa.Column("revision", sa.Integer, nullable=True),
        sa.Column("stamp", sa.String(64), nullable=False),
    )
    op.create_table(
        "campaign_row",
        sa.Column("campaign_id", sa.BigInteger, sa.ForeignKey("campaign.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("key", sa.String(64), primary_key=True),
        sa.Column("opened", sa.Integer, nullable=False),
        sa.Column("closed", sa.Integer, nullable=False),
        sa.Column("lost", sa.Integer, nullable=False),
        sa.Column("meanwhile", sa.Integer, nullable=False),
        sa.Column("said", sa.JSON, nullable=False),
    )
    op.create_index("campaign_row_harm", "campaign_row", ["campaign_id", "opened", "closed", "lost", "meanwhile"])


def downgrade() -> None:
    """Take them out."""
    op.drop_table("campaign_row")
    op.drop_table("campaign_design")
    op.drop_table("campaign")
