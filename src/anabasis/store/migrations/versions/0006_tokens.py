"""Secrets by which programs act for a person."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    """Add the table."""
    op.create_table(
        "token",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("digest", sa.String(64), nullable=False, unique=True),
        sa.Column("account_id", sa.BigInteger, sa.ForeignKey("account.id", ondelete="CASCADE"), nullable=False),
        sa.Column("name", sa.String(40), nullable=False),
        sa.Column("scope", sa.String(10), nullable=False),
        sa.Column("design_id", sa.String(32), sa.ForeignKey("design.id", ondelete="CASCADE")),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("expires_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("used_at", sa.DateTime(timezone=True)),
        sa.UniqueConstraint("account_id", "name"),
        sa.CheckConstraint("scope in ('read', 'edit', 'publish', 'administer')", name="scope_known"),
    )


def downgrade() -> None:
    """Take it out."""
    op.drop_table("token")
