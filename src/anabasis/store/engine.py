"""The connection, its migrations, and the one border where the database's errors become ours."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine
from sqlalchemy.exc import DataError, DBAPIError, IntegrityError, InterfaceError, OperationalError, SQLAlchemyError
from sqlalchemy.orm import Session

from anabasis.errors import InputRefused, NoSuchThing, Problem, StoreUnavailable
from anabasis.store.held import watch

PATIENCE_MS = 15_000
"""How long a statement may take, or wait for another, before it is given up and nothing was changed."""
KEEPALIVE: dict[str, Any] = {
    "keepalives_idle": 5,
    "keepalives_interval": 2,
    "keepalives_count": 3,
    "tcp_user_timeout": 10_000,
}
"""A host that is cut off is taken for gone after some seconds (libpq, chapter 34.1.2)."""
MIGRATIONS = Path(__file__).parent / "migrations"


def connect(url: str, patience_ms: int = PATIENCE_MS, schema: str = "public") -> Engine:
    """Return an engine for a PostgreSQL URL; the first use opens the connection.

    `patience_ms`: how long a statement may take. `schema`: where the tables are.
    """
    patience = f"-c statement_timeout={patience_ms} -c lock_timeout={patience_ms} -c search_path={schema}"
    waits = {"connect_timeout": 5, "options": patience, **KEEPALIVE}
    return watch(create_engine(url, pool_size=10, max_overflow=30, pool_timeout=20, connect_args=waits))


def migrate(engine: Engine, revision: str = "head") -> None:
    """Bring the tables to the newest revision, or up to another one; safe to call at every start."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with errors_translated(), engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, revision)


FOREIGN_KEY = "23503"
WHY = {
    "53100": "has no room left on its disk",
    "53": "is short of something",
    "57014": "takes too long",
    "55P03": "takes too long",
}
"""What a state of PostgreSQL (its manual, appendix A) means for a person."""


def _state(error: DBAPIError) -> str:
    return getattr(error.orig, "sqlstate", None) or ""


@contextmanager
def errors_translated() -> Iterator[None]:
    """Turn every error of the database into one of ours: what it cannot store is refused, anything else is StoreUnavailable."""
    try:
        yield
    except (OperationalError, InterfaceError) as error:
        why = next((said for code, said in WHY.items() if _state(error).startswith(code)), "does not answer")
        raise StoreUnavailable(f"The database {why}: {str(error.orig).splitlines()[0]}") from error
    except DataError as error:
        said = str(error.orig).splitlines()[0]
        raise InputRefused([Problem("", f"this cannot be stored: {said}", allowed="text without the character NUL, numbers that are finite")]) from None  # fmt: skip
    except IntegrityError as error:
        if _state(error) != FOREIGN_KEY:
            raise StoreUnavailable(f"The database refused: {type(error).__name__}") from error
        raise NoSuchThing("What this names is not there, or is not there any more.") from None
    except (DBAPIError, SQLAlchemyError) as error:
        raise StoreUnavailable(f"The database refused: {type(error).__name__}") from error


@contextmanager
def transaction(engine: Engine) -> Iterator[Session]:
    """Give a session whose work is stored whole when the block ends, or not at all. Raises StoreUnavailable."""
    with errors_translated(), Session(engine, expire_on_commit=False) as session, session.begin():
        yield session
