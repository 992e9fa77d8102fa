"""Policy routes, by hand: what they look at, their order, what falls back to the table, replies, and the cause of one that is down.

The table is longest prefix first (RFC 1812 section 5.2.4.3); what is asked before it is docs/semantics.md, "Policy routes".
"""

from __future__ import annotations

import pytest

from anabasis.climb import Climb
from anabasis.design import parse_design
from anabasis.errors import InputRefused
from anabasis.facts import FollowsRoute, Wrong
from tests.sites import Tree, access, plan, switch, trunk


def site(*steering: Tree, back: list[Tree] | None = None) -> Tree:
    """Return two VLANs on a router with two lines to a far router, `up` and `down`, beyond which servers stand; `down` leads through a gate that lets nothing pass."""
    here = {
        "name": "r1",
        "kind": "router",
        "ports": [
            {"name": "lan", "mode": "routed", "subinterfaces": [{"tag": v, "addresses": [f"10.64.{v}.1/24"]} for v in (11, 12)]},
            {"name": "up", "mode": "routed", "addresses": ["10.0.1.1/30"]},
            {"name": "down", "mode": "routed", "addresses": ["10.0.2.1/30"]},
        ],
        "vrfs": [{"name": "main", "routes": [*steering, {"to": "10.64.13.0/24", "via": "10.0.1.2"}]}],
    }  # fmt: skip
    far = {
        "name": "r2",
        "kind": "router",
        "ports": [
            {"name": "up", "mode": "routed", "addresses": ["10.0.1.2/30"]},
            {"name": "down", "mode": "routed", "addresses": ["10.0.2.2/30"]},
            {"name": "lan", "mode": "routed", "addresses": ["10.64.13.1/24"]},
        ],
        "vrfs": [{"name": "main", "routes": [*(back or []), {"to": "10.64.0.0/16", "via": "10.0.1.1"}]}],
    }
    gate = {
        "name": "gate",
        "kind": "firewall",
        "zones": [{"name": "a", "kind": "inline"}, {"name": "b", "kind": "inline"}],
        "ports": [{"name": "1", "mode": "inline", "zone": "a"}, {"name": "2", "mode": "inline", "zone": "b"}],
        "wires": [{"name": "pair", "ends": ["1", "2"], "tags": "any"}],
    }
    desks = switch("sw", trunk("up", 11, 12), access("1", 11), access("2", 12))
    servers = switch("srv", access("up", 13), access("1", 13))
    cables = [
        ["sw:up", "r1:lan"],
        ["r1:up", "r2:up"],
        ["r1:down", "gate:1"],
        ["gate:2", "r2:down"],
        ["r2:lan", "srv:up"],
    ]
    devices = [here, far, gate, desks, servers]
    return {"anabasis": 1, "name": "Two ways", "vlans": plan(11, 12, 13), "devices": devices, "cables": cables}


def opened(tree: Tree, source: str) -> dict[str, bool]:
    """Return whether hosts of a VLAN reach the servers by some services, by walk; all pairs have to say the same."""
    climb = Climb(parse_design(tree))
    a, b = climb.segment(source), climb.segment("v13")
    out: dict[str, bool] = {}
    for service, span in (("https", (6, 443, 443)), ("ssh", (6, 22, 22)), ("udp/53", (17, 53, 53))):
        went = climb.walk(source, "v13", service)
        out[service] = went.outcome != "stopped"
        flows = climb.sweep.flows(a, b, frozenset({span}))
        assert bool(flows.boxes) == out[service], service
    return out


DOWN = {"to": "10.64.13.0/24", "via": "10.0.2.2"}
ALL, NONE = dict.fromkeys(("https", "ssh", "udp/53"), True), dict.fromkeys(("https", "ssh", "udp/53"), False)


def test_by_source() -> None:
    """One VLAN is led onto the closed line, the other goes by the table."""
    tree = site({**DOWN, "sources": ["10.64.11.0/24"]})
    assert (opened(tree, "v11"), opened(tree, "v12")) == (NONE, ALL)


def test_by_service() -> None:
    """One service is led onto the closed line, all others go by the table."""
    tree = site({**DOWN, "services": ["https"]})
    assert opened(tree, "v11") == {"https": False, "ssh": True, "udp/53": True}


def test_by_the_interface_entered() -> None:
    """What came in by one subinterface is led onto the closed line."""
    tree = site({**DOWN, "entered": ["lan.12"]})
    assert (opened(tree, "v11"), opened(tree, "v12")) == (ALL, NONE)


