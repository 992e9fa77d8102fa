"""Surveys over HTTP: asked in the background, kept with the design, held against the draft, taken over, decided about, compared."""

from __future__ import annotations

import time
from datetime import UTC, datetime
from typing import Any

import pytest

from anabasis.standin import Manner, spoil
from anabasis.store import Store, Surveys
from tests.conftest import client_of
from tests.server.test_making import edit
from tests.survey.standing import DEMO, standing

SOME = ("hall-sw", "tank-sw", "gate-a", "desk-7")


def surveyed(client: Any, targets: list[str]) -> Any:
    """Ask, wait, and return what came of it."""
    wanted = {"targets": targets, "user": "anybody", "password": "by hand", "community": "public"}
    begun = client.post("/api/designs/tidewrack/surveys", json=wanted)
    assert begun.status_code == 202, begun.text
    assert "by hand" not in begun.text
    for _ in range(600):
        going = client.get("/api/designs/tidewrack/surveys/running").json()
        if going["state"] != "running":
            assert going["state"] == "ended"
            return going
        time.sleep(0.1)
    raise AssertionError("it never ends")


@pytest.mark.slow
def test_a_site_is_asked_and_taken_over(store: Store) -> None:
    """Nine things differ; each is weighed; the design is right about one, the site about the others; then nothing is left but that one."""
    store.create("tidewrack", DEMO, datetime.now(UTC))
    client = client_of(store, "Oda", owner=True)
    spoiled, _ = spoil(DEMO, 9, 1)
    with standing({"desk-7": Manner.SILENT}, tree=spoiled, only=SOME) as boxes:
        targets = [f"127.0.0.1:{b.port}" for b in boxes]
        going = surveyed(client, targets)
        assert (going["asked"], going["number"]) == (4, 1)
        found = client.get("/api/designs/tidewrack/surveys/1").json()
        assert [a["why"] for a in found["answers"] if a["why"]] == ["no answer in time, by either protocol"]
        rows = {d["place"]: d for d in found["differences"]}
        assert rows["bundle hall, tag 130, its addresses"]["site"] == "10.64.130.1/28, fd64:0:0:130::1/64"
        weighed = {w["key"]: w for w in client.get("/api/designs/tidewrack/surveys/1/weighed").json()}
        assert set(weighed) == {d["key"] for d in found["differences"] if d["writable"]}
        rule = rows["rule tills-out, switched on"]
        assert weighed[rule["key"]]["closed"] > 0
        kept = client.post("/api/designs/tidewrack/surveys/1/decide", json={"keys": [rule["key"]]}).json()
        assert [d["decided"] for d in kept["differences"] if d["key"] == rule["key"]] == ["Oda"]
        others = [d["key"] for d in found["differences"] if d["key"] != rule["key"]]
        preview = client.post("/api/designs/tidewrack/surveys/1/take-over", json={"keys": others}).json()
        assert preview["consequences"]["closed"]
        edit(client, "tidewrack", "preview", preview["patch"])
        left = client.get("/api/designs/tidewrack/surveys/1").json()["differences"]
        assert [d["key"] for d in left] == [rule["key"]]
        back = client.post(
            "/api/designs/tidewrack/surveys/1/decide", json={"keys": [rule["key"]], "right": False}
        ).json()
        assert [d["decided"] for d in back["differences"]] == [None]
    with standing({}, only=SOME) as boxes:
        surveyed(client, [f"127.0.0.1:{b.port}" for b in boxes])
    listed = client.get("/api/designs/tidewrack/surveys").json()
    assert [(s["number"], s["asked"], s["answered"], s["who"]) for s in listed] == [(2, 4, 4, "Oda"), (1, 4, 3, "Oda")]
    since = client.get("/api/designs/tidewrack/surveys/2/since/1").json()
    assert {"rule tills-out, switched on", "bundle hall, tag 130, its addresses"} <= {d["place"] for d in since}
    log = client.get("/api/designs/tidewrack/log").json()
    assert [d["detail"] for d in log if d["what"] == "surveyed"] == [
        "survey 2: 4 of 4 boxes answered",
        "survey 1: 3 of 4 boxes answered",
    ]
    assert "by hand" not in str(Surveys(store.engine).get("tidewrack", 1))


def test_who_may_ask(store: Store) -> None:
    """Nobody who only reads; nobody of whom nothing can be asked; one survey at a time is another's to wait for."""
    store.create("tidewrack", DEMO, datetime.now(UTC))
    client = client_of(store, "Oda", owner=True)
    assert client.get("/api/designs/tidewrack/surveys").json() == []
    assert client.get("/api/designs/tidewrack/surveys/running").status_code == 404
    assert client.get("/api/designs/tidewrack/surveys/1").status_code == 404
    wrong = client.post("/api/designs/tidewrack/surveys", json={"targets": ["not a host"]})
    assert (wrong.status_code, "HOST:PORT" in wrong.json()["detail"]) == (422, True)
    assert client.post("/api/designs/tidewrack/surveys", json={"targets": []}).status_code == 422
    assert client.post("/api/designs/nothing/surveys", json={"targets": ["127.0.0.1:9"]}).status_code == 404
    reader = client_of(store, "Rhea", owner=False)
    assert reader.post("/api/designs/tidewrack/surveys", json={"targets": ["127.0.0.1:9"]}).status_code in (403, 404)


def test_yang_data_are_taken_out(store: Store) -> None:
    """Of the whole draft, and of one box."""
    store.create("tidewrack", DEMO, datetime.now(UTC))
    client = client_of(store, "Oda", owner=True)
    whole = client.get("/api/designs/tidewrack/draft/yang.json")
    assert whole.headers["content-type"].startswith("application/yang-data+json")
    assert len(
        whole.json()["ietf-yang-instance-data:instance-data-set"]["content-data"]["anabasis-site:site"]["device"]
    ) == len(DEMO["devices"])
    one = client.get("/api/designs/tidewrack/draft/yang.json", params={"device": "gate"}).json()
    assert "anabasis-site:firewall" in one["ietf-yang-instance-data:instance-data-set"]["content-data"]
    assert client.get("/api/designs/tidewrack/draft/yang.json", params={"device": "gat"}).status_code == 422
