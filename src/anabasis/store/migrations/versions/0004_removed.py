"""A design that is removed can be brought back for a while."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    """Add the column."""
    op.add_column("design", sa.Column("removed_at", sa.DateTime(timezone=True)))


def downgrade() -> None:
    """Take it out, and with it what was removed."""
    op.execute("delete from design where removed_at is not null")
    op.drop_column("design", "removed_at")
