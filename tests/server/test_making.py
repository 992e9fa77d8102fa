"""Designs begun, copied, removed and brought back over HTTP; things made by forms, with their consequences before."""

from __future__ import annotations

from typing import Any

from fastapi.testclient import TestClient

from anabasis.store import Store
from tests.conftest import client_of


def begun(client: TestClient, **wanted: Any) -> str:
    """Return the id of a design that was begun."""
    answer = client.post("/api/designs/new", json=wanted)
    assert answer.status_code == 201, answer.text
    return str(answer.json()["id"])


def edit(client: TestClient, design: str, path: str, wanted: dict[str, Any]) -> dict[str, Any]:
    """Preview an edit and make it; return the preview."""
    preview = client.post(f"/api/designs/{design}/draft/{path}", json=wanted)
    assert preview.status_code == 200, preview.text
    told: dict[str, Any] = preview.json()
    seen = client.get(f"/api/designs/{design}/draft").headers["etag"]
    headers = {"If-Match": seen, "Content-Type": "application/json-patch+json"}
    done = client.patch(f"/api/designs/{design}/draft", json=told["patch"], headers=headers)
    assert done.status_code == 200, done.text
    return told


def test_a_design_begins_empty_from_a_start_or_as_a_copy(store: Store) -> None:
    """Whoever begins it may administer it; a copy is a design of its own."""
    client = client_of(store, "Finn", owner=False)
    starts = [s["id"] for s in client.get("/api/starts").json()]
    assert starts == ["plant-floor", "small-office", "two-switches-and-a-pair"]
    empty = begun(client, name="Boat house")
    office = begun(client, name="Harbour office", start="small-office")
    copy = begun(client, name="Harbour office, moved", copy_of=office)
    listed = {d["id"]: d for d in client.get("/api/designs").json()}
    assert {d["role"] for d in listed.values()} == {"administer"}
    draft = client.get(f"/api/designs/{copy}/draft").json()
    assert (draft["name"], draft["document"]["devices"][0]["name"]) == ("Harbour office, moved", "internet")
    assert client.get(f"/api/designs/{empty}/draft").json()["document"] == {"anabasis": 1, "name": "Boat house"}
    wrong = client.post("/api/designs/new", json={"name": "x", "start": "small-offise"})
    assert (wrong.status_code, "small-office" in wrong.json()["detail"]) == (422, True)
    assert client.post("/api/designs/new", json={"name": ""}).status_code == 422


def test_removed_and_brought_back(store: Store) -> None:
    """Gone from the list and for every question, and whole again afterwards; by whoever may administer it."""
    client, other = client_of(store, "Finn", owner=False), client_of(store, "Ines", owner=False)
    design = begun(client, name="Boat house", start="small-office")
    assert client.delete(f"/api/designs/{design}").status_code == 204
    assert client.get(f"/api/designs/{design}/draft").status_code == 404
    assert [d["id"] for d in client.get("/api/removed-designs").json()] == [design]
    assert other.get("/api/removed-designs").json() == []
    back = f"/api/removed-designs/{design}/bring-back"
    assert other.post(back).status_code == 404
    assert client.post(back).status_code == 204
    assert client.get(f"/api/designs/{design}/draft").json()["name"] == "Boat house"


def test_a_design_is_renamed(store: Store) -> None:
    """As any thing is, by the pointer of the whole."""
    client = client_of(store)
    design = begun(client, name="Boat house")
    edit(client, design, "rename", {"pointer": "", "name": "Boathouse"})
    assert client.get("/api/designs").json()[0]["name"] == "Boathouse"


def test_a_box_a_cable_and_a_host_are_made(store: Store) -> None:
    """Each previewed in words, with what it brings; a proposal comes before a thing is made."""
    client = client_of(store)
    design = begun(client, name="Boat house")
    told = edit(client, design, "new-device", {"kind": "switch", "name": "quay", "ports": "1-8"})
    assert [(w["sign"], w["kind"], w["title"]) for w in told["words"]] == [("added", "Switch", "quay")]
    fresh = client.get(f"/api/designs/{design}/draft/fresh", params={"kind": "vlan", "at": ""}).json()
    edit(client, design, "make", {"kind": "vlan", "at": "", "value": fresh["value"] | {"name": "crew"}})
    edit(client, design, "new-host", {"name": "mate", "at": "quay:1", "vlan": 10, "address": "10.9.10.5/24"})
    edit(client, design, "new-device", {"kind": "switch", "name": "shed", "ports": "1-8"})
    edit(client, design, "new-cables", {"one": "quay:8", "two": "shed:8"})
    item = client.get(f"/api/designs/{design}/views/item", params={"pointer": "/devices/0/ports/7"}).json()
    assert (item["model"], item["value"]["tagged"]) == ("Port", [10])
    picks = client.get(f"/api/designs/{design}/draft/choices", params={"ref": "vlan"}).json()
    assert picks == [{"value": 10, "label": "crew"}]
    refused = client.post(f"/api/designs/{design}/draft/new-cables", json={"one": "quay:1", "two": "shed:1-2"})
    assert (refused.status_code, "as many ports" in refused.json()["detail"]) == (422, True)


def test_forms_are_told_once(store: Store) -> None:
    """The same for every design: fields of each model, and what can be made where."""
    forms = client_of(store).get("/api/forms").json()
    assert {"Port", "Rule", "Failover"} <= forms["models"].keys()
    assert {m["kind"] for m in forms["makes"]} >= {"vlan", "rule", "lease"}
