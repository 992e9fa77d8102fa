"""Plug in: what a laptop finds on a port of the demo, and why; and that the probe agrees with the walk."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anabasis.climb import Climb
from anabasis.design import Loaded, apply, parse_design
from anabasis.errors import UnknownPlace
from anabasis.leases import build_site
from anabasis.probe import Plug, plug
from anabasis.probe.plug import LAPTOP, with_laptop
from tests.counts import law
from tests.sites import VLANS, Tree, access, sites, switch, trunk

GATE, TANK = "/devices/4", "/devices/6"


def plugged(demo: Loaded, place: str, tag: int | None = None, *patch: dict[str, Any]) -> Plug:
    """Plug into the demo after an edit."""
    return plug(build_site(apply(demo.raw, list(patch))[1]), place, tag)


@pytest.mark.parametrize(
    ("place", "tag", "vlan", "segment", "address", "layer"),
    [
        ("hall-sw:2", None, 130, "keepers", "10.64.130.50", None),
        ("hall-sw:2", 180, 180, "intercom", "10.64.180.20", None),
        ("hall-sw:1", None, 130, "keepers", "10.64.130.50", None),  # in the place of desk-7
        ("tank-sw:5", None, 130, "keepers", "10.64.130.50", None),
        ("hall-sw:6", None, 160, "visitors", "10.64.160.20", None),
        ("tank-sw:2", None, 110, "life-support", None, "answers"),
        ("tank-sw:8", None, 190, "quarantine", None, "answers"),
        ("tank-sw:10", None, None, None, None, "link"),
        ("tank-sw:21", None, None, None, None, "link"),
        ("hall-sw:2", 110, None, None, None, "vlan"),
        ("tank-sw:2", 110, None, None, None, "vlan"),
    ],
)
def test_the_demo(
    demo: Loaded,
    place: str,
    tag: int | None,
    vlan: int | None,
    segment: str | None,
    address: str | None,
    layer: str | None,
) -> None:
    """VLAN, segment, address, or the first thing that stops it."""
    found = plugged(demo, place, tag)
    assert (found.vlan, found.segment, found.address, found.layer) == (vlan, segment, address, layer), found.reason
    assert found.reason
    assert address is None or found.server


def test_what_it_gets_and_reaches(demo: Loaded) -> None:
    """Gateway and options as handed out; the segments some flow gets to."""
    found = plugged(demo, "hall-sw:6")
    assert (found.gateway, found.server, found.reaches) == ("10.64.160.1", "gate hall.160", ["internet"])
    assert found.options == {"dns": "10.64.160.1", "lease_s": "3600"}


def test_without_a_server_a_fixed_address_is_tried(demo: Loaded) -> None:
    """The last free one of the subnet."""
    found = plugged(demo, "tank-sw:2")
    assert (found.address, found.static, found.reaches) == (None, "10.64.110.254/24", ["tank-sensors"])


def test_a_missing_tag_on_the_uplink_loses_the_server(demo: Loaded) -> None:
    """The laptop beside the tanks no longer hears the server in the hall."""
    found = plugged(demo, "tank-sw:5", None, {"op": "replace", "path": f"{TANK}/lags/0/tagged", "value": [180]})
    assert (found.segment, found.address, found.layer) == ("keepers@tank-sw", None, "vlan")


def test_a_second_server_is_told_of_and_one_that_yields_stands_down(demo: Loaded) -> None:
    """Two that answer are luck; `yield` answers only alone."""
    other = {"interface": "hall.130", "ranges": ["10.64.130.220-10.64.130.230"], "gateway": "10.64.130.1"}
    add = {"op": "add", "path": f"{GATE}/dhcp/-"}
    assert "2 servers answer" in plugged(demo, "hall-sw:2", None, add | {"value": other}).reason
    assert "servers answer" not in plugged(demo, "hall-sw:2", None, add | {"value": other | {"mode": "yield"}}).reason
    off = {"op": "replace", "path": f"{GATE}/dhcp/0/mode", "value": "off"}
    alone = plugged(demo, "hall-sw:2", None, off, add | {"value": other | {"mode": "yield"}})
    assert alone.address == "10.64.130.220"


def test_reservations_exclusions_and_hosts_are_not_handed_out(demo: Loaded) -> None:
    """The first address that nobody has and nothing keeps."""
    at = f"{GATE}/dhcp/0"
    patch = [
        {"op": "replace", "path": f"{at}/ranges", "value": ["10.64.130.76-10.64.130.199"]},
        {"op": "add", "path": f"{at}/exclude", "value": ["10.64.130.76", "10.64.130.78-10.64.130.80"]},
    ]
    assert plugged(demo, "hall-sw:2", None, *patch).address == "10.64.130.81"
    tight = {"op": "replace", "path": f"{at}/ranges", "value": ["10.64.130.77"]}
    assert "no free address" in plugged(demo, "hall-sw:2", None, tight).reason


def test_a_relay_asks_its_server(demo: Loaded) -> None:
    """Reached or not, by the walk of its question."""
    relay = {"interface": "tank.110", "mode": "relay", "servers": ["10.64.170.10"]}
    found = plugged(demo, "tank-sw:2", None, {"op": "add", "path": f"{GATE}/dhcp/-", "value": relay})
    assert (found.server, found.layer) == ("10.64.170.10", None)
    lost = plugged(
        demo, "tank-sw:2", None, {"op": "add", "path": f"{GATE}/dhcp/-", "value": relay | {"servers": ["10.64.190.1"]}}
    )
    assert lost.server is None


def test_behind_a_hub(demo: Loaded) -> None:
    """A hub on a desk port: the laptop on it is in the desk's VLAN."""
    hub = {"name": "splitter", "kind": "hub", "ports": [{"name": "1"}, {"name": "2"}]}
    patch = [
        {"op": "add", "path": "/devices/-", "value": hub},
        {"op": "add", "path": "/cables/-", "value": ["hall-sw:3", "splitter:1"]},
    ]
    assert plugged(demo, "splitter:2", None, *patch).segment == "keepers"
    assert plugged(demo, "splitter:2", 180, *patch).segment == "intercom"


