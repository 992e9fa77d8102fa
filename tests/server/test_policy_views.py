"""HTTP for layer 3, the policy and the proof: views, and actions that work out an edit before it is made."""

from __future__ import annotations

import csv
import io
from typing import Any

import pytest
from fastapi.testclient import TestClient

from anabasis.design import Loaded
from anabasis.store import Store
from tests.conftest import NOON, client_of

VIEWS, DRAFT = "/api/designs/d/views", "/api/designs/d/draft"


@pytest.fixture
def client(store: Store, demo: Loaded) -> TestClient:
    """Return a client of an application that holds the demo as design `d`."""
    store.create("d", demo.raw, NOON)
    return client_of(store)


def make(client: TestClient, patch: Any) -> Any:
    """Send an edit."""
    version = client.get(DRAFT).json()["version"]
    headers = {"Content-Type": "application/json-patch+json", "If-Match": f'"{version}"'}
    done = client.patch(DRAFT, json=patch, headers=headers)
    assert done.status_code == 200, done.text
    return done.json()


def asked(client: TestClient, action: str, body: Any, status: int = 200) -> Any:
    """Ask for an edit; nothing is stored by asking."""
    before = client.get(DRAFT).json()["version"]
    answer = client.post(f"{DRAFT}/{action}", json=body)
    assert answer.status_code == status, answer.text
    assert client.get(DRAFT).json()["version"] == before
    return answer.json()


def test_routing_shows_tables_interfaces_and_strips(client: TestClient) -> None:
    """Of every device that has layer 3."""
    view = client.get(f"{VIEWS}/routing").json()
    gate = view["devices"][0]
    assert gate["name"] == "gate"
    assert {"main", "reef"} == {v["name"] for v in gate["vrfs"]}
    assert {s["interface"] for s in view["strips"]} == {"hall.130", "hall.160", "hall.180"}
    assert sum(p["count"] for p in view["strips"][0]["parts"]) == 256


@pytest.mark.parametrize(
    ("query", "status", "said"),
    [
        ({"device": "gate", "address": "10.64.170.10"}, 200, "leaves by 6 (zone chemistry)"),
        ({"device": "gate", "address": "10.64.170.10", "vrf": "reef"}, 200, "leaves by 6 (zone chemistry)"),
        ({"device": "gaet", "address": "10.64.170.10"}, 404, "did you mean 'gate'"),
        ({"device": "gate", "address": "10.64.170"}, 404, "no address"),
        ({"device": "gate"}, 422, "Field required"),
    ],
)
def test_a_lookup(client: TestClient, query: dict[str, str], status: int, said: str) -> None:
    """Which route wins, or one clear sentence."""
    answer = client.get(f"{VIEWS}/lookup", params=query)
    assert answer.status_code == status
    assert said in answer.text


def test_zones_mark_what_is_looked_for(client: TestClient) -> None:
    """Rules by an address inside a set; answers beside them."""
    view = client.get(f"{VIEWS}/zones", params={"look": "10.64.150.10"}).json()
    policy = view["firewalls"][0]
    assert {r["name"] for r in policy["rules"] if r["found"]} >= {"recorder-pulls-video", "keepers-see-cameras"}
    assert "probes-report" not in {r["name"] for r in policy["rules"] if r["found"]}
    gate = next(a for a in view["answers"] if a["device"] == "gate")
    assert {c["service"] for c in gate["cells"]} >= {"ping", "ssh", "DHCP"}


def test_a_rename_is_one_edit_with_every_reference(client: TestClient) -> None:
    """And changes nothing in reach."""
    preview = asked(client, "rename", {"pointer": "/devices/4/zones/3", "name": "staff"})
    done = make(client, preview["patch"])
    assert not any(done["consequences"][k] for k in ("opened", "closed", "changed", "broken"))
    zones = {z["name"] for z in client.get(f"{VIEWS}/zones").json()["firewalls"][0]["zones"]}
    assert "staff" in zones
    assert "house" not in zones


