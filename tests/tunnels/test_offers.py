"""Outbound clients: a tunnel to somebody else's network, which takes it (`offers`), by hand (RFC 7296, RFC 3948 section 2)."""

from __future__ import annotations

from anabasis.climb import Climb
from anabasis.design import parse_design
from anabasis.facts import Wrong
from anabasis.views import cabling
from tests.sites import Tree, access, plan, switch


def office(
    offers: list[Tree] | None = None, tunnel: Tree | None = None, rules: list[Tree] | None = None, route: bool = True
) -> Tree:
    """Return desks behind a firewall, whose tunnel leads to a records office beyond the street."""
    out = {"name": "desks-go-out", "from": ["in"], "to": ["far"], "services": ["https"], "action": "permit"}
    vpn = {
        "name": "records",
        "protocol": "ipsec",
        "local": "street",
        "peer": "203.0.113.50",
        "addresses": ["10.99.0.1/30"],
        "zone": "far",
    }
    gate = {
        "name": "gate",
        "kind": "firewall",
        "zones": [{"name": "in"}, {"name": "street"}, {"name": "far"}],
        "rules": rules if rules is not None else [out],
        "ports": [
            {"name": "lan", "mode": "routed", "addresses": ["10.64.11.1/24"], "zone": "in"},
            {"name": "street", "mode": "routed", "addresses": ["198.51.100.2/28"], "zone": "street"},
        ],
        "tunnels": [{**vpn, **(tunnel or {})}],
        "vrfs": [
            {
                "name": "main",
                "routes": [
                    {"to": "0.0.0.0/0", "via": "198.51.100.1"},
                    *([{"to": "10.90.0.0/24", "interface": "records"}] if route else []),
                ],
            }
        ],
    }
    street = {
        "name": "internet",
        "kind": "outside",
        "prefixes": ["0.0.0.0/0"],
        "ports": [{"name": "1", "addresses": ["198.51.100.1/28"]}],
        "offers": offers
        if offers is not None
        else [{"name": "records-office", "protocol": "ipsec", "prefixes": ["10.90.0.0/24"]}],
    }
    sw = switch("sw", access("up", 11), access("1", 11))
    cables = [["sw:up", "gate:lan"], ["gate:street", "internet:1"]]
    return {"anabasis": 1, "name": "Client", "vlans": plan(11), "devices": [gate, street, sw], "cables": cables}


def test_what_lies_behind_an_offer_is_reached_by_the_tunnel() -> None:
    """The tunnel comes up, and by its route hosts there are reached where rules permit, by both engines; they answer into it."""
    climb = Climb(parse_design(office()))
    assert not [f for f in climb.findings if f.kind.code == "tunnel-down"]
    assert climb.walk("v11", "10.90.0.9", "https").outcome != "stopped"
    assert climb.walk("v11", "10.90.0.9", "ssh").outcome == "stopped"
    a, b = climb.segment("v11"), climb.segment("records")
    assert climb.site.segments.all[b].subnets == ("10.90.0.0/24", "10.99.0.0/30")
    assert climb.sweep.flows(a, b, frozenset({(6, 443, 443)})).boxes
    assert not climb.sweep.flows(a, b, frozenset({(6, 22, 22)})).boxes
    assert not climb.sweep.flows(b, a).boxes


def test_who_offers_nothing_takes_nothing() -> None:
    """Without an offer nobody takes the tunnel; with one of another protocol both ends are to blame."""
    climb = Climb(parse_design(office(offers=[])))
    down = [f for f in climb.findings if f.kind.code == "tunnel-down"]
    assert down
    assert down[0].cause is not None
    assert down[0].cause.root.wrong == Wrong.TUNNEL_NOBODY
    climb = Climb(parse_design(office(tunnel={"protocol": "gre"})))
    cause = next(f.cause for f in climb.findings if f.kind.code == "tunnel-down")
    assert cause is not None
    assert cause.root.wrong == Wrong.TUNNEL_PROTOCOL
    assert set(cause.root.guilty) >= {"/devices/0/tunnels/0", "/devices/1/offers/0"}


def test_a_filter_outside_takes_it_down() -> None:
    """Its packets are packets: where no route leads outside the tunnel is down, and the route is what is missing."""
    tree = office()
    del tree["devices"][0]["vrfs"][0]["routes"][0]
    climb = Climb(parse_design(tree))
    assert climb.walk("v11", "10.90.0.9", "https").outcome == "stopped"
    cause = next(f.cause for f in climb.findings if f.kind.code == "tunnel-down")
    assert cause is not None
    assert cause.root.wrong != Wrong.TUNNEL_NOBODY


def test_without_a_route_nothing_goes_into_it() -> None:
    """Routes attract: without one the packets go to the street."""
    climb = Climb(parse_design(office(route=False)))
    assert climb.walk("v11", "10.90.0.9", "https").outcome == "stopped"


def test_what_it_carries_is_what_this_end_says() -> None:
    """Selectors of the client narrow what goes in."""
    climb = Climb(parse_design(office(tunnel={"there": ["10.90.0.0/25"]})))
    assert climb.walk("v11", "10.90.0.9", "https").outcome != "stopped"
    assert climb.walk("v11", "10.90.0.200", "https").outcome == "stopped"
    a, b = climb.segment("v11"), climb.segment("records")
    ends = {d for box in climb.sweep.flows(a, b).boxes for d in box.destinations}
    assert max(high for _, high in ends) == int.from_bytes(bytes([10, 90, 0, 127]))


def test_no_address_no_way_back() -> None:
    """An end without an address of its own is nobody's gateway: hosts there cannot answer, and that is what is said."""
    climb = Climb(parse_design(office(tunnel={"addresses": []})))
    went = climb.walk("v11", "10.90.0.9", "https")
    assert went.outcome == "stopped"
    assert went.cause is not None
    assert went.cause.root.wrong == Wrong.NO_GATEWAY


def test_it_is_drawn_to_the_outside() -> None:
    """One line from the box to the outside, up or down, beside the cable."""
    for offers, state in ((None, "up"), ([{"name": "o", "prefixes": ["10.90.0.0/24"], "protocol": "gre"}], None)):
        site = Climb(parse_design(office(offers=offers))).site
        lines = [x for x in cabling(site.fabric, site.conditions).lines if x.kind == "tunnel"]
        assert [(x.ends, x.state) for x in lines] == ([(["gate", "internet"], state)] if state else [])
    tree = office()
    del tree["devices"][0]["vrfs"][0]["routes"][0]
    site = Climb(parse_design(tree)).site
    assert [x.state for x in cabling(site.fabric, site.conditions).lines if x.kind == "tunnel"] == ["down"]
