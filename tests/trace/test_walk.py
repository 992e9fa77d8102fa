"""Walks over the demo and over small sites that break in one place each: the layer and the item that is named."""

from __future__ import annotations

from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.design import Loaded, apply, set_membership
from anabasis.errors import UnknownPlace
from anabasis.facts import stage_of
from anabasis.trace import Walk
from anabasis.wording import tell
from tests.sites import design_of

GATE, HALL, TANK, LAB = "/devices/4", "/devices/5", "/devices/6", "/devices/7"


def edited(demo: Loaded, *patch: dict[str, Any]) -> Climb:
    """Return the climb of the demo after an edit."""
    return Climb(apply(demo.raw, list(patch))[1])


def replaced(path: str, value: object) -> dict[str, object]:
    """Return one operation."""
    return {"op": "replace", "path": path, "value": value}


@pytest.mark.parametrize(
    ("source", "target", "service", "outcome", "layer"),
    [
        ("keepers", "pump-ctl", "pump-bus", "delivered", None),
        ("keepers", "life-support", "https", "delivered", None),
        ("visitors", "pump-ctl", "ping", "stopped", "rule"),
        ("desk-7", "10.64.130.1", "ssh", "answered", None),
        ("till-1", "10.64.140.1", "ssh", "stopped", "answers"),
        ("visitors", "10.64.160.1", "ping", "answered", None),
        ("visitors", "10.64.160.1", "ssh", "stopped", "answers"),
        ("internet", "198.51.100.5", "https", "delivered", None),
        ("internet", "198.51.100.5", "ssh", "stopped", "nat"),
        ("internet", "lab-server", "https", "stopped", "route"),
        ("reef-institute", "lab-server", "https", "stopped", "rule"),
        ("203.0.113.70", "lab-server", "https", "delivered", None),
        ("203.0.113.70", "10.64.170.11", "https", "stopped", "route"),
        ("fd64:0:0:130::77", "fd64:0:0:110::20", "https", "delivered", None),
        ("keepers", "internet", "https", "delivered", None),
        ("tank-sensors", "lab-server", "probe-feed", "delivered", None),
        ("hall-sw:1", "10.64.130.77", "ping", "delivered", None),
    ],
)
def test_the_demo(climb: Climb, source: str, target: str, service: str, outcome: str, layer: str | None) -> None:
    """What passes, what is answered by a box, and what is stopped, by layer."""
    found = climb.walk(source, target, service)
    assert (found.outcome, found.layer) == (outcome, layer), found.reason
    assert found.steps
    assert (found.way_back is not None) == (outcome != "stopped")


def test_every_hop_points_into_the_document(demo: Loaded, climb: Climb) -> None:
    """A person can go where each step was decided."""
    found = climb.walk("keepers", "pump-ctl", "pump-bus")
    for step in [*found.steps, *(found.way_back.steps if found.way_back else ())]:
        climb_item = step.pointer.split("/")
        assert climb_item[1] in demo.raw, step
        assert tell(step).text
        assert tell(step).label
    assert [stage_of(s) for s in found.steps][:4] == ["host", "cable", "frame", "cable"]
    assert f"{GATE}/rules/3" in found.decided_by


BREAKS: list[tuple[str, tuple[dict[str, Any], ...], str, str]] = [
    ("a tag missing on the uplink", (replaced(f"{TANK}/lags/0/tagged", [180]),), "vlan", f"{TANK}/lags/0"),
    (
        "the bundle static on one side",
        ({"op": "add", "path": f"{TANK}/lags/0/protocol", "value": "static"},),
        "link",
        "",
    ),
    (
        "the subinterface without a zone",
        ({"op": "remove", "path": f"{GATE}/lags/1/subinterfaces/0/zone"},),
        "zone",
        f"{GATE}/lags/1/subinterfaces/0",
    ),
    ("a zone of the wrong kind", (replaced(f"{GATE}/zones/2/kind", "bridged"),), "zone", f"{GATE}/zones/2/kind"),
    (
        "the rule switched off",
        ({"op": "add", "path": f"{GATE}/rules/2/enabled", "value": False},),
        "rule",
        f"{GATE}/rules/2/enabled",
    ),
    (
        "no gateway for the desk",
        ({"op": "remove", "path": f"{GATE}/lags/0/subinterfaces/0/addresses"},),
        "gateway",
        f"{GATE}/lags/0/subinterfaces/0",
    ),
]


