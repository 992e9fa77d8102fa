"""Mistakes that open: each is one that a document can hold, and lets something pass that did not."""

from __future__ import annotations

import json
from typing import Any

import pytest

from anabasis.campaign import mistakes_of
from anabasis.climb import Climb
from anabasis.design import Tree, load_file, parse_design
from anabasis.design.edits import patched
from anabasis.faults import KINDS, OPENING, faults_of
from tests.conftest import ROOT

SWITCH = {
    "anabasis": 1,
    "name": "Two rooms",
    "vlans": [
        {"id": 10, "name": "front", "subnets": ["10.1.10.0/24"]},
        {"id": 20, "name": "back", "subnets": ["10.1.20.0/24"]},
    ],
    "devices": [
        {
            "name": "sw",
            "kind": "switch",
            "vlan_interfaces": [
                {"vlan": 10, "addresses": ["10.1.10.1/24"]},
                {"vlan": 20, "addresses": ["10.1.20.1/24"]},
            ],
            "ports": [{"name": "1", "pvid": 10, "untagged": [10]}, {"name": "2", "pvid": 20, "untagged": [20]}],
        },
        {"name": "a", "kind": "endpoint", "addresses": ["10.1.10.7/24"], "gateway": "10.1.10.1"},
        {"name": "b", "kind": "endpoint", "addresses": ["10.1.20.7/24"], "gateway": "10.1.20.1"},
    ],
    "cables": [["a:1", "sw:1"], ["b:1", "sw:2"]],
}


def filtered() -> Tree:
    """Return two rooms whose switch routes, and keeps the front from the back by a filter."""
    tree: Any = json.loads(json.dumps(SWITCH))
    switch = tree["devices"][0]
    switch["routing"] = True
    entries = [{"destinations": ["10.1.20.0/24"], "action": "drop"}, {"action": "permit"}]
    switch["filters"] = [{"name": "keep", "entries": entries}]
    switch["vlan_interfaces"][0]["filter_in"] = "keep"
    return tree


def apart() -> Tree:
    """Return two rooms of a router that keeps its networks apart."""
    tree: Any = json.loads(json.dumps(SWITCH))
    ports = [
        {"name": "1", "mode": "routed", "addresses": ["10.1.10.1/24"]},
        {"name": "2", "mode": "routed", "addresses": ["10.1.20.1/24"]},
    ]
    tree["devices"][0] = {"name": "sw", "kind": "router", "between_networks": "closed", "ports": ports}
    return tree


def isolated() -> Tree:
    """Return one room whose two hosts stand on isolated ports."""
    tree: Any = json.loads(json.dumps(SWITCH))
    tree["devices"][0]["ports"] = [{"name": n, "pvid": 10, "untagged": [10], "isolated": True} for n in ("1", "2")]
    tree["devices"][2]["addresses"] = ["10.1.10.8/24"]
    return tree


def dropping() -> Tree:
    """Return a firewall that keeps two rooms apart by a rule that drops, over one that permits."""
    tree: Any = apart()
    box = tree["devices"][0]
    box["kind"] = "firewall"
    del box["between_networks"]
    box["zones"] = [{"name": "front"}, {"name": "back"}]
    for port, zone in zip(box["ports"], ("front", "back"), strict=True):
        port["zone"] = zone
    both = {"from": ["any"], "to": ["any"]}
    box["rules"] = [{"name": "keep", **both, "action": "drop"}, {"name": "rest", **both, "action": "permit"}]
    return tree


def sites() -> list[Tree]:
    """Return sites that have every kind between them."""
    demo: Any = json.loads(json.dumps(load_file(ROOT / "demo" / "tidewrack.yaml").raw))
    return [demo, SWITCH, filtered(), apart(), dropping()]


@pytest.mark.slow
def test_each_kind_lets_something_pass() -> None:
    """Every edit is taken by the document, and of each kind one at least opens a pair of segments, or joins two."""
    opens: set[str] = set()
    for tree in sites():
        before = Climb(parse_design(tree))
        seen: set[str] = set()
        for fault in faults_of(tree, opening=True):
            if fault.kind in KINDS:
                continue
            design = parse_design(patched(tree, fault.edit))
            if fault.kind in opens and fault.kind in seen:
                continue  # that it is taken is enough
            seen.add(fault.kind)
            told = before.edited(design).consequences_since(before)
            if told.opened or told.joined or any(c.gained for c in told.changed):
                opens.add(fault.kind)
    assert opens == set(OPENING) - {"not-isolated"}


def test_a_port_no_longer_isolated_is_heard() -> None:
    """Inside one segment, where no pair tells it: a packet does."""
    tree = isolated()
    assert Climb(parse_design(tree)).walk("a", "b", "icmp").outcome == "stopped"
    for fault in faults_of(tree, "not-isolated"):
        assert Climb(parse_design(patched(tree, fault.edit))).walk("a", "b", "icmp").outcome == "delivered"


def test_they_are_not_diagnosed() -> None:
    """Nothing shows them: they are counted apart, and named apart."""
    assert not OPENING.keys() & KINDS.keys()
    demo = sites()[0]
    stops = {f.kind for f in faults_of(demo)}
    assert not stops & OPENING.keys()
    assert list(faults_of(demo)) == [f for f in faults_of(demo, opening=True) if f.kind in KINDS]


def test_mistakes_are_called_by_kind_and_place() -> None:
    """Each that a row can name, with words for what it is and the item it is at."""
    demo = sites()[0]
    known = mistakes_of(demo)
    assert len(known) == len(list(faults_of(demo, opening=True)))
    assert all(m.meaning and m.pointer for m in known.values())
    assert (known["zone-missing#0"].meaning, known["zone-missing#0"].place) == ("an interface is in no zone", "gate 1")
