"""The connection, its migrations, and the one border where the database's errors become ours."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine
from sqlalchemy.exc import DBAPIError, InterfaceError, OperationalError, SQLAlchemyError

from anabasis.errors import StoreUnavailable

MIGRATIONS = Path(__file__).parent / "migrations"


def connect(url: str) -> Engine:
    """Return an engine for a PostgreSQL URL; the first use opens the connection."""
    return create_engine(url, pool_pre_ping=True, pool_size=5, connect_args={"connect_timeout": 5})


def migrate(engine: Engine) -> None:
    """Bring the tables to the newest revision; safe to call at every start."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with errors_translated(), engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


@contextmanager
def errors_translated() -> Iterator[None]:
    """Turn every error of the database into StoreUnavailable."""
    try:
        yield
    except (OperationalError, InterfaceError) as error:
        raise StoreUnavailable(f"The database does not answer: {str(error.orig).splitlines()[0]}") from error
    except (DBAPIError, SQLAlchemyError) as error:
        raise StoreUnavailable(f"The database refused: {type(error).__name__}") from error
