"""Cases from the standards: longest match (RFC 4632), elections of redundant gateways (RFC 9568), private space (RFC 1918, RFC 4193)."""

from __future__ import annotations

import pytest

from anabasis.climb import Climb
from anabasis.design.notation import is_private, parse_address
from anabasis.facts import Receives
from anabasis.routing import look_up
from tests.sites import Tree, access, design_of, plan, switch, trunk


def table_of(*routes: Tree, **more: object) -> Climb:
    """Return a router with two links and some static routes."""
    ports = [{"name": str(n), "addresses": [f"10.64.{n}.1/24"]} for n in (1, 2)]
    hosts = [
        {"name": f"h{n}", "kind": "router", "ports": [{"name": "1", "addresses": [f"10.64.{n}.9/24"]}]} for n in (1, 2)
    ]
    router = {"name": "r", "kind": "router", "ports": ports, "vrfs": [{"name": "main", "routes": list(routes)}], **more}
    return Climb(design_of(devices=[router, *hosts], cables=[["r:1", "h1:1"], ["r:2", "h2:1"]]))


def hops(climb: Climb, address: str) -> list[str]:
    """Return where packets to an address go, all of them where several share."""
    found = look_up(climb.site.net.tables["r", "main"], parse_address(address))
    return [r.goes_to or r.origin for r in found.shared]


CLASSLESS = [
    {"to": "0.0.0.0/0", "via": "10.64.1.9"},
    {"to": "192.0.2.0/24", "via": "10.64.2.9"},
    {"to": "192.0.2.128/25", "via": "10.64.1.9"},
    {"to": "192.0.2.192/26", "discard": True},
]


@pytest.mark.parametrize(
    ("address", "goes_to"),
    [
        ("203.0.113.1", "10.64.1.9"),  # only the default holds it: the prefix of length zero (RFC 4632 section 5.1)
        ("192.0.2.1", "10.64.2.9"),
        ("192.0.2.129", "10.64.1.9"),
        ("192.0.2.193", "discarded"),  # the longest wins, even where it discards
        ("10.64.2.77", "connected"),
    ],
)
def test_the_longest_prefix_wins(address: str, goes_to: str) -> None:
    """RFC 4632 section 5.1: the route with the longest matching mask, whatever else there is."""
    assert hops(table_of(*CLASSLESS), address) == [goes_to]


def test_equal_routes_share_and_the_better_preference_or_metric_wins() -> None:
    """Preference first, then metric; equal in both = shared."""
    one, two = {"to": "192.0.2.0/24", "via": "10.64.1.9"}, {"to": "192.0.2.0/24", "via": "10.64.2.9"}
    assert hops(table_of(one, two), "192.0.2.1") == ["10.64.1.9", "10.64.2.9"]
    assert hops(table_of(one | {"metric": 5}, two), "192.0.2.1") == ["10.64.2.9"]
    assert hops(table_of(one | {"metric": 5}, two | {"preference": 19}), "192.0.2.1") == ["10.64.1.9"]
    assert hops(table_of(one, two | {"preference": 1}, preferences={"static": 7}), "192.0.2.1") == ["10.64.2.9"]


def test_a_floating_route_takes_over_when_the_first_is_inactive() -> None:
    """It stands by until then."""
    floating = {"to": "192.0.2.0/24", "via": "10.64.2.9", "preference": 200}
    assert hops(table_of({"to": "192.0.2.0/24", "via": "10.64.1.9"}, floating), "192.0.2.1") == ["10.64.1.9"]
    assert hops(table_of({"to": "192.0.2.0/24", "via": "10.64.99.9"}, floating), "192.0.2.1") == ["10.64.2.9"]


def test_a_recursive_next_hop_is_reached_by_another_static_route() -> None:
    """Only where the route says so; two that lean on each other never come up."""
    under = {"to": "198.51.100.0/24", "via": "10.64.1.9"}
    over = {"to": "192.0.2.0/24", "via": "198.51.100.7"}
    plain, asked = table_of(under, over), table_of(under, over | {"recursive": True})
    assert hops(plain, "192.0.2.1") == []
    row = look_up(asked.site.net.tables["r", "main"], parse_address("192.0.2.1")).winner
    assert row is not None
    assert (str(row.via), str(row.hop), row.interface) == ("198.51.100.7", "10.64.1.9", "1")
    leaning = [
        {"to": "192.0.2.0/24", "via": "198.51.100.7", "recursive": True},
        {"to": "198.51.100.0/24", "via": "192.0.2.7", "recursive": True},
    ]
    assert hops(table_of(*leaning), "192.0.2.1") == []


