"""Layer 3 as a person reads it: states of routes, leaks between VRFs, and lookups with their losers."""

from __future__ import annotations

import pytest

from anabasis.climb import Climb
from anabasis.errors import UnknownPlace
from anabasis.views import lookup_view, routing_overview
from tests.sites import design_of


def test_the_demo_firewall_comes_first_with_its_vrfs(climb: Climb) -> None:
    """And says which routes lead from one VRF into another."""
    gate = routing_overview(climb.site.net)[0]
    assert gate.name == "gate"
    assert {v.name: v.leaks for v in gate.vrfs} == {
        "main": ["203.0.113.64/26 is looked up in VRF reef"],
        "reef": ["10.64.170.10/32 is looked up in VRF main"],
    }
    assert {i.name: i.segment for i in gate.interfaces}["hall.130"] == "keepers"


def test_states_of_routes() -> None:
    """In force, shared, standing by, inactive."""
    routes = [
        {"to": "192.0.2.0/24", "via": "10.64.1.9"},
        {"to": "192.0.2.0/24", "via": "10.64.2.9"},
        {"to": "192.0.2.0/24", "via": "10.64.2.8", "preference": 19},
        {"to": "198.51.100.0/24", "via": "10.64.9.9"},
    ]
    ports = [{"name": str(n), "addresses": [f"10.64.{n}.1/24"]} for n in (1, 2)]
    router = {"name": "r", "kind": "router", "ports": ports, "vrfs": [{"name": "main", "routes": routes}]}
    peers = [{"name": f"p{n}", "kind": "endpoint", "addresses": [f"10.64.{n}.9/24"]} for n in (1, 2)]
    net = Climb(design_of(devices=[router, *peers], cables=[["r:1", "p1:1"], ["r:2", "p2:1"]])).site.net
    (view,) = routing_overview(net)
    states = [r.state for r in view.vrfs[0].routes if r.origin == "static"]
    assert states == ["shares", "shares", "stands by", "inactive"]
    found = lookup_view(net, "r", "main", "192.0.2.7")
    assert [r.wins for r in found.rows] == [True, True, False]
    assert "shares the traffic with 1 more" in found.rows[0].why
    assert "the winner's are better" in found.rows[2].why


def test_a_lookup_follows_a_route_into_another_vrf(climb: Climb) -> None:
    """And says by which interface and zone it leaves in the end."""
    found = lookup_view(climb.site.net, "gate", "main", "203.0.113.70")
    assert found.outcome == "leaves by 9 (zone reef) to 198.51.100.33"
    assert [r.vrf for r in found.rows if r.wins] == ["main", "reef"]


@pytest.mark.parametrize(
    ("address", "outcome"),
    [
        ("10.64.130.1", "10.64.130.1 is gate's own, on hall.130"),
        ("10.64.130.9", "leaves by hall.130 (zone house), straight to it on the link"),
        ("fd64:0:0:170::1", "leaves by 1 (zone street) to 2001:db8:0:2::1"),
    ],
)
def test_outcomes(climb: Climb, address: str, outcome: str) -> None:
    """The box's own, on the link, and by a next hop."""
    assert lookup_view(climb.site.net, "gate", "main", address).outcome == outcome


@pytest.mark.parametrize(("vrf", "address"), [("mian", "10.64.1.1"), ("main", "10.64.1"), ("main", "")])
def test_what_cannot_be_looked_up(climb: Climb, vrf: str, address: str) -> None:
    """One clear sentence."""
    with pytest.raises(UnknownPlace):
        lookup_view(climb.site.net, "gate", vrf, address)