def test_all_conditions_have_to_match() -> None:
    """Source, service and interface together."""
    tree = site({**DOWN, "sources": ["10.64.11.0/24"], "services": ["ssh"], "entered": ["lan.11"]})
    assert opened(tree, "v11") == {"https": True, "ssh": False, "udp/53": True}
    assert opened(tree, "v12") == ALL
    assert opened(site({**DOWN, "sources": ["10.64.11.0/24"], "entered": ["lan.12"]}), "v11") == ALL


def test_the_first_that_matches_decides() -> None:
    """An exception stands before what it is an exception of."""
    keep = {"to": "10.64.13.0/24", "via": "10.0.1.2", "sources": ["10.64.11.0/25"], "services": ["https"]}
    rest = {**DOWN, "sources": ["10.64.11.0/24"]}
    climb = Climb(parse_design(site(keep, rest)))
    assert climb.walk("10.64.11.9", "v13", "https").outcome != "stopped"
    assert climb.walk("10.64.11.9", "v13", "ssh").outcome == "stopped"
    assert climb.walk("10.64.11.200", "v13", "https").outcome == "stopped"
    assert opened(site(rest, keep), "v11") == NONE


def test_a_longer_prefix_in_the_table_does_not_come_before() -> None:
    """A policy route to anything takes what the table has a longer route for."""
    assert opened(site({"to": "0.0.0.0/0", "via": "10.0.2.2", "sources": ["10.64.11.0/24"]}), "v11") == NONE


def test_replies_are_led_by_policy_too() -> None:
    """The far router leads replies to one VLAN onto the closed line, by their source; by a port it leads none, since a reply goes to any port."""
    tree = site(back=[{"to": "10.64.11.0/24", "via": "10.0.2.1", "sources": ["10.64.13.0/24"]}])
    assert (opened(tree, "v11"), opened(tree, "v12")) == (NONE, ALL)
    tree = site(back=[{"to": "10.64.11.0/24", "via": "10.0.2.1", "services": ["https"]}])
    assert opened(tree, "v11") == ALL
    tree = site(back=[{"to": "10.64.11.0/24", "via": "10.0.2.1", "services": ["tcp"]}])
    assert opened(tree, "v11") == {"https": False, "ssh": False, "udp/53": True}


def test_it_is_told_as_what_it_is() -> None:
    """The step of the walk is marked, and points at the route."""
    went = Climb(parse_design(site({**DOWN, "to": "10.64.13.0/24", "sources": ["10.64.11.0/24"]}))).walk(
        "v11", "v13", "ssh"
    )
    steps = [s for s in went.steps if isinstance(s, FollowsRoute)]
    assert [(s.steers, s.pointer) for s in steps][:1] == [(True, "/devices/0/vrfs/0/routes/0")]


def test_one_that_is_down_is_the_cause() -> None:
    """Its next hop is on no link: the packet falls to the table, which has nothing, and the policy route is named."""
    tree = site({**DOWN, "via": "10.0.9.9", "sources": ["10.64.11.0/24"]})
    tree["devices"][0]["vrfs"][0]["routes"].pop()
    climb = Climb(parse_design(tree))
    cause = climb.walk("v11", "v13", "ssh").cause
    assert cause is not None
    assert cause.wrong == Wrong.ROUTE_INACTIVE
    assert "/devices/0/vrfs/0/routes/0" in " ".join(cause.pointers)
    assert any("/devices/0/vrfs/0/routes/0" in f.pointers for f in climb.findings if f.kind.severity == "breaks")


@pytest.mark.parametrize(
    "route", [{"to": "10.64.13.0/24", "via": "10.0.2.2", "entered": ["lna.11"]}, {**DOWN, "sources": ["elsewhere"]}]
)
def test_names_have_to_stand_for_something(route: Tree) -> None:
    """An interface or a set that is none is refused, with the nearest name."""
    with pytest.raises(InputRefused):
        parse_design(site(route))


def test_one_that_comes_into_force_by_an_edit() -> None:
    """Its next hop is mistyped, and mended: what is kept over the edit is what is computed from nothing, both ways."""
    wrong, right = (site({**DOWN, "via": via, "sources": ["10.64.11.0/24"]}) for via in ("10.0.9.9", "10.0.2.2"))
    climb = Climb(parse_design(wrong))
    assert climb.sweep.fingerprints.any()  # it is all there to be taken over
    for tree in (right, wrong, right):
        climb, before = climb.edited(parse_design(tree)), climb
        climb.consequences_since(before)
        a, b = climb.segment("v11"), climb.segment("v13")
        assert bool(climb.sweep.flows(a, b).boxes) == (tree is wrong)
        assert (climb.sweep.fingerprints == Climb(parse_design(tree)).sweep.fingerprints).all()
