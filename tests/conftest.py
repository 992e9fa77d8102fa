"""Fixtures that cost something: one private database cluster a session, one empty store a test."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings
from sqlalchemy import Engine, text

from anabasis.climb import Climb
from anabasis.design import Loaded, load_file
from anabasis.store import Store, connect, migrate
from ops.cluster import Cluster

_CALM = {"deadline": None, "suppress_health_check": [HealthCheck.too_slow, HealthCheck.data_too_large]}
settings.register_profile("anabasis", derandomize=True, **_CALM)  # type: ignore[arg-type]
settings.register_profile("wild", **_CALM)  # type: ignore[arg-type]
"""The same examples on every run, so that a run that was green stays green; `pytest --hypothesis-profile=wild` looks for new ones."""
settings.load_profile("anabasis")

ROOT = Path(__file__).resolve().parent.parent
DEMO = ROOT / "demo" / "tidewrack.yaml"
NOON = datetime(2026, 6, 1, 12, 0, tzinfo=UTC)


@pytest.fixture(scope="session")
def demo() -> Loaded:
    """Return the demo design."""
    return load_file(DEMO)


@pytest.fixture(scope="session")
def climb(demo: Loaded) -> Climb:
    """Return everything derived from the demo design."""
    return Climb(demo.design)


@pytest.fixture(scope="session")
def engine() -> Iterator[Engine]:
    """Return a migrated database of a cluster that lives as long as the session."""
    home = Path(tempfile.mkdtemp(prefix="anabasis-test-"))
    home.chmod(0o755)
    cluster = Cluster(home, durable=False)
    try:
        cluster.start()
        found = connect(cluster.url)
        migrate(found)
        yield found
        found.dispose()
    finally:
        cluster.remove()


@pytest.fixture
def store(engine: Engine) -> Store:
    """Return an empty store."""
    with engine.begin() as connection:
        connection.execute(text("truncate design cascade"))
    return Store(engine)