@pytest.mark.parametrize(
    ("body", "status", "said"),
    [
        ({"pointer": "/devices/4/zones/0", "name": "a "}, 422, "/name: badly written"),
        ({"pointer": "/devices/4/zones/0", "name": "house"}, 422, "given twice"),
        ({"pointer": "/devices/4/zones/99", "name": "x"}, 404, "nothing with a name is there"),
        ({"pointer": "/vlans/0", "number": 9999}, 422, "1 to 4094"),
        ({"pointer": "/vlans/0", "number": 120}, 422, "has this VLAN already"),
    ],
)
def test_a_rename_that_cannot_be(client: TestClient, body: dict[str, Any], status: int, said: str) -> None:
    """One clear sentence, nothing half-done."""
    assert said in asked(client, "rename", body, status)["detail"]


def test_an_expectation_follows_a_renamed_zone(client: TestClient) -> None:
    """`strangers stay on the street` speaks of the zone house."""
    make(client, asked(client, "rename", {"pointer": "/devices/4/zones/3", "name": "staff"})["patch"])
    found = client.get(f"{VIEWS}/expectations").json()["expectations"]
    assert all(e["holds"] for e in found)
    assert "staff" in {e["target"] for e in found}


def test_taking_out_lists_what_goes_with_it(client: TestClient) -> None:
    """A zone takes its rules; a thing that is none is refused."""
    preview = asked(client, "remove", {"pointer": "/devices/4/zones/4"})
    assert "Rule gate tills-out" in preview["drops"]
    assert preview["consequences"]["broken"] == ["tills take cards"]
    make(client, preview["patch"])
    asked(client, "remove", {"pointer": "/devices/4/failover"}, 404)


def test_a_segment_in_one_go_and_undone(client: TestClient) -> None:
    """Every part of it in one edit, which one undo takes back."""
    options = client.get(f"{DRAFT}/new-segment/options").json()
    assert options["firewalls"] == {"gate": ["hall", "tank"]}
    wanted = {
        "name": "octopus-den",
        "purpose": "visitors",
        "vlan": 125,
        "firewall": "gate",
        "port": "tank",
        "ports": ["tank-sw:4"],
    }
    preview = asked(client, "new-segment", wanted)
    assert preview["come"] == []
    before = client.get(DRAFT).json()["document"]
    make(client, preview["patch"])
    assert "octopus-den" in {s["name"] for s in client.get(f"{VIEWS}/matrix").json()["segments"]}
    version = client.get(DRAFT).json()["version"]
    client.post(f"{DRAFT}/undo", headers={"If-Match": f'"{version}"'})
    assert client.get(DRAFT).json()["document"] == before


def test_an_expectation_broken_by_which_edit(client: TestClient) -> None:
    """The latest edit before which it held; none for one that never did."""
    make(client, [{"op": "add", "path": "/devices/4/rules/8/enabled", "value": False}])
    broken = make(client, [{"op": "add", "path": "/devices/4/rules/13/enabled", "value": False}])
    assert broken["consequences"]["broken"] == ["tills take cards"]
    make(client, [{"op": "replace", "path": "/note", "value": "later"}])
    found = client.get(f"{VIEWS}/broken-by", params={"name": "tills take cards"}).json()
    assert found["version"] == broken["version"]
    never = {"name": "never", "from": "visitors", "to": "lab", "services": ["ssh"], "expect": "open"}
    make(client, [{"op": "add", "path": "/expectations/-", "value": never}])
    assert client.get(f"{VIEWS}/broken-by", params={"name": "never"}).json() is None


def test_suggestions_hold_once_they_are_taken(client: TestClient) -> None:
    """And are not suggested again."""
    offered = client.get(f"{VIEWS}/expectations").json()["suggestions"]
    assert offered
    make(client, [{"op": "add", "path": "/expectations/-", "value": s} for s in offered])
    view = client.get(f"{VIEWS}/expectations").json()
    assert all(e["holds"] for e in view["expectations"])
    assert view["suggestions"] == []


def test_keeping_a_pair_as_it_is(client: TestClient) -> None:
    """Once; a second time there is nothing to add."""
    pair = {"source": "keepers", "target": "lab"}
    make(client, asked(client, "keep-as-it-is", pair)["patch"])
    assert asked(client, "keep-as-it-is", pair)["patch"] == []
    asked(client, "keep-as-it-is", {"source": "kepers", "target": "lab"}, 404)


