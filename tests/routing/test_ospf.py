"""OSPF by hand: small domains reasoned from RFC 2328 and RFC 5340, clause by clause."""

from __future__ import annotations

from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.design import parse_design
from anabasis.design.edits import patched
from anabasis.errors import InputRefused
from tests.sites import Tree, access, plan, switch

Row = tuple[str, str, int, tuple[str, ...]]


def router(number: int, *interfaces: tuple[str, dict[str, Any]], six: bool = False, **more: Any) -> Tree:
    """Return router `r{number}`: interfaces `1`, `2` … by address and what OSPF is told of each."""
    said = [{"interface": str(k + 1), **settings} for k, (_, settings) in enumerate(interfaces)]
    ports = [
        {"name": str(k + 1), "addresses": [a] + ([f"fd00:{a.split('.')[2]}::{number}/64"] if six else [])}
        for k, (a, _) in enumerate(interfaces)
    ]
    ospf = {"router_id": f"10.255.0.{number}", "interfaces": said, **more}
    return {"name": f"r{number}", "kind": "router", "ports": ports, "vrfs": [{"name": "main", "ospf": ospf}]}


def line(six: bool = False, **first: Any) -> Tree:
    """Return r1 - r2 - r3 on links between two, hosts behind r1 and r3. `first`: what is different at r2 towards r1; `six`: IPv6 as well."""
    passive = {"passive": True}
    devices = [
        router(1, ("10.1.12.1/30", {}), ("10.64.11.1/24", passive), six=six),
        router(2, ("10.1.12.2/30", first), ("10.1.23.1/30", {"cost": 5}), six=six),
        router(3, ("10.1.23.2/30", {}), ("10.64.12.1/24", passive), six=six),
        switch("sa", access("1", 11), access("2", 11)),
        switch("sb", access("1", 12), access("2", 12)),
        {"name": "ha", "kind": "endpoint", "addresses": ["10.64.11.9/24"]},
        {"name": "hb", "kind": "endpoint", "addresses": ["10.64.12.9/24"]},
    ]
    cables = [
        ["r1:1", "r2:1"],
        ["r2:2", "r3:1"],
        ["r1:2", "sa:1"],
        ["sa:2", "ha:1"],
        ["r3:2", "sb:1"],
        ["sb:2", "hb:1"],
    ]
    return {"anabasis": 1, "name": "Line", "vlans": plan(11, 12), "devices": devices, "cables": cables}


def climbed(tree: Tree) -> Climb:
    """Climb a tree."""
    return Climb(parse_design(tree))


def learnt(climb: Climb, name: str, version: int = 4) -> set[Row]:
    """Return what a router has learnt: (prefix, how, cost, next hops)."""
    found: dict[tuple[str, str, int], list[str]] = {}
    for r in climb.site.net.tables[name, "main"].routes:
        if r.origin == "ospf" and r.to.version == version:
            found.setdefault((str(r.to), str(r.learnt), r.metric), []).append(str(r.hop))
    return {(*key, tuple(sorted(hops))) for key, hops in found.items()}


def test_costs_add_up_on_the_way_out() -> None:
    """Section 16.1: every router pays for its own interface; a stub network counts with the cost of the interface that has it."""
    climb = climbed(line(six=True))
    assert learnt(climb, "r1") == {
        ("10.1.23.0/30", "intra-area", 15, ("10.1.12.2",)),
        ("10.64.12.0/24", "intra-area", 25, ("10.1.12.2",)),
    }
    assert ("10.64.11.0/24", "intra-area", 30, ("10.1.23.1",)) in learnt(climb, "r3")
    assert ("fd00:23::/64", "intra-area", 15, ("fd00:12::2",)) in learnt(climb, "r1", 6)
    assert climb.walk("ha", "hb", "ping").outcome == "delivered"


