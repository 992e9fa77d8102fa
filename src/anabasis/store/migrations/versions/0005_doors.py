"""Failed sign-ins are counted by where they come from too; a browser that was let in before is known again."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    """Add the column and the table."""
    op.add_column("attempt", sa.Column("source", sa.String(80), nullable=False, server_default=""))
    op.create_index("attempt_source", "attempt", ["source"])
    op.create_table(
        "known",
        sa.Column("token", sa.String(64), primary_key=True),
        sa.Column("account_id", sa.BigInteger, sa.ForeignKey("account.id", ondelete="CASCADE"), nullable=False),
        sa.Column("expires_at", sa.DateTime(timezone=True), nullable=False),
    )


def downgrade() -> None:
    """Take them out."""
    op.drop_table("known")
    op.drop_index("attempt_source", "attempt")
    op.drop_column("attempt", "source")