def test_proposals_come_with_what_else_they_do(client: TestClient) -> None:
    """Each ready to be made."""
    offers = asked(client, "proposals", {"source": "box-office", "target": "lab", "service": "https", "expect": "open"})
    first = offers[0]
    assert [c["target"] for c in first["preview"]["consequences"]["opened"]] == ["lab"]
    make(client, first["preview"]["patch"])
    went = client.get(f"{VIEWS}/packet", params={"source": "box-office", "target": "lab", "service": "https"}).json()
    assert went["outcome"] == "delivered"
    assert went["firewalls"] == ["gate"]
    asked(client, "proposals", {"source": "box-office", "target": "lab", "service": "htps"}, 404)


def test_a_packet_that_is_stopped(client: TestClient) -> None:
    """With the layer, the reason, and what decides."""
    went = client.get(f"{VIEWS}/packet", params={"source": "till-1", "target": "pump-ctl", "service": "ping"}).json()
    assert (went["outcome"], went["layer"]) == ("stopped", "rule")
    assert went["there"]["points"][-1]["stopped"]
    assert went["back"] is None


def test_exposure_both_ways(client: TestClient) -> None:
    """What the pump controller reaches, and who reaches it, by family."""
    four, six = client.get(f"{VIEWS}/exposure", params={"place": "pump-ctl"}).json()
    assert four["address"] == "10.64.110.20"
    assert {e["segment"]: e["services"] for e in four["reached_by"]}["keepers"] == "pump-bus, ping, https, ssh"
    assert six["reaches"] == []
    assert client.get(f"{VIEWS}/exposure", params={"place": "nobody"}).status_code == 404


def test_the_matrix_as_csv(client: TestClient) -> None:
    """One line an ordered pair, transits aside, with its exact flows."""
    answer = client.get(f"{VIEWS}/matrix.csv", params={"service": "https"})
    assert answer.headers["content-type"].startswith("text/csv")
    rows = list(csv.DictReader(io.StringIO(answer.text)))
    names = {r["from"] for r in rows}
    assert len(rows) == len(names) * (len(names) - 1)
    lab = next(r for r in rows if (r["from"], r["to"]) == ("internet", "lab"))
    assert lab["verdict"] == "some"
    assert "198.51.100.5: https" in lab["flows"]


def test_what_is_asked_as_of_a_time(client: TestClient) -> None:
    """The matrix marks what is open by the hour; a pair and a packet are told as they are then; a time that is none is refused."""
    hours = {"start": "2026-01-05T08:00", "duration": "PT10H", "repeat": "FREQ=DAILY"}
    rule = {
        "name": "by day",
        "from": ["guests"],
        "to": ["tills"],
        "services": ["tcp/443"],
        "action": "permit",
        "when": hours,
    }
    assert client.get(f"{VIEWS}/matrix").json()["scheduled"] is False
    make(client, [{"op": "add", "path": "/devices/4/rules/0", "value": rule}])
    found = client.get(f"{VIEWS}/matrix").json()
    names = [s["name"] for s in found["segments"]]
    marked = [
        (names[a], names[b]) for a, row in enumerate(found["cells"]) for b, c in enumerate(row) if c and c["sometimes"]
    ]
    assert (found["scheduled"], marked) == (True, [("visitors", "box-office")])
    pair = {"source": "visitors", "target": "box-office"}
    told = {
        at: client.get(f"{VIEWS}/pair", params=pair | ({"as_of": at} if at else {})).json()["verdict"]
        for at in ("", "always", "2026-11-28T12:00", "2026-11-28T20:00")
    }
    assert told == {"": "some", "always": "none", "2026-11-28T12:00": "some", "2026-11-28T20:00": "none"}
    packet = {"source": "visitors", "target": "till-1", "service": "tcp/443", "as_of": "2026-11-28T20:00"}
    assert client.get(f"{VIEWS}/packet", params=packet).json()["outcome"] == "stopped"
    refused = client.get(f"{VIEWS}/matrix", params={"as_of": "noon"})
    assert refused.status_code == 422
    assert "2026-12-01T08:00" in refused.text
