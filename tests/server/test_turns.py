"""One design at a time: nobody waits for another's design, and no crowd at one design waits for itself."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from concurrent.futures import TimeoutError as Late

import pytest
from fastapi.testclient import TestClient

from anabasis.climb import Climb
from anabasis.design import Loaded
from anabasis.server.state import State
from anabasis.store import Store
from tests.conftest import NOON, client_of

VIEWS = (
    "climb",
    "grid",
    "ends",
    "cabling",
    "matrix",
    "matrix-map",
    "segment-drawing",
    "zones",
    "routing",
    "expectations",
)


def state_of(client: TestClient) -> State:
    """Return what the routers of an application share."""
    state: State = client.app.state.anabasis  # type: ignore[attr-defined]
    return state


def test_only_who_asks_of_the_same_design_waits(store: Store, demo: Loaded) -> None:
    """While one design is being worked on, another answers at once."""
    client = client_of(store)
    for name in ("one", "two"):
        store.create(name, demo.raw, NOON)
    with ThreadPoolExecutor(2) as pool:
        turn = state_of(client).turns.of("one")
        with turn:
            assert client.get("/api/designs/two/views/grid").status_code == 200
            waiting = pool.submit(client.get, "/api/designs/one/views/grid")
            with pytest.raises(Late):
                waiting.result(0.5)
        assert waiting.result(60).status_code == 200


def test_who_asked_may_stop_it(store: Store, demo: Loaded) -> None:
    """A page is told how long it waits, stops that, and is answered so; no other page can, and the next asking gets its answer."""
    client = client_of(store)
    store.create("one", demo.raw, NOON)
    mine, other = {"X-Page": "mine"}, {"X-Page": "other"}
    with ThreadPoolExecutor(1) as pool, state_of(client).turns.of("one"):
        waiting = pool.submit(client.get, "/api/designs/one/views/matrix", headers=mine)
        while not (told := client.get("/api/designs/one/work", headers=mine).json())["questions"]:
            pass
        assert told["questions"] == 1
        assert client.get("/api/designs/one/work", headers=other).json()["questions"] == 0
        assert client.delete("/api/designs/one/work", headers=other).status_code == 204
        with pytest.raises(Late):
            waiting.result(0.6)
        assert client.delete("/api/designs/one/work", headers=mine).status_code == 204
        stopped = waiting.result(5)
    assert (stopped.status_code, stopped.json()["title"]) == (409, "Stopped")
    assert client.get("/api/designs/one/work", headers=mine).json()["questions"] == 0
    assert client.get("/api/designs/one/views/matrix", headers=mine).status_code == 200


def test_a_page_that_does_not_say_who_it_is_stops_nothing(store: Store, demo: Loaded) -> None:
    """Without the header there is nothing to ask after."""
    client = client_of(store)
    store.create("one", demo.raw, NOON)
    assert client.delete("/api/designs/one/work").status_code == 422
    assert client.get("/api/designs/one/work", headers={"X-Page": ""}).json()["questions"] == 0


def test_a_crowd_at_one_design_does_not_hang(store: Store, demo: Loaded) -> None:
    """Every view at once while it is edited: each is answered, and the last state is that of one who asks alone."""
    client = client_of(store)
    store.create("one", demo.raw, NOON)

    def edit(k: int) -> int:
        seen = client.get("/api/designs/one/draft").headers["etag"]
        patch = [{"op": "add", "path": "/devices/6/lags/0/tagged", "value": [10, 20 + 10 * (k % 3)]}]
        headers = {"If-Match": seen, "Content-Type": "application/json-patch+json"}
        return client.patch("/api/designs/one/draft", json=patch, headers=headers).status_code

    with ThreadPoolExecutor(16) as pool:
        edits = [pool.submit(edit, k) for k in range(6)]
        asked = [pool.submit(client.get, f"/api/designs/one/views/{v}") for v in VIEWS * 6]
        assert {f.result(120).status_code for f in asked} == {200}
        assert {f.result(120) for f in edits} <= {200, 412}
        assert 200 in {f.result() for f in edits}
    alone = Climb(store.draft("one").design)
    shown = client.get("/api/designs/one/views/climb").json()
    assert [f["sentence"] for f in shown["findings"]] == [f.sentence for f in alone.findings]
