"""The database goes away: nothing is half-done, the error is clear, and work goes on when it is back."""

from __future__ import annotations

import tempfile
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from anabasis.design import Loaded
from anabasis.errors import StoreUnavailable
from anabasis.server import create_app
from anabasis.store import Store, connect, migrate
from ops.cluster import Cluster
from tests.conftest import NOON

OFF = [{"op": "add", "path": "/devices/4/rules/2/enabled", "value": False}]


def test_a_cluster_stops_and_comes_back(demo: Loaded) -> None:
    """Edits before are kept, edits during are refused whole, edits after go on where one was."""
    home = Path(tempfile.mkdtemp(prefix="anabasis-fault-"))
    home.chmod(0o755)
    cluster = Cluster(home, durable=False)
    try:
        cluster.start()
        engine = connect(cluster.url)
        migrate(engine)
        store = Store(engine)
        store.create("d", demo.raw, NOON)
        store.edit("d", 1, OFF, "Oda", NOON)
        client = TestClient(create_app(store, clock=lambda: NOON), raise_server_exceptions=False)
        cluster.stop()
        with pytest.raises(StoreUnavailable):
            store.draft("d")
        answer = client.post("/api/designs/d/draft/undo", headers={"If-Match": '"2"'})
        assert (answer.status_code, answer.json()["title"]) == (503, "The store does not answer")
        port = cluster.port_file.read_text()
        cluster.start()
        if cluster.port_file.read_text() != port:  # another program took the port meanwhile
            engine.dispose()
            store = Store(connect(cluster.url))
        assert store.draft("d").version == 2
        assert store.undo("d", 2, "Oda", NOON).version == 3
    finally:
        cluster.remove()


def test_a_cluster_that_runs_is_used_again(demo: Loaded) -> None:
    """Starting twice starts once; a second pair of hands on the same folder sees the same designs."""
    home = Path(tempfile.mkdtemp(prefix="anabasis-fault-"))
    home.chmod(0o755)
    first, second = Cluster(home, durable=False), Cluster(home, durable=False)
    try:
        first.start()
        migrate(connect(first.url))
        Store(connect(first.url)).create("d", demo.raw, NOON)
        second.start()
        assert second.url == first.url
        assert [s.id for s in Store(connect(second.url)).designs()] == ["d"]
    finally:
        first.remove()
    assert not home.exists()
