"""Fixtures that cost something: one private database cluster a session, one empty store a test."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest
from argon2 import PasswordHasher
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, settings
from sqlalchemy import Engine, text

from anabasis.climb import Climb
from anabasis.design import Loaded, load_file
from anabasis.server import create_app
from anabasis.store import People, Store, connect, migrate
from ops.cluster import Cluster
from tests.counts import count

_CALM = {
    "deadline": None,
    "max_examples": count(100, 100),
    "suppress_health_check": [HealthCheck.too_slow, HealthCheck.data_too_large],
}
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
    with Cluster.for_a_while() as cluster:
        found = connect(cluster.url)
        migrate(found)
        yield found
        found.dispose()


@pytest.fixture
def store(engine: Engine) -> Store:
    """Return an empty store."""
    with engine.begin() as connection:
        connection.execute(text("truncate design, account, attempt, audit cascade"))
    return Store(engine)


def people_of(store: Store) -> People:
    """Return the accounts of a store, with hashing that costs next to nothing."""
    return People(store.engine, PasswordHasher(time_cost=1, memory_cost=8, parallelism=1))


def client_of(store: Store, name: str = "Oda", owner: bool = True, **options: Any) -> TestClient:
    """Return a client of an application over a store, with somebody signed in; over TLS, so that cookies are sent."""
    people = people_of(store)
    known = {p.name: p for p in people.all()}
    person = known.get(name) or people.add(name, "correct horse", owner, "a test", NOON)
    app = create_app(store, clock=lambda: NOON, accounts=people, starts=ROOT / "demo" / "starts", docs=ROOT / "docs")
    client = TestClient(app, base_url="https://127.0.0.1", **options)
    assert client.get(f"/enter/{people.link(person.id, NOON)}", follow_redirects=False).status_code == 303
    client.headers["X-CSRF-Token"] = client.get("/api/me").json()["csrf"]
    return client
