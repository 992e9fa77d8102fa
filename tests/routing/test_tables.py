"""Tables: which routes are in force, which wins, and why the others do not."""

from __future__ import annotations

from ipaddress import ip_address
from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.routing import Network3, TableRoute, look_up
from tests.sites import design_of

PORTS = [
    {"name": "1", "addresses": ["10.64.1.1/24"]},
    {"name": "2", "addresses": ["10.64.2.1/24"]},
    {"name": "3", "addresses": ["fd64:0:0:1::1/64"]},
]


def network(*routes: dict[str, Any], cabled: str = "12", **more: Any) -> Network3:
    """Return a router with three ports, some of them cabled to an endpoint, and static routes."""
    router = {"name": "r", "kind": "router", "ports": PORTS, "vrfs": [{"name": "main", "routes": list(routes)}], **more}
    hosts = [{"name": f"h{n}", "kind": "endpoint", "addresses": [f"10.64.{n}.9/24"]} for n in "12"]
    return Climb(design_of(devices=[router, *hosts], cables=[[f"r:{n}", f"h{n}:1"] for n in cabled])).site.net


def static(net: Network3) -> TableRoute:
    """Return the one static route."""
    return next(r for r in net.tables["r", "main"].routes if r.origin == "static")


def winner(net: Network3, address: str) -> str | None:
    """Return where an address goes."""
    found = look_up(net.tables["r", "main"], ip_address(address)).winner
    return f"{found.origin} {found.to} {found.via or found.interface or ''}".strip() if found else None


@pytest.mark.parametrize(
    ("route", "reason"),
    [
        ({"to": "10.64.9.0/24", "via": "10.64.2.2"}, ""),
        ({"to": "10.64.9.0/24", "via": "10.64.77.2"}, "outside every connected subnet"),
        ({"to": "10.64.9.0/24", "via": "0.0.0.0"}, "all zeros"),
        ({"to": "10.64.9.0/24", "via": "10.64.1.1"}, "address of the box itself"),
        ({"to": "10.64.9.0/24", "via": "10.64.2.2", "enabled": False}, "switched off"),
        ({"to": "10.64.9.0/24", "via": "10.64.2.2", "interface": "1"}, "outside every subnet of 1"),
        ({"to": "10.64.9.0/24", "discard": True}, ""),
        ({"to": "fd64:0:0:9::/64", "via": "fd64:0:0:1::2"}, "has no cable"),
    ],
)
def test_static_routes(route: dict[str, Any], reason: str) -> None:
    """Each is in force, or says why not."""
    found = static(network(route))
    assert found.active == (not reason)
    assert reason in found.reason


def test_a_route_dies_with_its_line() -> None:
    """The next hop's subnet is on a port without a cable: layer link, and the port to blame."""
    found = static(network({"to": "10.64.9.0/24", "via": "10.64.2.2"}, cabled="1"))
    assert found.cause is not None
    assert (found.active, found.cause.layer) == (False, "link")
    assert found.blame == "/devices/0/ports/1"


def test_longest_prefix_first() -> None:
    """RFC 4632 section 5.1, whatever the order of writing."""
    routes = [{"to": "0.0.0.0/0", "via": "10.64.1.2"}, {"to": "10.64.9.0/24", "via": "10.64.2.2"}]
    net = network(*routes)
    assert winner(net, "10.64.9.7") == "static 10.64.9.0/24 10.64.2.2"
    assert winner(net, "192.0.2.1") == "static 0.0.0.0/0 10.64.1.2"
    assert winner(net, "10.64.1.1") == "local 10.64.1.1/32 1"
    assert winner(net, "2001:db8::1") is None


def test_preference_then_metric() -> None:
    """Lower wins, preference before metric; connected wins a tie with static."""
    near, far = {"to": "10.64.9.0/24", "via": "10.64.1.2"}, {"to": "10.64.9.0/24", "via": "10.64.2.2"}
    assert winner(network(near | {"metric": 5}, far | {"metric": 1}), "10.64.9.1") == "static 10.64.9.0/24 10.64.2.2"
    assert (
        winner(network(near | {"preference": 12}, far | {"metric": 9}), "10.64.9.1") == "static 10.64.9.0/24 10.64.2.2"
    )
    over = {"to": "10.64.2.0/24", "via": "10.64.1.2", "preference": 0}
    assert winner(network(over), "10.64.2.7") == "connected 10.64.2.0/24 2"


def test_a_missed_longer_route_is_remembered() -> None:
    """So that a packet gone astray is explained by the route that should have taken it."""
    net = network({"to": "0.0.0.0/0", "via": "10.64.1.2"}, {"to": "10.64.9.0/24", "via": "10.64.2.2"}, cabled="1")
    found = look_up(net.tables["r", "main"], ip_address("10.64.9.1"))
    assert found.winner is not None
    assert found.winner.to.prefixlen == 0
    assert found.missed is not None
    assert found.missed.to.prefixlen == 24


def test_a_route_to_an_address_set_is_one_for_each_member() -> None:
    """Prefixes, hosts, ranges and sets inside it; of the family of its next hop; and an edit of the set is an edit of the routes."""
    members = ["10.70.0.0/24", "10.70.1.7", "10.70.2.0-10.70.2.127", "inner", "fd70::/64"]
    sets = [{"name": "far", "members": members}, {"name": "inner", "members": ["10.70.9.0/24"]}]
    ports = [{"name": "1", "addresses": ["10.0.0.1/24"]}]
    router = {
        "name": "r",
        "kind": "router",
        "ports": ports,
        "vrfs": [{"name": "main", "routes": [{"to": "far", "via": "10.0.0.2"}]}],
    }
    other = {"name": "q", "kind": "router", "ports": [{"name": "1", "addresses": ["10.0.0.2/24"]}]}
    design = design_of(addresses=sets, devices=[router, other], cables=[["r:1", "q:1"]])
    climb = Climb(design)

    def told(of: Climb) -> list[str]:
        return [str(r.to) for r in of.site.net.tables["r", "main"].routes if r.origin == "static"]

    assert told(climb) == ["10.70.0.0/24", "10.70.1.7/32", "10.70.2.0/25", "10.70.9.0/24"]
    assert {r.pointer for r in climb.site.net.tables["r", "main"].routes if r.origin == "static"} == {
        "/devices/0/vrfs/0/routes/0"
    }
    fewer = [{"name": "far", "members": ["10.70.0.0/24"]}, *sets[1:]]
    edited = climb.edited(design_of(addresses=fewer, devices=[router, other], cables=[["r:1", "q:1"]]))
    assert told(edited) == ["10.70.0.0/24"]
