"""Campaigns over HTTP: begun, gone on with after the server was lost, put on stage; and the depth of closed expectations."""

from __future__ import annotations

import csv
import io
import json
import time
from datetime import UTC, datetime
from typing import Any

import pytest
from fastapi.testclient import TestClient

from anabasis.campaign import cases_of, read_row
from anabasis.campaign.judging import Judge
from anabasis.store import Campaigns, Case, Store, Subject
from tests.campaign.test_defence import fort, hermitage
from tests.conftest import NOON, client_of
from tests.server.test_making import edit

AT = datetime.now(UTC)


def ended(client: TestClient, where: str) -> Any:
    """Return what a background search or campaign came to."""
    for _ in range(1800):
        found = client.get(where).json()
        if found.get("head", found)["state"] != "running":
            return found
        time.sleep(0.1)
    raise AssertionError("it does not end")


@pytest.mark.slow
def test_a_campaign_of_a_draft_and_a_revision(store: Store) -> None:
    """Every case of both, the worst first, as one judges them by hand; parts that matter; the table; and a case put on stage."""
    client = client_of(store)
    tree = fort(1)
    ask = {"name": "ask", "from": ["out"], "to": ["in"], "services": ["udp/53"], "action": "permit"}
    tree["devices"][0]["rules"] = [ask]
    tree["expectations"][0]["services"] = ["tcp/445"]
    names = {"name": "names", "from": "10.1.10.7", "to": "10.1.20.7", "services": ["udp/53"], "expect": "open"}
    tree["expectations"].append(names)
    store.create("fort", tree, AT)
    draft = client.get("/api/designs/fort/draft")
    published = client.post(
        "/api/designs/fort/revisions",
        json={"reason": "first"},
        headers={"If-Match": draft.headers["ETag"]},
    )
    assert published.status_code == 201, published.text
    edit(client, "fort", "preview", [{"op": "replace", "path": "/name", "value": "Fort Two"}])  # type: ignore[arg-type]
    about = [{"design": "fort"}, {"design": "fort", "revision": 1}]
    begun = client.post("/api/campaigns", json={"about": about, "failures": 2})
    assert begun.status_code == 202, begun.text
    number = begun.json()["id"]
    found = ended(client, f"/api/campaigns/{number}")
    head = found["head"]
    assert (head["state"], head["done"]) == ("ended", head["total"])
    assert [s["revision"] for s in head["about"]] == [None, 1]
    now = store.draft("fort").tree
    judge = Judge(now)
    by_hand = {r.key: r for c in cases_of("x", now, failures=2) for r in [judge.judge(c)]}
    assert found["judged"] == 2 * len(by_hand)
    assert found["harmful"] == 2 * sum(any(r.harm) for r in by_hand.values())
    assert found["opening"] == 2 * sum(bool(r.opened) for r in by_hand.values()) > 0
    worst = found["worst"]
    harms = [(len(w["opened"]), len(w["closed"]), w["lost"], w["meanwhile"]) for w in worst]
    assert harms == sorted(harms, reverse=True)
    assert harms[0][0] == 1
    assert found["harm"]["single_points"] == sum(any(m["alone"][:3]) for m in found["harm"]["parts"])
    table = list(csv.DictReader(io.StringIO(client.get(f"/api/campaigns/{number}/rows.csv").text)))
    assert len(table) == found["judged"]
    opening = next(w for w in worst if w["mistakes"] and w["design"].startswith("Fort Two"))
    stage = client.post(f"/api/campaigns/{number}/stage", json={"key": opening["key"]}).json()
    assert stage["design"] != "fort"
    kept = client.get(f"/api/designs/{stage['design']}/views/expectations").json()["expectations"]
    assert not next(e for e in kept if e["name"] == "no way down")["holds"]
    failing = next(w for w in worst if w["failed"] and not w["mistakes"] and w["design"].startswith("Fort Two"))
    assert client.post(f"/api/campaigns/{number}/stage", json={"key": failing["key"]}).json() == {
        "design": "fort",
        "failed": failing["failed"],
    }
    assert client.post(f"/api/campaigns/{number}/stage", json={"key": "nonsense"}).status_code == 404
    assert client.delete(f"/api/campaigns/{number}").status_code == 204
    assert client.get("/api/campaigns").json() == []


