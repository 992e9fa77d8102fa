"""Filtering points at layer 2: transparent boundaries, inline pairs, and ways around them."""

from __future__ import annotations

from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.design import Design
from anabasis.fabric import Conditions, build_fabric, bypasses, compute_segments
from tests.sites import Tree, access, design_of, plan, switch, trunk

ZONES = [{"name": "near", "kind": "bridged"}, {"name": "far", "kind": "bridged"}]
INLINE = [{"name": "near", "kind": "inline"}, {"name": "far", "kind": "inline"}]


def divided(
    one: Tree, two: Tree, zones: list[Tree] = ZONES, more_cables: list[list[str]] | None = None, **more: Any
) -> Design:
    """Return two switches with a firewall in between, unseen: port 1 towards the first, port 2 towards the second."""
    ports = [{"name": "1", "mode": "bridged", **one}, {"name": "2", "mode": "bridged", **two}]
    ends = [switch(n, access("h", 11), trunk("up", 11, 12), trunk("x", 11)) for n in ("a", "b")]
    fence = {"name": "fw", "kind": "firewall", "zones": zones, "ports": ports, **more}
    cables = [["a:up", "fw:1"], ["fw:2", "b:up"], *(more_cables or [])]
    return design_of(vlans=plan(11, 12), devices=[*ends, fence], cables=cables)


def inline(tags: Any = "any", **more: Any) -> Design:
    """Return the same with an inline pair."""
    ends = {"mode": "inline", "zone": "near"}, {"mode": "inline", "zone": "far"}
    return divided(*ends, INLINE, wires=[{"name": "pair", "ends": ["1", "2"], "tags": tags, **more}])


def sides(design: Design, *failed: str) -> list[tuple[int, set[str]]]:
    """Return (domain, ports) of the segments of VLAN 11."""
    found = compute_segments(build_fabric(design, Conditions(frozenset(failed))))
    return [(s.domain, set(s.labels)) for s in found.all if 11 in s.vlan_ids and {"a:h", "b:h"} & set(s.labels)]


TAGGED: Tree = {"tagged": [11]}


@pytest.mark.parametrize(
    "design",
    [
        divided(TAGGED | {"zone": "near"}, TAGGED | {"zone": "far"}),
        divided(TAGGED | {"zone": "near"}, TAGGED),
        divided(TAGGED | {"zone": "near"}, TAGGED | {"zone": "near"}, same_zone="drop"),
        divided(TAGGED | {"zone": "near"}, TAGGED | {"zone": "near"}, [ZONES[0] | {"filter_inside": True}]),
        inline(),
    ],
)
def test_a_filter_divides_one_domain_into_two_segments(design: Design) -> None:
    """One subnet and one broadcast domain, two segments."""
    (one, left), (two, right) = sides(design)
    assert one == two
    assert not left & right


def test_one_zone_is_one_segment() -> None:
    """Two bridged ports in one zone are a little switch."""
    assert len(sides(divided(TAGGED | {"zone": "near"}, TAGGED | {"zone": "near"}))) == 1


def test_zones_by_vlan() -> None:
    """A subinterface gives one VLAN of a port a zone of its own."""
    own = {"subinterfaces": [{"tag": 11, "zone": "far"}]}
    assert len(sides(divided(TAGGED | {"zone": "near"}, TAGGED | {"zone": "near"} | own))) == 2


def test_tags_of_an_inline_pair() -> None:
    """A list carries what it names and no more; then the two sides are two domains, an island each."""
    for tags, joined in ((["untagged", 11], True), ([12], False), (["untagged"], False)):
        (one, _), (two, _) = sides(inline(tags))
        assert (one == two) == joined


