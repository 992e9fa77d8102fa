"""HTTP for failover: pairs, events, the drill sheet, sweeps in the background; and the map of a large matrix."""

from __future__ import annotations

import os
import signal
import time
from time import monotonic

import pytest
from fastapi.testclient import TestClient

from anabasis.design import Loaded
from anabasis.store import Store
from tests.conftest import NOON, client_of
from tests.processes import multiprocessing_children
from tests.server.test_turns import state_of

AT, VIEWS = "/api/designs/d/failover", "/api/designs/d/views"


@pytest.fixture
def client(store: Store, demo: Loaded) -> TestClient:
    """Return a client of an application that holds the demo as design `d`."""
    store.create("d", demo.raw, NOON)
    return client_of(store)


def test_pairs_and_events(client: TestClient) -> None:
    """The pair, an event by what failed, one by who was active, and the nearest name where a part is none."""
    pair = client.get(f"{AT}/pairs").json()[0]
    assert [u["name"] for u in pair["units"]] == ["gate-a", "gate-b"]
    event = client.get(f"{AT}/event", params={"failed": ["gate-a"]}).json()
    assert event["standings"][0]["election"]["active"] == ["gate-b"]
    assert [m["what"] for m in event["moments"]] == ["fault", "taken over"]
    back = client.get(f"{AT}/event", params={"active": ["gate-b"]}).json()
    assert back["standings"][0]["election"]["active"] == ["gate-b"]
    for query, hint in (({"failed": ["gate-c"]}, "did you mean"), ({"active": ["gate-z"]}, "gate-a")):
        wrong = client.get(f"{AT}/event", params=query)
        assert wrong.status_code in (404, 422)
        assert hint in wrong.text


def test_the_drill_sheet(client: TestClient) -> None:
    """By the pair's name; another name is refused with the one there is."""
    assert client.get(f"{AT}/drill", params={"pair": "gate"}).json()["steps"][0]["active"] == ["gate-b"]
    assert "gate" in client.get(f"{AT}/drill", params={"pair": "gat"}).text


def test_a_sweep_goes_on_and_ends(client: TestClient) -> None:
    """None yet: 404. Begun, asked after until it has ended: every part, the worst first. Begun again: the same one. Stopped: it says so."""
    assert client.get(f"{AT}/sweep").status_code == 404
    assert client.post(f"{AT}/sweep", params={"depth": 1}).json()["state"] == "running"
    for _ in range(600):
        sweep = client.get(f"{AT}/sweep").json()
        if sweep["state"] != "running":
            break
        time.sleep(0.2)
    assert sweep["state"] == "ended"
    assert sweep["done"] == sweep["total"] > 30
    assert sweep["failures"][0]["event"]["moments"][-1]["broken"]
    assert client.post(f"{AT}/sweep", params={"depth": 1}).json()["state"] == "ended"
    client.post(f"{AT}/sweep", params={"depth": 2})
    client.delete(f"{AT}/sweep")
    for _ in range(600):
        if client.get(f"{AT}/sweep").json()["state"] == "stopped":
            return
        time.sleep(0.2)
    raise AssertionError("the sweep did not stop")


def test_a_sweep_belongs_to_who_began_it(client: TestClient, store: Store) -> None:
    """Readers begin none; nobody stops, or takes the place of, another's of the design as it is; all may look."""
    edda, reader = (client_of(store, name, owner=False) for name in ("Edda", "Jorun"))
    for name, role in (("Edda", "edit"), ("Jorun", "read")):
        client.put("/api/designs/d/roles", json={"name": name, "role": role})
    assert reader.post(f"{AT}/sweep").status_code == 403
    begun = edda.post(f"{AT}/sweep", params={"depth": 2})
    assert begun.json()["by"] == "Edda"
    for other in (client, reader):
        state_of(other).sweeps = state_of(edda).sweeps  # one server
        assert other.delete(f"{AT}/sweep").status_code == 403
        assert other.get(f"{AT}/sweep").json()["state"] == "running"
    assert client.post(f"{AT}/sweep", params={"depth": 1}).status_code == 403
    assert client.post(f"{AT}/sweep", params={"depth": 2}).json()["by"] == "Edda", "the same one is looked at together"
    assert edda.delete(f"{AT}/sweep").status_code == 200


def test_a_sweep_whose_worker_dies_has_failed(client: TestClient) -> None:
    """It does not run for ever, and can be begun again."""
    client.post(f"{AT}/sweep", params={"depth": 2})
    deadline = monotonic() + 180
    while not client.get(f"{AT}/sweep").json()["done"]:  # both workers are at work
        assert monotonic() < deadline
        time.sleep(0.1)
    workers = multiprocessing_children()
    assert workers
    for worker in workers:
        os.kill(worker, signal.SIGKILL)
    while client.get(f"{AT}/sweep").json()["state"] == "running":
        assert monotonic() < deadline
        time.sleep(0.1)
    assert client.get(f"{AT}/sweep").json()["state"] == "failed"
    again = client.post(f"{AT}/sweep", params={"depth": 2})
    assert again.json()["state"] == "running"
    client.delete(f"{AT}/sweep")


def test_the_map_and_its_tiles(client: TestClient) -> None:
    """Letters for every pair, a tile for what they leave open, groups folded on demand; what boxes answer stands apart."""
    found = client.get(f"{VIEWS}/matrix-map", params={"group": "device", "order": "like"}).json()
    names = [u["name"] for u in found["axis"]]
    assert len(found["rows"]) == len(names)
    tile = client.post(f"{VIEWS}/matrix-tile", json={"sources": names, "targets": names}).json()
    assert len(tile) == sum(row.count("u") for row in found["rows"])
    folded = client.get(f"{VIEWS}/matrix-map", params={"fold": ["house", "water"]}).json()
    assert {u["name"] for u in folded["axis"] if u["folded"]} == {"house", "water"}
    assert client.post(f"{VIEWS}/matrix-tile", json={"sources": ["x"] * 65, "targets": []}).status_code == 422
    own = client.get(f"{VIEWS}/own-addresses").json()
    assert {c["address"] for c in own["columns"]} >= {"10.64.130.1", "10.64.160.1"}
