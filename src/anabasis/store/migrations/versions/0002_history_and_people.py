"""Revisions and branches; people, roles, sessions; the audit log. What is there stays."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"

ONLY_ADDED = """
create function only_added() returns trigger language plpgsql as $$
begin
  if tg_op = 'DELETE' and tg_table_name = 'revision'
     and not exists (select 1 from design where id = old.design_id) then
    return old;  -- the design itself was removed
  end if;
  raise exception '% is only ever added to', tg_table_name;
end $$
"""


def _of(table: str) -> sa.ForeignKey:
    return sa.ForeignKey(f"{table}.id", ondelete="CASCADE")


def upgrade() -> None:
    """Add the tables."""
    op.add_column("design", sa.Column("branch_of", sa.String(32), sa.ForeignKey("design.id", ondelete="CASCADE")))
    op.add_column("design", sa.Column("branch_title", sa.String(80)))
    op.add_column("design", sa.Column("branched_from", sa.String(40)))
    op.add_column("design", sa.Column("base", sa.JSON))
    time = sa.DateTime(timezone=True)
    op.create_table(
        "revision",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("design_id", sa.String(32), _of("design"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("reason", sa.String(2000), nullable=False),
        sa.Column("forced", sa.String(2000)),
        sa.Column("failing", sa.JSON, nullable=False),
        sa.Column("author", sa.String(80), nullable=False),
        sa.Column("at", time, nullable=False),
        sa.UniqueConstraint("design_id", "number"),
    )
    op.create_table(
        "account",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("name", sa.String(80), nullable=False, unique=True),
        sa.Column("password", sa.String(200)),
        sa.Column("owner", sa.Boolean, nullable=False),
        sa.Column("disabled", sa.Boolean, nullable=False, server_default=sa.false()),
        sa.Column("created_at", time, nullable=False),
    )
    op.create_table(
        "session",
        sa.Column("token", sa.String(64), primary_key=True),
        sa.Column("account_id", sa.BigInteger, _of("account"), nullable=False),
        sa.Column("csrf", sa.String(64), nullable=False),
        sa.Column("expires_at", time, nullable=False),
    )
    op.create_table(
        "link",
        sa.Column("token", sa.String(64), primary_key=True),
        sa.Column("account_id", sa.BigInteger, _of("account"), nullable=False),
        sa.Column("expires_at", time, nullable=False),
    )
    op.create_table(
        "attempt",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("name", sa.String(80), nullable=False, index=True),
        sa.Column("at", time, nullable=False),
    )
    op.create_table(
        "role",
        sa.Column("account_id", sa.BigInteger, _of("account"), primary_key=True),
        sa.Column("design_id", sa.String(32), _of("design"), primary_key=True),
        sa.Column("role", sa.String(10), nullable=False),
        sa.CheckConstraint("role in ('read', 'edit', 'publish', 'administer')", name="role_known"),
    )
    op.create_table(
        "audit",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("at", time, nullable=False),
        sa.Column("who", sa.String(80), nullable=False),
        sa.Column("what", sa.String(40), nullable=False),
        sa.Column("design_id", sa.String(32)),
        sa.Column("detail", sa.String(300), nullable=False),
    )
    op.execute(ONLY_ADDED)
    for table in ("revision", "audit"):
        op.execute(
            f"create trigger only_added before update or delete on {table} for each row execute function only_added()"
        )


def downgrade() -> None:
    """Take them out."""
    for table in ("audit", "role", "attempt", "link", "session", "account", "revision"):
        op.drop_table(table)
    op.execute("drop function only_added()")
    for column in ("base", "branched_from", "branch_title", "branch_of"):
        op.drop_column("design", column)