@pytest.mark.parametrize(
    ("settings", "wrong"),
    [
        ({"area": "1"}, "neighbour-area"),  # section 8.2: the area of a packet is that of the interface
        ({"hello_s": 30}, "neighbour-hello"),  # section 10.5
        ({"dead_s": 60}, "neighbour-dead"),  # section 10.5
        ({"auth": "own"}, "neighbour-auth"),  # section 8.2, appendix D
        ({"network": "point-to-point"}, "neighbour-network"),
        ({"passive": True}, "neighbour-passive"),
    ],
)
def test_what_keeps_two_apart_names_both(settings: dict[str, Any], wrong: str) -> None:
    """One finding, with both sides; the walk names the same, and nothing is learnt across."""
    climb = climbed(line(**settings))
    assert not {row[0] for row in learnt(climb, "r1")} & {"10.64.12.0/24"}
    found = [f for f in climb.findings if f.code == "neighbour-apart"]
    assert [str(f.cause.wrong) for f in found if f.cause is not None] == [wrong]
    assert {p.partition("/vrfs")[0] for p in found[0].pointers if "/ospf/" in p} == {"/devices/0", "/devices/1"}
    went = climb.walk("ha", "hb", "ping")
    assert went.outcome == "stopped"
    assert went.cause is not None
    assert went.cause.root.wrong == wrong


@pytest.mark.parametrize(
    ("patch", "wrong"),
    [
        ([("/devices/1/ports/0/mtu", 1400)], "neighbour-mtu"),  # section 10.6: the description packet is refused
        ([("/devices/1/vrfs/0/ospf/router_id", "10.255.0.1")], "neighbour-router-id"),
        ([("/devices/1/ports/0/addresses", ["10.1.12.2/29"])], "neighbour-subnet"),  # section 10.5
        ([("/devices/1/vrfs/0/ospf/interfaces/0/priority", 0), ("/devices/0/vrfs/0/ospf/interfaces/0/priority", 0)], "neighbour-priority"),
        ([("/devices/1/vrfs/0/ospf/stub", [{"area": "0"}])], "neighbour-stub"),  # section 10.5: the E-bit
        ([("/devices/1/ports/0/enabled", False)], "disabled"),
    ],
)  # fmt: skip
def test_what_lies_elsewhere_keeps_two_apart_as_well(patch: list[tuple[str, Any]], wrong: str) -> None:
    """The box, the line, the ids: the lowest is named."""
    climb = climbed(patched(line(), [{"op": "add", "path": at, "value": value} for at, value in patch]))
    found = climb.walk("ha", "hb", "ping").cause
    assert found is not None
    assert found.root.wrong == wrong


def test_ipv6_compares_no_subnet() -> None:
    """RFC 5340 section 4.2.2.1: prefixes are no matter of the hello; IPv4 of the same link learns nothing, IPv6 all."""
    tree = line(six=True)
    tree["devices"][1]["ports"][0]["addresses"][0] = "10.1.12.2/29"
    climb = climbed(tree)
    assert not learnt(climb, "r1")
    assert learnt(climb, "r1", 6)


def test_areas_are_joined_by_the_backbone() -> None:
    """Sections 12.4.3 and 16.2: r2 and r3 are borders; what lies in area 1 is told into the backbone, and from there into area 2."""
    tree = line(area="1")
    tree["devices"][0]["vrfs"][0]["ospf"]["interfaces"] = [
        {"interface": "1", "area": "1"},
        {"interface": "2", "area": "1", "passive": True},
    ]
    tree["devices"][2]["vrfs"][0]["ospf"]["interfaces"][1]["area"] = "2"
    climb = climbed(tree)
    assert ("10.64.12.0/24", "inter-area", 25, ("10.1.12.2",)) in learnt(climb, "r1")
    assert ("10.64.11.0/24", "inter-area", 30, ("10.1.23.1",)) in learnt(climb, "r3")
    assert climb.walk("ha", "hb", "ping").outcome == "delivered"


def test_a_border_without_the_backbone() -> None:
    """Sections 12.4.3 and 16.2: it still tells each area what lies in the other, and hears of nothing beyond; the finding names it."""
    tree = line(area="1")
    for k, area in ((0, "1"), (2, "2")):
        for entry in tree["devices"][k]["vrfs"][0]["ospf"]["interfaces"]:
            entry["area"] = area
    tree["devices"][1]["vrfs"][0]["ospf"]["interfaces"][1]["area"] = "2"
    climb = climbed(tree)
    assert ("10.64.12.0/24", "inter-area", 25, ("10.1.12.2",)) in learnt(climb, "r1")
    assert {row[1] for row in learnt(climb, "r2")} == {"intra-area"}
    assert [f.code for f in climb.findings if f.code == "backbone-split"] == ["backbone-split"]


