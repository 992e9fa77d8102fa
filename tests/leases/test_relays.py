"""Relays (RFC 1542 section 4, RFC 2131): they ask from their own address, over routes and rules like any other packet."""

from __future__ import annotations

from anabasis.climb import Climb
from anabasis.design import parse_design
from anabasis.leases import build_site
from anabasis.probe import Plug, plug
from tests.sites import Tree, access, plan, switch, trunk


def site(servers: list[str], services: list[str] | None = None) -> Tree:
    """Return desks behind a multilayer switch that relays, and a server behind a firewall."""
    relay = {
        **switch("ml", access("1", 11), access("2", 11), trunk("up", 12)),
        "routing": True,
        "vlan_interfaces": [{"vlan": 11, "addresses": ["10.64.11.1/24"]}, {"vlan": 12, "addresses": ["10.64.12.2/24"]}],
        "vrfs": [{"name": "main", "routes": [{"to": "0.0.0.0/0", "via": "10.64.12.1"}]}],
        "dhcp": [{"interface": "vlan11", "mode": "relay", "servers": servers}],
    }
    rule = {"name": "dhcp", "from": ["in"], "to": ["srv"], "services": services or ["udp/67"], "action": "permit"}
    gate = {
        "name": "gate",
        "kind": "firewall",
        "zones": [{"name": "in"}, {"name": "srv"}],
        "rules": [rule],
        "ports": [
            {
                "name": "1",
                "mode": "routed",
                "zone": "in",
                "subinterfaces": [{"tag": 12, "addresses": ["10.64.12.1/24"], "zone": "in"}],
            },
            {"name": "2", "mode": "routed", "zone": "srv", "addresses": ["10.64.13.1/24"]},
        ],
        "vrfs": [{"name": "main", "routes": [{"to": "10.64.11.0/24", "via": "10.64.12.2"}]}],
    }
    server = {"name": "names", "kind": "endpoint", "addresses": ["10.64.13.5/24"]}
    desk = {"name": "desk", "kind": "endpoint", "addresses": ["10.64.11.9/24"]}
    cables = [["ml:up", "gate:1"], ["gate:2", "names:1"], ["ml:2", "desk:1"]]
    return {
        "anabasis": 1,
        "name": "Relay",
        "vlans": plan(11, 12),
        "devices": [relay, gate, server, desk],
        "cables": cables,
    }


def plugged(tree: Tree) -> Plug:
    """Plug a laptop in at a desk."""
    return plug(build_site(parse_design(tree)), "ml:1")


def findings(tree: Tree) -> list[str]:
    """Return the sentences about relays."""
    return [f.sentence for f in Climb(parse_design(tree)).findings if f.code == "relay-nowhere"]


def test_a_relay_that_gets_through() -> None:
    """The server answers the relay, which is not the laptop's own business."""
    found = plugged(site(["10.64.13.5"]))
    assert (found.server, found.layer) == ("10.64.13.5", None)
    assert findings(site(["10.64.13.5"])) == []


def test_a_relay_stopped_by_a_rule_says_which() -> None:
    """The relayed request is udp/67 from the relay's own address (RFC 1542 section 4.1.1)."""
    tree = site(["10.64.13.5"], ["https"])
    assert (plugged(tree).server, plugged(tree).layer) == (None, "rule")
    assert "drops it" in findings(tree)[0]


def test_the_second_server_counts_where_the_first_is_unheard_of() -> None:
    """A relay asks all of its servers."""
    assert plugged(site(["10.64.99.9", "10.64.13.5"])).server == "10.64.13.5"


def test_a_relay_without_a_server_is_a_finding() -> None:
    """And so is one whose server nobody has."""
    assert "relays to no server" in findings(site([]))[0]
    assert findings(site(["10.64.99.9"]))
