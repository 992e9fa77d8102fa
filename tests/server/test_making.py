"""Designs begun, copied, removed and brought back over HTTP; things made by forms, with their consequences before."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from anabasis.store import Store
from tests.conftest import NOON, client_of


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


OFFICE: list[tuple[str, dict[str, Any], dict[str, Any], str]] = [
    (
        "make",
        {"kind": "vlan", "at": "", "value": {"id": 77, "name": "kelp"}},
        {"kind": "vlam", "at": "", "value": {}},
        "vlan",
    ),
    ("new-device", {"kind": "hub", "name": "star", "ports": "1-4"}, {"kind": "switch", "name": "office-sw", "ports": "4-1"}, "4-1"),
    ("new-ports", {"device": "office-sw", "ports": "90-92"}, {"device": "ofice-sw", "ports": "90"}, "office-sw"),
    ("new-host", {"name": "mate", "at": "office-sw:9", "vlan": None, "address": None}, {"name": "mate", "at": "ofice-sw:9"}, "office-sw"),
    ("new-cables", {"one": "office-sw:9", "two": "front:9"}, {"one": "office-sw:9-10", "two": "front:9"}, "as many ports"),
    ("vlan-list", {"text": "71 kelp 10.20.71.0/24"}, {"text": "71 kelp\nmud"}, "names no VLAN"),
    ("make-pair", {"device": "front", "first": "front-a", "second": "front-b"}, {"device": "frond"}, "front"),
]  # fmt: skip


@pytest.fixture(scope="module")
def office() -> dict[str, Any]:
    """Return a design of known names: a firewall, a switch and two cabled ports."""
    return {
        "anabasis": 1,
        "name": "Boat house",
        "vlans": [{"id": 10, "name": "crew", "subnets": ["10.20.10.0/24"]}],
        "devices": [
            {
                "name": "front",
                "kind": "firewall",
                "zones": [{"name": "crew"}],
                "ports": [
                    {"name": "1", "mode": "routed", "addresses": ["10.20.10.1/24"], "zone": "crew"},
                    {"name": "7"},
                    {"name": "8"},
                    {"name": "9"},
                ],
            },
            {
                "name": "office-sw",
                "kind": "switch",
                "ports": [{"name": "1", "pvid": 10, "untagged": [10]}, {"name": "9"}, {"name": "10"}],
            },
        ],
        "cables": [["front:1", "office-sw:1"]],
    }


@pytest.mark.parametrize(("path", "good", "bad", "said"), OFFICE, ids=[row[0] for row in OFFICE])
def test_a_look_changes_nothing_and_a_refusal_says_where(
    store: Store, office: dict[str, Any], path: str, good: dict[str, Any], bad: dict[str, Any], said: str
) -> None:
    """Every job: previewed without an edit, refused with what is allowed or nearest, done in one edit and undone in one."""
    store.create("office", office, NOON)
    client = client_of(store)
    before = client.get("/api/designs/office/draft").json()
    refused = client.post(f"/api/designs/office/draft/{path}", json=bad)
    assert refused.status_code in (404, 422), refused.text
    assert said in refused.text
    looked = client.post(f"/api/designs/office/draft/{path}", json=good)
    assert looked.status_code == 200, looked.text
    assert looked.json()["words"]
    assert client.get("/api/designs/office/draft").json() == before
    edit(client, "office", path, good)
    after = client.get("/api/designs/office/draft").json()
    assert (after["version"], after["document"] != before["document"]) == (before["version"] + 1, True)
    undone = client.post("/api/designs/office/draft/undo", headers={"If-Match": f'"{after["version"]}"'})
    assert undone.status_code == 200, undone.text
    assert client.get("/api/designs/office/draft").json()["document"] == before["document"]
