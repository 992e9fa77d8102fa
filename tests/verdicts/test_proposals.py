"""Edits proposed so that something may pass, or may not: tried, and the narrowest first."""

from __future__ import annotations

import pytest

from anabasis.climb import Climb
from anabasis.design import Loaded, apply


@pytest.mark.parametrize(
    ("source", "target", "service", "outcome"),
    [
        ("box-office", "lab", "https", "delivered"),  # no rule at all
        ("visitors", "keepers", "ssh", "delivered"),  # a drop stands first
        ("keepers", "lab", "ssh", "delivered"),  # a rule for these ends is there
        ("life-support", "life-support@chiller-1", "ssh", "delivered"),  # over the inline pair
    ],
)
def test_so_that_it_may_pass(demo: Loaded, climb: Climb, source: str, target: str, service: str, outcome: str) -> None:
    """Every proposal opens it; the first opens nothing else between other segments."""
    found = climb.propose(source, target, service, "open")
    assert found
    for proposal in found:
        after = Climb(apply(demo.raw, proposal.patch)[1])
        assert after.walk(source, target, service).outcome == outcome
    first = Climb(apply(demo.raw, found[0].patch)[1]).consequences_since(climb)
    assert not first.closed
    assert {(c.source, c.target) for c in first.opened} == {(source, target)}


def test_a_rule_that_speaks_of_the_ends_can_take_the_service(climb: Climb) -> None:
    """The wider edit comes second."""
    first, second = climb.propose("keepers", "lab", "ssh", "open")[:2]
    assert "for just this" in first.words
    assert second.words == "gate: ssh added to the rule keepers-lab"


@pytest.mark.parametrize(
    ("source", "target", "service"),
    [("keepers", "lab", "https"), ("tank-sensors", "life-support", "ping"), ("visitors", "internet", "https")],
)
def test_so_that_it_may_not(demo: Loaded, climb: Climb, source: str, target: str, service: str) -> None:
    """Every proposal stops it; the first stops nothing else."""
    found = climb.propose(source, target, service, "closed")
    assert found
    for proposal in found:
        assert Climb(apply(demo.raw, proposal.patch)[1]).walk(source, target, service).outcome == "stopped"
    first = Climb(apply(demo.raw, found[0].patch)[1]).consequences_since(climb)
    assert not first.opened
    assert {(c.source, c.target) for c in first.closed if not c.folded} == {(source, target)}


def test_nothing_is_proposed_where_rules_are_not_the_matter(climb: Climb) -> None:
    """It passes already, or frames and routes stop it."""
    assert climb.propose("keepers", "lab", "https", "open") == []
    assert climb.propose("internet", "keepers", "https", "open") == []


def test_where_no_rule_meets_it_the_box_that_routes_it_can_close(demo: Loaded) -> None:
    """Two VLANs of a multilayer switch: closed between its networks, or a route switched off; each stops it."""
    lab = "/devices/7"
    patch = [
        {"op": "add", "path": "/vlans/-", "value": {"id": 172, "name": "store", "subnets": ["10.64.172.0/24"]}},
        {"op": "add", "path": f"{lab}/vlans/-", "value": 172},
        {"op": "add", "path": f"{lab}/ports/-", "value": {"name": "8", "pvid": 172, "untagged": [172]}},
        {"op": "add", "path": f"{lab}/vlan_interfaces/-", "value": {"vlan": 172, "addresses": ["10.64.172.1/24"]}},
    ]
    tree, design = apply(demo.raw, patch)
    found = Climb(design).propose("store", "lab", "ssh", "closed")
    assert [p.words for p in found] == ["lab-sw: closed between its networks, vlan172 kept to itself"]
    after = Climb(apply(tree, found[0].patch)[1])
    assert after.walk("store", "lab", "ssh").layer == "rule"
    assert after.walk("keepers", "lab", "https").outcome == "delivered"