@pytest.mark.parametrize(
    ("place", "said"), [("hall-sv:1", "did you mean 'hall-sw'"), ("hall-sw:77", "no port of this name")]
)
def test_places_that_are_none(demo: Loaded, place: str, said: str) -> None:
    """Named with the nearest."""
    with pytest.raises(UnknownPlace, match=said):
        plugged(demo, place)


@law(125, 25)
@given(sites(), st.sampled_from(VLANS))
def test_the_probe_agrees_with_the_walk(tree: Tree, vlan: int) -> None:
    """What it says it reaches has a flow that passes, and wherever a walk from it is delivered, it says so."""
    more = {**tree, "devices": [*tree["devices"], switch("desk", access("1", vlan), trunk("up", *VLANS))]}
    more["cables"] = [*tree["cables"], ["desk:up", "sw0:desk"]]
    more["devices"][0]["ports"] = [p for p in more["devices"][0]["ports"] if p["name"] != "desk"] + [
        trunk("desk", *VLANS)
    ]
    design = parse_design(more)
    found = plug(build_site(design), "desk:1")
    if found.static is None:
        return
    climb = Climb(with_laptop(design, LAPTOP, ("desk", "1"), None, [found.static], lease=False))
    laptop = next(g for g in climb.site.net.hosts if g.endpoint == LAPTOP)
    for name, number in climb.site.segments.by_name.items():
        if number == laptop.segment or climb.site.segments.all[number].kind == "transit":
            continue
        verdict = climb.verdicts().judge(laptop.segment, number).verdict
        assert name not in found.reaches or verdict != "none"
        for service in ("tcp/85", "ping", "udp/53"):
            try:
                went = climb.walk(str(laptop.first), name, service)
            except UnknownPlace:
                continue
            assert went.outcome != "delivered" or name in found.reaches, went.reason