@pytest.mark.parametrize(("what", "patch", "layer", "pointer"), BREAKS, ids=[b[0] for b in BREAKS])
def test_one_thing_missing_is_named_at_its_layer(
    demo: Loaded, what: str, patch: tuple[dict[str, Any], ...], layer: str, pointer: str
) -> None:
    """From the keepers' desk beside the tanks to the pumps: the lowest thing that is missing, and where."""
    found = edited(demo, *patch).walk("tank-sw:5", "pump-ctl", "https")
    assert (found.outcome, found.layer) == ("stopped", layer), found.reason
    assert not pointer or found.decided_by[0] == pointer


def test_no_way_back(demo: Loaded) -> None:
    """The lab has lost its default route: packets to it arrive, replies do not come back."""
    silent = {"op": "remove", "path": f"{GATE}/vrfs/0/ospf/announce_default"}
    found = edited(demo, silent).walk("keepers", "lab-server", "https")
    assert (found.outcome, found.layer) == ("stopped", "return")
    assert "its reply does not" in found.reason
    assert found.way_back is not None
    assert found.way_back.steps[-1].device == "lab-sw"


def test_a_reply_around_the_firewall_is_asymmetric(demo: Loaded) -> None:
    """The lab gets a leg of its own in the keepers' VLAN and answers there, past the firewall."""
    leg = [
        {"op": "add", "path": f"{LAB}/vlans/-", "value": 130},
        {"op": "add", "path": f"{LAB}/ports/-", "value": {"name": "8", "tagged": [130]}},
        {"op": "add", "path": f"{HALL}/ports/-", "value": {"name": "18", "tagged": [130]}},
        {"op": "add", "path": "/cables/-", "value": ["lab-sw:8", "hall-sw:18"]},
        {"op": "add", "path": f"{LAB}/vlan_interfaces/-", "value": {"vlan": 130, "addresses": ["10.64.130.9/24"]}},
        {"op": "add", "path": "/devices/11/gateway", "value": "10.64.130.1"},
    ]
    found: Walk = edited(demo, *leg).walk("desk-7", "lab-server", "https")
    assert (found.outcome, found.layer) == ("stopped", "return")
    assert "asymmetric" in found.reason


def test_a_name_that_looks_like_an_address_is_a_name() -> None:
    """A router called `a` and its port 1, written `a:1`, are no IPv6 address."""
    routers = [
        {"name": n, "kind": "router", "ports": [{"name": "1", "addresses": [f"10.0.0.{k}/31"]}]}
        for k, n in enumerate("ab")
    ]
    found = Climb(design_of(devices=routers, cables=[["a:1", "b:1"]])).walk("a:1", "10.0.0.1", "ping")
    assert found.outcome == "answered"


def test_a_routing_loop_ends(demo: Loaded) -> None:
    """Two routers that point at each other are found out, not followed for ever."""
    loop = replaced(f"{GATE}/vrfs/0/routes/0", {"to": "0.0.0.0/0", "via": "10.64.171.2"})
    found = edited(demo, loop, replaced(f"{GATE}/rules/7/services", ["any"])).walk("lab", "192.0.2.99", "https")
    assert (found.outcome, found.layer, found.decided_by[0]) == ("stopped", "route", f"{GATE}/vrfs/0/routes/0")


def test_islands_send_to_the_gateway_they_lost(demo: Loaded) -> None:
    """Hosts cut off from their gateway are stopped at the uplink, not for want of a gateway."""
    patch = set_membership(demo.raw, "hall-sw", "across", 130, "none")
    found = edited(demo, *patch).walk("keepers@tank-sw", "internet", "https")
    assert (found.layer, found.decided_by[0]) == ("vlan", f"{HALL}/lags/0")


@pytest.mark.parametrize(
    ("source", "service", "said"),
    [
        ("keper", "ping", "did you mean 'keepers'"),
        ("10.99.0.1", "ping", "no host of any subnet"),
        ("10.64.1.300", "ping", "badly written"),
        ("keepers", "htps", "did you mean 'https'"),
        ("quarantine", "ping", "no address family in common"),
        ("visitors", "icmpv6/128", "no address family in common"),
    ],
)
def test_questions_that_cannot_be_asked(climb: Climb, source: str, service: str, said: str) -> None:
    """Unknown places and services name the nearest that would do."""
    with pytest.raises(UnknownPlace, match=said):
        climb.walk(source, "pump-ctl", service)