def test_a_stub_area_has_a_default_route_and_nothing_from_outside() -> None:
    """Section 3.6 and 12.4.3.1."""
    tree = line(area="1")
    one, two, three = (d["vrfs"][0]["ospf"] for d in tree["devices"][:3])
    for entry in one["interfaces"]:
        entry["area"] = "1"
    one["stub"] = two["stub"] = [{"area": "1", "default_cost": 7}]
    three["redistribute"] = [{"from": "static"}]
    tree["devices"][2]["vrfs"][0]["routes"] = [{"to": "172.16.0.0/16", "discard": True}]
    climb = climbed(tree)
    assert ("172.16.0.0/16", "external-2", 20, ("10.1.23.2",)) in learnt(climb, "r2")
    known = {row[0]: row for row in learnt(climb, "r1")}
    assert "172.16.0.0/16" not in known
    assert known["0.0.0.0/0"] == ("0.0.0.0/0", "inter-area", 17, ("10.1.12.2",))


def test_from_outside_type_1_comes_before_type_2_and_adds_the_way() -> None:
    """Section 16.4, step 6: r3 brings in the same prefix as r1, with a lower metric of type 2; r2 goes by type 1 all the same."""
    tree = line()
    for k, kind, metric in ((0, 1, 50), (2, 2, 1)):
        tree["devices"][k]["vrfs"][0]["routes"] = [{"to": "172.16.0.0/16", "discard": True}]
        tree["devices"][k]["vrfs"][0]["ospf"]["redistribute"] = [{"from": "static", "type": kind, "metric": metric}]
    climb = climbed(tree)
    assert ("172.16.0.0/16", "external-1", 60, ("10.1.12.1",)) in learnt(climb, "r2")


def test_a_default_route_is_announced_while_it_is_known() -> None:
    """And another route of the same prefix stands by behind the static one (preferences)."""
    tree = line()
    tree["devices"][2]["vrfs"][0]["ospf"]["announce_default"] = "when-known"
    assert not any(row[0] == "0.0.0.0/0" for row in learnt(climbed(tree), "r1"))
    tree["devices"][2]["vrfs"][0]["routes"] = [{"to": "0.0.0.0/0", "discard": True}]
    assert ("0.0.0.0/0", "external-2", 1, ("10.1.12.2",)) in learnt(climbed(tree), "r1")
    tree["devices"][0]["vrfs"][0]["routes"] = [{"to": "0.0.0.0/0", "via": "10.64.11.254"}]
    table = climbed(tree).site.net.tables["r1", "main"]
    stands = {r.origin: table.state_of(r) for r in table.routes if r.to.prefixlen == 0}
    assert stands == {"static": "in force", "ospf": "standby"}


def test_a_filter_in_the_link_unseen_has_to_let_it_pass() -> None:
    """A transparent firewall between two routers: its default drops protocol 89, and the rule that permits it makes them neighbours."""
    tree = line()
    veil = {
        "name": "veil", "kind": "firewall", "zones": [{"name": "near", "kind": "inline"}, {"name": "far", "kind": "inline"}],
        "ports": [{"name": "1", "mode": "inline", "zone": "near"}, {"name": "2", "mode": "inline", "zone": "far"}],
        "wires": [{"name": "w", "ends": ["1", "2"]}],
        "rules": [{"name": "data", "from": ["any"], "to": ["any"], "services": ["tcp/1-65535"], "action": "permit"}],
    }  # fmt: skip
    tree["devices"].append(veil)
    tree["cables"][0:1] = [["r1:1", "veil:1"], ["veil:2", "r2:1"]]
    found = climbed(tree).walk("ha", "hb", "tcp/80").cause
    assert found is not None
    assert found.root.wrong == "default-drops"
    assert found.root.guilty[0].startswith("/devices/7")
    tree["devices"][-1]["rules"].append(
        {"name": "routing", "from": ["any"], "to": ["any"], "services": ["ospf"], "action": "permit"}
    )
    assert climbed(tree).walk("ha", "hb", "tcp/80").outcome == "delivered"


def test_equal_costs_share() -> None:
    """Section 16.1, step 2d: two ways of one cost are both kept, and a packet may take either."""
    tree = line(cost=15)
    tree["devices"][0]["ports"].append({"name": "9", "addresses": ["10.1.13.1/30"]})
    tree["devices"][2]["ports"].append({"name": "9", "addresses": ["10.1.13.2/30"]})
    for k in (0, 2):
        tree["devices"][k]["vrfs"][0]["ospf"]["interfaces"].append({"interface": "9", "cost": 15})
    tree["cables"].append(["r1:9", "r3:9"])
    assert ("10.64.12.0/24", "intra-area", 25, ("10.1.12.2", "10.1.13.2")) in learnt(climbed(tree), "r1")