def routers(*virtual: Tree, cut: bool = False) -> Climb:
    """Return three routers on one VLAN, with what each says of the redundant gateway 10, and a host that sends to it."""
    boxes = []
    for k, own in enumerate(virtual, start=1):
        port: Tree = {
            "name": "1",
            "addresses": [f"10.64.11.{k + 1}/24"],
            "vrrp": [{"id": 10, "addresses": ["10.64.11.1"], **own}],
        }
        out = {"name": "2", "addresses": [f"10.64.{20 + k}.1/24"]}
        boxes.append({"name": f"r{k}", "kind": "router", "ports": [port, out]})
    ports = [access(str(k), 11) for k in range(1, len(virtual) + 1)] + [access("9", 11)]
    second = [switch("sw2", access("3", 11), trunk("up", 11))] if cut else []
    cables = [[f"sw:{k}", f"r{k}:1"] for k in range(1, len(virtual) + 1)]
    if cut:
        cables[-1] = ["sw2:3", f"r{len(virtual)}:1"]
    return Climb(
        design_of(vlans=plan(11), devices=[switch("sw", *ports, trunk("up", 11)), *second, *boxes], cables=cables)
    )


def elected(climb: Climb) -> list[str]:
    """Return who answers for the virtual address."""
    return [i.device for i in climb.site.net.holders(parse_address("10.64.11.1"))]


def test_the_highest_priority_is_elected() -> None:
    """RFC 9568 section 6.4.2: a backup stays one while it hears a better priority."""
    assert elected(routers({"priority": 100}, {"priority": 150}, {"priority": 120})) == ["r2"]


def test_equal_priorities_are_decided_by_the_greater_address() -> None:
    """RFC 9568 section 6.4.3."""
    assert elected(routers({}, {}, {})) == ["r3"]


def test_the_owner_of_the_address_has_priority_255() -> None:
    """RFC 9568 section 5.2.4: whoever holds the address itself, whatever is written."""
    climb = routers({"priority": 254, "addresses": ["10.64.11.3"]}, {"addresses": ["10.64.11.3"], "priority": 1})
    assert [i.device for i in climb.site.net.holders(parse_address("10.64.11.3"))] == ["r2"]


def test_routers_that_do_not_hear_each_other_are_both_active() -> None:
    """An island elects a router of its own."""
    assert elected(routers({"priority": 100}, {"priority": 150}, cut=True)) == ["r1", "r2"]


def test_hosts_send_to_the_virtual_address_and_the_elected_one_takes_packets_to_it_only_if_it_may() -> None:
    """RFC 9568 section 6.1: Accept_Mode is off by default."""
    climb = routers({"priority": 100}, {"priority": 150})
    went = climb.walk("sw:9", "10.64.22.7", "ping")
    assert [s.device for s in went.steps if isinstance(s, Receives)] == ["r2"]
    refused = climb.walk("sw:9", "10.64.11.1", "ping")
    assert (refused.outcome, refused.layer) == ("stopped", "answers")
    assert "accept_mode" in refused.reason
    assert (
        routers({"priority": 100}, {"priority": 150, "accept_mode": True}).walk("sw:9", "10.64.11.1", "ping").outcome
        == "answered"
    )


@pytest.mark.parametrize(
    ("address", "private"),
    [
        ("10.0.0.0", True),
        ("10.255.255.255", True),
        ("172.15.255.255", False),
        ("172.16.0.0", True),
        ("172.31.255.255", True),
        ("172.32.0.0", False),
        ("192.168.0.0", True),
        ("192.169.0.0", False),
        ("fc00::1", True),
        ("fdff::1", True),
        ("fe00::1", False),
        ("198.51.100.1", False),
    ],
)
def test_private_space(address: str, private: bool) -> None:
    """RFC 1918 section 3 and RFC 4193 section 3.1, at both ends of each block."""
    assert is_private(parse_address(address)) == private
