"""The cabling as a network topology (RFC 8345): written, read and compared; what it does not know, and what it says that we do not."""

from __future__ import annotations

import json

import pytest
from hypothesis import given

from anabasis.design import apply, load_file, parse_design
from anabasis.errors import InputRefused
from anabasis.facts import Assumed
from anabasis.interchange import TOPOLOGY, read, write
from tests.counts import law
from tests.sites import Tree, sites

EMPTY: Tree = {"anabasis": 1, "name": "Empty"}
DEMOS = ("tidewrack", "tidewrack-bay", "tidewrack-exhibition", "tidewrack-first-day")


@pytest.mark.parametrize("name", DEMOS)
def test_a_demo_comes_back(name: str) -> None:
    """Into its own design it changes nothing; into an empty one it makes the same boxes, units, ports and cables."""
    raw = load_file(f"demo/{name}.yaml").raw
    text = write(TOPOLOGY, raw)
    assert read(TOPOLOGY, text, raw).patch == []
    made = apply(EMPTY, read("", text, EMPTY).patch)[0]
    assert (
        json.loads(write(TOPOLOGY, made | {"name": raw["name"]}))["ietf-network:networks"]["network"][0][
            "ietf-network-topology:link"
        ]
        == (json.loads(text)["ietf-network:networks"]["network"][0]["ietf-network-topology:link"])
    )
    assert [(d["name"], d["kind"]) for d in made["devices"]] == [(d["name"], d["kind"]) for d in raw["devices"]]
    assert sorted(map(sorted, made["cables"])) == sorted(map(sorted, raw["cables"]))


@law(1000, 40)
@given(sites())
def test_any_site(tree: Tree) -> None:
    """Read into where it came from it changes nothing, and no link is lost."""
    found = read(TOPOLOGY, write(TOPOLOGY, tree), tree)
    assert not found.unplaced
    assert parse_design(apply(tree, found.patch)[0]) == parse_design(tree)


def of(*links: tuple[str, str, str, str], **more: object) -> str:
    """Return a topology of two plain nodes, as somebody else writes it."""
    nodes = [
        {"node-id": n, "ietf-network-topology:termination-point": [{"tp-id": p} for p in ("e1", "e2")]}
        for n in ("one", "two")
    ]
    told = [
        {"link-id": str(k), "source": {"source-node": a, "source-tp": b}, "destination": {"dest-node": c, "dest-tp": d}}
        for k, (a, b, c, d) in enumerate(links)
    ]
    return json.dumps(
        {
            "ietf-network:networks": {
                "network": [{"network-id": "x", "node": nodes, "ietf-network-topology:link": told, **more}]
            }
        }
    )


def test_of_somebody_else() -> None:
    """Without our module boxes are switches, and that is said; one way of a link suffices, and the other is the same cable."""
    found = read(TOPOLOGY, of(("one", "e1", "two", "e2"), ("two", "e2", "one", "e1")), EMPTY)
    tree = apply(EMPTY, found.patch)[0]
    assert tree["cables"] == [["one:e1", "two:e2"]]
    assert {d["kind"] for d in tree["devices"]} == {"switch"}
    assert [a.name for a in found.assumed if a.what == Assumed.DEVICE] == ["one", "two"]


def test_what_has_no_place_is_told() -> None:
    """A link to nowhere, one to a port that is taken; and what we do not read, never in silence."""
    links = ("one", "e1", "two", "e1"), ("one", "e1", "two", "e2"), ("one", "e2", "three", "e1")
    found = read(TOPOLOGY, of(*links, **{"weather:rain": 3}), EMPTY)
    assert [u.text for u in found.unplaced] == ["link 1", "link 2"]
    assert apply(EMPTY, found.patch)[0]["cables"] == [["one:e1", "two:e1"]]
    assert [(a.name, a.taken_for) for a in found.assumed if a.what == Assumed.FOREIGN] == [("weather:rain", "1")]


@pytest.mark.parametrize("text", ["", "{", "[]", '{"ietf-network:networks": 3}', "[" * 5_000])
def test_what_is_none(text: str) -> None:
    """One error."""
    with pytest.raises(InputRefused):
        read(TOPOLOGY, text, EMPTY)


def test_layer_3_stands_over_the_cabling() -> None:
    """Addresses come back on interfaces that are there, with the length of their box's prefix; who shares a subnet is linked (RFC 8346)."""
    raw = json.loads(json.dumps(load_file("demo/tidewrack.yaml").raw))
    networks = json.loads(write(TOPOLOGY, raw))["ietf-network:networks"]["network"]
    above = networks[1]
    assert above["supporting-network"] == [{"network-ref": raw["name"]}]
    links = {link["link-id"] for link in above["ietf-network-topology:link"]}
    assert {"gate:1--street:vlan900", "street:vlan900--gate:1"} <= links
    bare = json.loads(json.dumps(raw))
    gate = next(d for d in bare["devices"] if d["name"] == "gate")
    for port in gate["ports"]:
        port.pop("addresses", None)
    for sub in (s for lag in gate["lags"] for s in lag.get("subinterfaces", [])):
        sub.pop("addresses", None)
    found = read(TOPOLOGY, write(TOPOLOGY, raw), bare)
    assert found.unplaced == ()
    now = next(d for d in apply(bare, found.patch)[0]["devices"] if d["name"] == "gate")
    assert now == next(d for d in raw["devices"] if d["name"] == "gate")


def test_layer_3_of_boxes_that_are_not_there_is_told() -> None:
    """And an address that is none is refused by itself."""
    raw = json.loads(json.dumps(load_file("demo/tidewrack-bay.yaml").raw))
    data = json.loads(write(TOPOLOGY, raw))
    above = data["ietf-network:networks"]["network"][1]
    point = above["node"][0]["ietf-network-topology:termination-point"][0]
    point["tp-id"] = "nowhere"
    text = json.dumps(data)
    found = read(TOPOLOGY, text, raw)
    assert [u.text for u in found.unplaced] == [f"interface {above['node'][0]['node-id']} nowhere"]
    assert found.patch == []
    point["ietf-l3-unicast-topology:l3-termination-point-attributes"]["ip-address"] = ["10.64.1.300"]
    with pytest.raises(InputRefused):
        read(TOPOLOGY, json.dumps(data), raw)
