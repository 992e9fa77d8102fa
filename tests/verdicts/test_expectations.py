"""Expectations: judged against the exact flows, with a flow that shows why not."""

from __future__ import annotations

from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.design import Loaded, apply
from anabasis.verdicts import Judged, keep_as_it_is

GATE = "/devices/4"


def judged(demo: Loaded, wanted: dict[str, Any], *patch: dict[str, Any]) -> Judged:
    """Return how one expectation is judged, after an edit."""
    tree = [*patch, {"op": "add", "path": "/expectations", "value": [{"name": "x", **wanted}]}]
    return Climb(apply(demo.raw, tree)[1]).expectations[0]


@pytest.mark.parametrize(
    ("wanted", "holds", "verdict"),
    [
        ({"from": "visitors", "to": "life-support", "expect": "closed"}, True, "none"),
        ({"from": "guests", "to": "water", "expect": "closed"}, True, "none"),  # zones
        (
            {"from": "keepers", "to": "pump-controllers", "services": ["pump-bus"], "expect": "open"},
            True,
            "all",
        ),  # a set
        ({"from": "keepers", "to": "life-support", "services": ["pump-bus"], "expect": "open"}, False, "some"),
        ({"from": "keepers", "to": "life-support", "services": ["pump-bus"], "expect": "closed"}, False, "some"),
        ({"from": "10.64.130.77", "to": "10.64.110.0/24", "services": ["ping"], "expect": "open"}, True, "all"),
        ({"from": "internet", "to": "198.51.100.5", "services": ["https"], "expect": "open"}, True, "all"),
        ({"from": "internet", "to": "198.51.100.5", "services": ["ssh"], "expect": "closed"}, True, "none"),
        ({"from": "keepers", "to": "intercom", "expect": "open", "through": "gate"}, True, "all"),
        ({"from": "house", "to": "house", "expect": "closed"}, False, "all"),
        ({"from": "nowhere", "to": "lab", "expect": "open"}, False, "unknown"),
        ({"from": "keepers", "to": "recorder", "services": ["https", "rtsp"], "expect": "only"}, True, "all"),
        ({"from": "keepers", "to": "recorder", "services": ["https"], "expect": "only"}, False, "some"),
        ({"from": "keepers", "to": "recorder", "services": ["https", "ssh"], "expect": "only"}, False, "some"),
        ({"from": "keepers", "to": "10.64.130.1", "services": ["ping", "ssh"], "expect": "open"}, True, "all"),
        ({"from": "visitors", "to": "10.64.160.1", "services": ["ssh"], "expect": "closed"}, True, "none"),
        ({"from": "visitors", "to": "10.64.160.1", "services": ["dns"], "expect": "closed"}, False, "all"),
    ],
)
def test_the_demo(demo: Loaded, wanted: dict[str, Any], holds: bool, verdict: str) -> None:
    """Segments, zones, sets, addresses and what is published."""
    found = judged(demo, wanted)
    assert (found.holds, found.verdict) == (holds, verdict), found.reason
    assert found.reason
    assert found.decided_by


def test_all_expectations_of_the_sound_demo_hold(climb: Climb) -> None:
    """And there are some."""
    assert len(climb.expectations) >= 8
    assert all(e.holds for e in climb.expectations)


def test_what_goes_around_a_firewall_is_not_through_it(demo: Loaded) -> None:
    """Two links routed by the multilayer switch never meet the firewall."""
    bench = [
        {"op": "add", "path": "/devices/7/vlans/-", "value": 175},
        {"op": "add", "path": "/vlans/-", "value": {"id": 175, "name": "bench", "subnets": ["10.64.175.0/24"]}},
        {"op": "add", "path": "/devices/7/ports/-", "value": {"name": "9", "pvid": 175, "untagged": [175]}},
        {"op": "add", "path": "/devices/7/vlan_interfaces/-", "value": {"vlan": 175, "addresses": ["10.64.175.1/24"]}},
        {
            "op": "add",
            "path": "/devices/-",
            "value": {"name": "scale", "kind": "endpoint", "addresses": ["10.64.175.9/24"]},
        },
        {"op": "add", "path": "/cables/-", "value": ["lab-sw:9", "scale:1"]},
    ]
    found = judged(
        demo, {"from": "bench", "to": "lab", "services": ["https"], "expect": "open", "through": "gate"}, *bench
    )
    assert not found.holds
    assert "without meeting gate" in found.reason


def test_a_vlan_that_fell_apart_is_all_of_its_parts(demo: Loaded) -> None:
    """Half of it may still reach what the other half lost."""
    cut = {"op": "replace", "path": "/devices/6/lags/0/tagged", "value": [180]}
    found = judged(demo, {"from": "keepers", "to": "lab", "services": ["ping"], "expect": "open"}, cut)
    assert (found.holds, found.verdict) == (False, "some")


def test_edits_say_what_they_break_and_mend(demo: Loaded, climb: Climb) -> None:
    """With the consequences of reach."""
    patch = [{"op": "remove", "path": f"{GATE}/rules/13"}]
    after = Climb(apply(demo.raw, patch)[1])
    assert after.consequences_since(climb).broken == ("tills take cards",)
    assert climb.consequences_since(after).mended == ("tills take cards",)


@pytest.mark.parametrize(
    ("source", "target"),
    [("visitors", "life-support"), ("tank-sensors", "life-support"), ("keepers", "lab"), ("box-office", "internet")],
)
def test_keeping_as_it_is_holds_at_once(demo: Loaded, climb: Climb, source: str, target: str) -> None:
    """What is proposed from the present state is true of it."""
    found = list(keep_as_it_is(climb.verdicts(), climb.segment(source), climb.segment(target)))
    assert found
    for wanted in found:
        assert judged(demo, wanted).holds
