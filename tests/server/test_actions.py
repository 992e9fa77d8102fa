"""HTTP for actions at layer 2: previews, a new VLAN, a VLAN taken out, the cabling, plugging in."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from anabasis.design import Loaded
from anabasis.store import Store
from tests.conftest import NOON, client_of

RAYS = {
    "id": 125,
    "name": "ray-pool",
    "subnet": "10.64.125.0/24",
    "uplinks": ["tank-sw:to-gate-a"],
    "ports": ["tank-sw:2"],
    "gateway": "gate:tank",
    "zone": "water",
}


@pytest.fixture
def client(store: Store, demo: Loaded) -> TestClient:
    """Return a client of an application that holds the demo as design `d`."""
    store.create("d", demo.raw, NOON)
    return client_of(store)


def version(client: TestClient) -> int:
    """Return the draft's version."""
    return int(client.get("/api/designs/d/draft").json()["version"])


def make(client: TestClient, patch: Any) -> Any:
    """Send a previewed edit."""
    headers = {"Content-Type": "application/json-patch+json", "If-Match": f'"{version(client)}"'}
    return client.patch("/api/designs/d/draft", json=patch, headers=headers)


def test_a_preview_says_what_the_edit_then_does(client: TestClient) -> None:
    """Same consequences, and nothing is stored by asking."""
    patch = [{"op": "add", "path": "/devices/4/rules/2/enabled", "value": False}]
    headers = {"Content-Type": "application/json-patch+json"}
    asked = client.post("/api/designs/d/draft/preview", json=patch, headers=headers).json()
    assert version(client) == 1
    assert make(client, patch).json()["consequences"] == asked["consequences"]
    bad = client.post("/api/designs/d/draft/preview", json=[{"op": "remove", "path": "/nope"}], headers=headers)
    assert bad.status_code == 422


def test_a_new_vlan_previewed_and_made(client: TestClient) -> None:
    """The patch of the preview is the edit; the segment is there afterwards, and undo takes all of it back."""
    asked = client.post("/api/designs/d/draft/new-vlan", json=RAYS)
    assert asked.status_code == 200
    assert {c["target"] for c in asked.json()["consequences"]["changed"]} >= {"tank-sensors"}
    assert make(client, asked.json()["patch"]).status_code == 200
    rows = client.get("/api/designs/d/views/grid").json()["rows"]
    assert next(r for r in rows if r["vlan"] == 125)["state"] == "whole"
    before = client.get("/api/designs/d/draft").json()
    client.post("/api/designs/d/draft/undo", headers={"If-Match": f'"{before["version"]}"'})
    assert "ray-pool" not in client.get("/api/designs/d/file").text


@pytest.mark.parametrize(
    ("change", "status", "said"),
    [
        ({"id": 110}, 422, "given twice"),
        ({"subnet": "10.64.125.7/24"}, 422, "host bits"),
        ({"uplinks": ["tank-sw:up"]}, 404, "no port of this name"),
        ({"gateway": "gat:tank"}, 404, "did you mean 'gate'"),
        ({"zone": "watr"}, 422, "did you mean 'water'"),
    ],
)
def test_a_new_vlan_that_cannot_be(client: TestClient, change: dict[str, Any], status: int, said: str) -> None:
    """Refused with the place and the nearest name, before anything is made."""
    answer = client.post("/api/designs/d/draft/new-vlan", json=RAYS | change)
    assert (answer.status_code, said in answer.json()["detail"]) == (status, True), answer.text


def test_the_subnet_by_the_sites_pattern(client: TestClient) -> None:
    """Or null where the pattern gives none."""
    base = "/api/designs/d/draft/new-vlan"
    assert client.get(f"{base}/125/subnet").json() == "10.64.125.0/24"
    assert client.get(f"{base}/130/subnet").json() is None


def test_a_vlan_taken_out(client: TestClient) -> None:
    """Everything that named it has lost it, leases included."""
    asked = client.post("/api/designs/d/draft/remove-vlan/130").json()
    assert any("internet" in c["target"] for c in asked["consequences"]["closed"])
    assert make(client, asked["patch"]).status_code == 200
    assert "hall.130" not in client.get("/api/designs/d/file").text


def test_cabling_and_plug(client: TestClient) -> None:
    """The drawing's data, and what a laptop finds."""
    drawing = client.get("/api/designs/d/views/cabling").json()
    assert {b["name"] for b in drawing["boxes"]} >= {"gate-a", "gate-b", "hall-sw"}
    found = client.get("/api/designs/d/views/plug", params={"place": "hall-sw:2", "tag": 180}).json()
    assert (found["segment"], found["address"]) == ("intercom", "10.64.180.20")
    wrong = client.get("/api/designs/d/views/plug", params={"place": "hall:2"})
    assert (wrong.status_code, "did you mean" in wrong.json()["detail"]) == (404, True)
    assert client.get("/api/designs/d/views/plug", params={"place": "hall-sw:2", "tag": 5000}).status_code == 422


def test_a_mode_is_switched_by_its_preview(client: TestClient) -> None:
    """What goes and what is missing is said; sending the patch does it."""
    body = {"device": "gate", "port": "12", "mode": "off"}
    asked = client.post("/api/designs/d/draft/switch-mode", json=body).json()
    assert "inline pair chiller-line (13 is left without another end)" in asked["drops"]
    assert any("life-support" in c["source"] for c in asked["consequences"]["closed"])
    assert make(client, asked["patch"]).json()["consequences"] == asked["consequences"]


def test_a_short_form_is_previewed_with_its_findings(client: TestClient) -> None:
    """An uplink made an access port breaks things, and the preview says which."""
    body = {"device": "tank-sw", "ports": "across", "form": "access", "vlan": 190}
    asked = client.post("/api/designs/d/draft/short-form", json=body).json()
    assert any("VLAN 130 has fallen into" in sentence for sentence in asked["come"])
    assert asked["gone"] == []


def test_a_what_if_changes_nothing(client: TestClient) -> None:
    """Both units gone, and all that crosses the firewall is lost; the draft stays as it is."""
    lost = client.get("/api/designs/d/views/what-if", params={"failed": ["gate-a", "gate-b"]}).json()
    assert {"source": "keepers", "target": "internet"}.items() <= next(
        c for c in lost["closed"] if (c["source"], c["target"]) == ("keepers", "internet")
    ).items()
    assert version(client) == 1
    wrong = client.get("/api/designs/d/views/cabling", params={"failed": "gate-x"})
    assert wrong.status_code == 404
    assert "gate-" in wrong.text
    ends = client.get("/api/designs/d/views/ends").json()
    assert ends
    assert all(e["differences"] == [] for e in ends)


def test_a_design_file_is_taken_as_json_or_yaml(client: TestClient) -> None:
    """Whatever the body says it is; bytes that are no text are refused."""
    small = {"anabasis": 1, "name": "Small"}
    assert client.post("/api/designs", json=small).status_code == 201
    assert client.post("/api/designs", content=b"anabasis: 1\nname: S").status_code == 201
    refused = client.post("/api/designs", content=b"\xff\xfe")
    assert refused.status_code == 422
    assert "UTF-8" in refused.text