def test_an_inline_pair_follows_its_link() -> None:
    """One side's cable broken, the other side goes down with it, and says why."""
    for follow in (True, False):
        fabric = build_fabric(inline(follow_link=follow), Conditions(frozenset({"a:up--fw:1"})))
        assert fabric.ports["fw", "2"].up == (not follow)
        assert fabric.ports["b", "up"].up == (not follow)
        assert not follow or "follows fw:1 down" in fabric.ports["b", "up"].reason


def test_translated_tags_join_two_vlans_over_a_boundary() -> None:
    """Tag 12 on the wire of one side is VLAN 11 inside: the two VLANs share a domain, not a segment."""
    far = {"tagged": [11], "translate": {"12": 11}, "zone": "far"}
    design = divided(TAGGED | {"zone": "near"}, far)
    segments = compute_segments(build_fabric(design)).all
    by_vlan = {s.vlan_ids: s for s in segments if s.attachments}
    assert (11,) in by_vlan
    rows = [(s.domain, s.vlan_ids) for s in segments if "a:h" in s.labels]
    assert rows[0][1] == (11,)


def test_a_cable_around_the_filter_is_a_bypass() -> None:
    """Found for a boundary and for an inline pair; without the cable there is none."""
    boundary = divided(TAGGED | {"zone": "near"}, TAGGED | {"zone": "far"})
    for design in (boundary, inline()):
        assert bypasses(build_fabric(design)) == []
    around = [["a:x", "b:x"]]
    open_boundary = divided(TAGGED | {"zone": "near"}, TAGGED | {"zone": "far"}, more_cables=around)
    ends = {"mode": "inline", "zone": "near"}, {"mode": "inline", "zone": "far"}
    open_pair = divided(*ends, INLINE, around, wires=[{"name": "pair", "ends": ["1", "2"]}])
    for design in (open_boundary, open_pair):
        found = bypasses(build_fabric(design))
        assert [{b.left, b.entered} for b in found] == [{"fw:1", "fw:2"}]
        assert "bypass" in [f.code for f in Climb(design).findings]


def test_rules_apply_on_the_way() -> None:
    """Without a rule nothing passes between the zones; with one, its services do; the wrong kind of zone stops everything."""
    rule = {"name": "look", "from": ["near"], "to": ["far"], "services": ["https"], "action": "permit"}
    ends = TAGGED | {"zone": "near"}, TAGGED | {"zone": "far"}
    walks = {
        "closed": (Climb(divided(*ends)), "rule"),
        "open": (Climb(divided(*ends, rules=[rule])), None),
        "kind": (Climb(divided(*ends, [ZONES[0], {"name": "far", "kind": "routed"}], rules=[rule])), "zone"),
        "none": (Climb(divided(ends[0], TAGGED, rules=[rule])), "zone"),
    }
    for climb, layer in walks.values():
        found = climb.walk("a:h", "b:h", "https")
        assert found.layer == layer, found.reason
    assert walks["open"][0].walk("b:h", "a:h", "https").layer == "rule"


def test_a_host_straight_on_a_filtered_port_keeps_its_vlan() -> None:
    """Its segment has the VLAN's name, number and subnet, and with them its purpose; so has one alone behind an inline pair or a hub."""
    port = {"mode": "bridged", "pvid": 11, "untagged": [11], "zone": "floor"}
    wall = {
        "name": "fw",
        "kind": "firewall",
        "zones": [{"name": "floor", "kind": "bridged", "filter_inside": True}],
        "ports": [{"name": "1", **port}, {"name": "2", **port}],
    }
    hosts = [{"name": f"h{k}", "kind": "endpoint", "addresses": [f"10.64.11.{k}/24"]} for k in (1, 2)]
    site = compute_segments(
        build_fabric(design_of(vlans=plan(11), devices=[wall, *hosts], cables=[["fw:1", "h1:1"], ["fw:2", "h2:1"]]))
    )
    assert [(s.name, s.vlan_ids, s.subnets) for s in site.all] == [
        (f"v11@h{k}", (11,), ("10.64.11.0/24",)) for k in (1, 2)
    ]
