"""A digest beside every document, by which what is kept in memory is found again. Empty where nobody wrote since."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    """Add the column."""
    op.add_column("design", sa.Column("stamp", sa.String(64)))


def downgrade() -> None:
    """Take it out."""
    op.drop_column("design", "stamp")
