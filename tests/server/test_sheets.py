"""From the design to the floor over HTTP: a build sheet kept and ticked, a test sheet worked out, answered, explained; a migration."""

from __future__ import annotations

import json
import time
from datetime import UTC, datetime
from typing import Any

import pytest

from anabasis.store import Store
from tests.conftest import client_of
from tests.server.test_making import edit
from tests.sound import sound_site

SMALL = json.loads(json.dumps(sound_site(3)))


def opened(store: Store) -> Any:
    """Return a client of a small sound site."""
    store.create("small", SMALL, datetime.now(UTC))
    return client_of(store, "Oda", owner=True)


def draft_tag(client: Any) -> str:
    """Return the tag of the draft as it is."""
    return str(client.get("/api/designs/small/draft").headers["etag"])


def worked_out(client: Any) -> Any:
    """Wait for the test sheet."""
    for _ in range(6000):
        found = client.get("/api/designs/small/draft/tests").json()
        if found["state"] != "running":
            assert found["state"] == "ended"
            return found
        time.sleep(0.1)
    raise AssertionError("it never ends")


def test_a_build_sheet_is_kept_and_ticked(store: Store) -> None:
    """From nothing, from what was published; numbered, ticked with who and when, the later mark counts; what is none is refused whole."""
    client = opened(store)
    whole = client.get("/api/designs/small/draft/build?since=nothing").json()
    assert whole["since"] == "nothing"
    assert not whole["live"]
    assert [s["step"] for s in whole["steps"]] == list(range(1, len(whole["steps"]) + 1))
    client.post("/api/designs/small/revisions", json={"reason": "as built"}, headers={"If-Match": draft_tag(client)})
    assert client.get("/api/designs/small/draft/build").json()["steps"] == []
    d = next(k for k, x in enumerate(SMALL["devices"]) if x["kind"] == "firewall")
    edit(client, "small", "preview", [{"op": "add", "path": f"/devices/{d}/between_zones", "value": "permit"}])
    kept = client.post("/api/designs/small/sheets", json={"kind": "build"})
    assert kept.status_code == 201, kept.text
    sheet = kept.json()
    assert sheet["about"]["since"] == "revision 1"
    assert sheet["same_draft"]
    first = sheet["lines"][0]["id"]
    done = client.post(
        "/api/designs/small/sheets/1/marks", json=[{"line": first, "value": "done", "note": "by the stairs"}]
    ).json()
    assert done["marks"][first]["who"] == "Oda"
    old = "2020-01-01T10:00:00+00:00"
    again = client.post(
        "/api/designs/small/sheets/1/marks", json=[{"line": first, "value": "", "note": "", "at": old}]
    ).json()
    assert again["marks"][first]["note"] == "by the stairs"  # it was written down before
    wrong = client.post(
        "/api/designs/small/sheets/1/marks", json=[{"line": first, "value": ""}, {"line": "99", "value": "done"}]
    )
    assert wrong.status_code == 422
    assert "no such line" in wrong.text
    assert client.get("/api/designs/small/sheets/1").json()["marks"][first]["value"] == "done"
    (head,) = client.get("/api/designs/small/sheets").json()
    assert (head["kind"], head["marked"], head["who"]) == ("build", 1, "Oda")
    assert client.get("/api/designs/small/sheets/2").status_code == 404
    assert client.get("/api/designs/small/draft/build?since=later").status_code == 422


@pytest.mark.slow
def test_a_test_sheet_is_answered_and_explained(store: Store) -> None:
    """Worked out in the background, kept, answered as a site with one fault answers; the fault is named, mended, and the old results are stale."""
    client = opened(store)
    assert client.post("/api/designs/small/sheets", json={"kind": "test"}).status_code == 404
    found = worked_out(client)
    assert found["tests"]
    assert found["faults"] > len(found["unseen"])
    sheet = client.post("/api/designs/small/sheets", json={"kind": "test"}).json()
    csv = client.get("/api/designs/small/sheets/1/results.csv").text
    assert csv.count("\r\n") == len(sheet["lines"]) + 1
    pulled = next(r for r in sheet["lines"] if r["do"] == "ping" and r["expect"] == "answer")
    others = [{"line": r["id"], "value": r["expect"]} for r in sheet["lines"] if r["id"] != pulled["id"]]
    answered = client.post("/api/designs/small/sheets/1/marks", json=[*others, {"line": pulled["id"], "value": "none"}])
    assert answered.status_code == 200, answered.text
    assert answered.json()["wrong"] == [pulled["id"]]
    told = client.get("/api/designs/small/sheets/1/diagnosis").json()
    assert told["explanations"][0]["of"] == len(sheet["lines"])
    assert told["explanations"][0]["explains"] >= len(sheet["lines"]) - 1
    proved = client.get("/api/designs/small/sheets/proved").json()
    assert proved["number"] == 1
    assert proved["proved"]
    assert proved["pairs"] >= len(proved["proved"])
    bad = client.post("/api/designs/small/sheets/1/marks", json=[{"line": pulled["id"], "value": "perhaps"}])
    assert bad.status_code == 422
    read = client.post("/api/designs/small/sheets/1/results", json={"text": csv.replace("\r\n", "\r\n", 1)})
    assert read.status_code == 200, read.text
    edit(client, "small", "preview", [{"op": "add", "path": "/note", "value": "later"}])
    after = client.get("/api/designs/small/sheets/1").json()
    assert not after["same_draft"]


def test_a_migration_is_previewed(store: Store) -> None:
    """With its consequences and its steps; a plan that cannot be is refused with the place."""
    client = opened(store)
    subnet = next(s for v in SMALL["vlans"] for s in v.get("subnets", []) if s.endswith("/24"))
    house = ".".join(subnet.split(".")[:2])
    found = client.post(
        "/api/designs/small/draft/migrate", json={"kind": "renumber", "subnet": subnet, "to": f"{house}.251.0/24"}
    )
    assert found.status_code == 200, found.text
    assert found.json()["preview"]["patch"]
    assert found.json()["build"]["steps"]
    wrong = client.post("/api/designs/small/draft/migrate", json={"kind": "renumbered"})
    assert wrong.status_code == 422
    assert "renumber" in wrong.text


def test_an_edit_that_cuts_the_operator_off_is_told(store: Store) -> None:
    """Which boxes can no longer be run from where the operator sits."""
    from tests.building.test_build_sheet import chain

    store.create("row", chain(10), datetime.now(UTC))
    client = client_of(store, "Oda", owner=True)
    patch = [
        {"op": "replace", "path": "/devices/0/ports/1/untagged", "value": []},
        {"op": "replace", "path": "/devices/0/ports/1/tagged", "value": [20]},
    ]
    told = client.post(
        "/api/designs/row/draft/preview", json=patch, headers={"content-type": "application/json-patch+json"}
    )
    assert told.status_code == 200, told.text
    assert told.json()["consequences"]["cut_off"] == ["far"]