@pytest.mark.slow
def test_a_campaign_goes_on_with_another_server(store: Store) -> None:
    """Half of it kept when the server was lost: it is told as stopped; gone on with it judges the rest, and keeps what was there."""
    tree = hermitage()
    store.create("hermit", tree, AT)
    asked = {"failures": 1, "faults": 1, "together": False, "sample": 10, "seed": 0}
    cases = list(cases_of("Hermit", tree, **asked))
    held = Campaigns(store.engine)
    record = held.add(
        "harm", "Oda", NOON, asked, [Subject("Hermit", "hermit", None, "x")], {"Hermit": tree}, len(cases)
    )
    judge = Judge(tree)
    half = [judge.judge(c) for c in cases[: len(cases) // 2]]
    marked = [r.as_dict() | {"seconds": 12345.0} for r in half]
    rows = [
        Case(r.key, *map(len, (r.opened, r.closed)), r.lost, r.meanwhile, m) for r, m in zip(half, marked, strict=True)
    ]
    held.keep(record.id, rows, len(half), len(cases), "running")
    client = client_of(store)
    (told,) = client.get("/api/campaigns").json()
    assert (told["state"], told["done"], told["total"]) == ("stopped", len(half), len(cases))
    assert client.post(f"/api/campaigns/{record.id}/go-on").status_code == 202
    found = ended(client, f"/api/campaigns/{record.id}")
    assert found["head"]["state"] == "ended"
    kept = [read_row(r) for r in held.every_row(record.id)]
    assert {r.key for r in kept} == {c.key for c in cases}
    assert sum(r.seconds == 12345.0 for r in kept) == len(half)


def test_what_cannot_be_judged_is_refused(store: Store) -> None:
    """Sizes nobody can wait for, designs that are none or not for these eyes, one state twice."""
    store.create("fort", fort(1), AT)
    client = client_of(store)

    def refused(**wanted: Any) -> int:
        return client.post("/api/campaigns", json={"about": [{"design": "fort"}], **wanted}).status_code

    assert refused(failures=4) == 422
    assert refused(faults=3) == 422
    assert refused(about=[]) == 422
    assert refused(about=[{"design": "fort"}, {"design": "fort"}]) == 422
    assert refused(about=[{"design": "nowhere"}]) == 404
    assert refused(about=[{"design": "fort", "revision": 9}]) == 404
    assert client.get("/api/campaigns/7").status_code == 404
    assert client.get("/api/campaigns").json() == []


def test_others_see_nothing_of_it(store: Store) -> None:
    """A campaign about a design that one may not read is not there for them; nor is one whose design is gone."""
    tree = fort(1)
    store.create("fort", tree, AT)
    Campaigns(store.engine).add("harm", "Oda", NOON, {"failures": 1, "faults": 0, "together": False}, [Subject("Fort", "fort", None, "x")], {"Fort": tree}, 3)  # fmt: skip
    owner, other = client_of(store), client_of(store, "Ivo", owner=False)
    (seen,) = owner.get("/api/campaigns").json()
    assert other.get("/api/campaigns").json() == []
    for call in (other.get(f"/api/campaigns/{seen['id']}"), other.post(f"/api/campaigns/{seen['id']}/go-on")):
        assert call.status_code == 404
    store.drop("fort")
    assert owner.get("/api/campaigns").json() == []


@pytest.mark.slow
def test_depth_of_a_draft(store: Store) -> None:
    """Nothing searched; searched; stale after an edit; begun anew for what it is then; a way in is put on stage."""
    store.create("fort", fort(1), AT)
    client = client_of(store)
    where = "/api/designs/fort/draft/defence"
    assert client.get(where).json()["state"] == "none"
    assert client.post(f"{where}/stop").status_code == 404
    assert client.post(where).status_code == 202
    found = ended(client, where)
    assert (found["state"], found["stale"]) == ("ended", False)
    (row,) = found["rows"]
    assert (row["name"], row["depth"], row["words"]) == ("no way down", 1, "one")
    way = next(w for w in row["ways"] if w["mistakes"][0]["kind"] == "test-rule")
    stage = client.post(f"{where}/stage", json={"failed": [], "faults": way["faults"]}).json()
    kept = client.get(f"/api/designs/{stage['design']}/views/expectations").json()["expectations"]
    assert not kept[0]["holds"]
    edit(client, "fort", "preview", [{"op": "replace", "path": "/name", "value": "Other"}])  # type: ignore[arg-type]
    assert client.get(where).json()["stale"]
    client.post(where)
    again = ended(client, where)
    assert (again["state"], again["stale"], again["rows"][0]["depth"]) == ("ended", False, 1)
    assert client.get("/api/campaigns").json() == []


def test_rows_are_json(store: Store) -> None:
    """What is kept of a case is read back as it was."""
    tree = fort(1)
    judge = Judge(tree)
    for case in list(cases_of("Fort", tree))[:9]:
        row = judge.judge(case)
        assert read_row(json.loads(json.dumps(row.as_dict()))) == row
