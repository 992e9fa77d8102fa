"""Where designs are kept: PostgreSQL by SQLAlchemy 2, migrated by Alembic. Knows the document and nothing above it."""

from anabasis.store.designs import Draft, EditRecord, Store, Summary
from anabasis.store.engine import connect, migrate

__all__ = ["Draft", "EditRecord", "Store", "Summary", "connect", "migrate"]