def test_a_route_typed_in_as_learnt_has_the_trust_of_its_origin() -> None:
    """`learned` without a protocol: by ospf its preference, by anything else that of learnt routes."""
    tree = line()
    tree["devices"][0]["vrfs"][0]["routes"] = [
        {"to": "172.16.0.0/16", "via": "10.1.12.2", "learned": {"by": "ospf", "type": "external-1"}},
        {"to": "172.17.0.0/16", "via": "10.1.12.2", "learned": {"by": "the ferry company"}},
    ]
    rows = {str(r.to): (r.origin, r.preference, r.learnt) for r in climbed(tree).site.net.tables["r1", "main"].routes}
    assert rows["172.16.0.0/16"] == ("ospf", 30, "external-1")
    assert rows["172.17.0.0/16"] == ("learned", 50, None)


@pytest.mark.parametrize(
    ("at", "value", "said"),
    [
        ("/devices/0/vrfs/0/ospf/router_id", "fd00::1", "router id"),
        ("/devices/0/vrfs/0/ospf/interfaces/0/area", "back", "area"),
        ("/devices/0/vrfs/0/ospf/interfaces/0/interface", "11", "did you mean"),
        ("/devices/0/vrfs/0/ospf/interfaces/0/cost", 0, "greater than or equal to 1"),
    ],
)
def test_what_cannot_be_is_refused(at: str, value: Any, said: str) -> None:
    """In one clear sentence."""
    with pytest.raises(InputRefused, match=said):
        parse_design(patched(line(), [{"op": "add", "path": at, "value": value}]))


def test_whoever_has_joined_a_network_joins_no_second() -> None:
    """Section 9.4: those who hear the designated router share its network; one that hears but one of them has none to join."""
    tree = line()
    tree["devices"] = [
        {
            "name": name,
            "kind": "router",
            "ports": [{"name": "1", "addresses": [f"10.1.9.{k}/24"]}, {"name": "2", "addresses": [f"10.64.{k}.1/24"]}],
            "vrfs": [
                {
                    "name": "main",
                    "ospf": {
                        "router_id": f"10.255.0.{k}",
                        "interfaces": [
                            {"interface": "1", "priority": 9 if k == 2 else 1},
                            {"interface": "2", "passive": True},
                        ],
                    },
                }
            ],
        }
        for k, name in enumerate(("r1", "r2", "r3"), 1)
    ] + [
        {
            "name": "s",
            "kind": "switch",
            "ports": [
                {"name": "1", "untagged": [11], "pvid": 11},
                *({"name": str(k), "untagged": [11], "pvid": 11, "isolated": True} for k in (2, 3)),
            ],
        },
        *({"name": f"h{k}", "kind": "endpoint", "addresses": [f"10.64.{k}.9/24"]} for k in (1, 2, 3)),
    ]
    tree["cables"] = [*([f"r{k}:1", f"s:{k}"] for k in (1, 2, 3)), *([f"r{k}:2", f"h{k}:1"] for k in (1, 2, 3))]
    climb = climbed(tree)  # r2 and r3 do not hear each other; r1 hears both
    assert {r[0] for r in learnt(climb, "r1")} == {"10.64.2.0/24"}
    assert {r[0] for r in learnt(climb, "r2")} == {"10.64.1.0/24"}
    assert learnt(climb, "r3") == set()


def test_a_subnet_that_nobody_is_told_of_is_why_there_is_no_route() -> None:
    """Section 12.4.1: a router tells of the subnets its OSPF speaks of; the others keep theirs for themselves. Held against a subnet that is down."""
    tree = line()
    del tree["devices"][2]["vrfs"][0]["ospf"]["interfaces"][1]
    cause = climbed(tree).walk("ha", "hb", "ping").cause
    assert cause is not None
    assert (cause.root.wrong, cause.root.layer) == ("prefix-untold", "route")
    assert "/devices/2/vrfs/0/ospf" in cause.root.pointers
    tree["devices"][2]["ports"][1]["enabled"] = False
    cause = climbed(tree).walk("ha", "hb", "ping").cause
    assert cause is not None
    assert cause.root.wrong != "prefix-untold"
