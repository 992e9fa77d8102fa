"""Who stands in a zone: by an interface, and behind bridged ports, through a hub as well."""

from __future__ import annotations

from anabasis.design import parse_design
from anabasis.leases import build_site
from anabasis.verdicts.zone_members import zone_segments
from tests.sites import access, plan, switch, trunk


def test_a_hub_hides_nobody() -> None:
    """A bridged port that leads to a hub has the VLANs of all its other ends in its zone, and none of its own box."""
    gate = {
        "name": "gate",
        "kind": "firewall",
        "zones": [{"name": "in", "kind": "bridged"}, {"name": "out", "kind": "bridged"}],
        "ports": [
            {"name": "1", "mode": "bridged", "zone": "in", "untagged": [13], "pvid": 13},
            {"name": "2", "mode": "bridged", "zone": "out", "untagged": [13], "pvid": 13},
        ],
    }
    hub = {"name": "hub", "kind": "hub", "ports": [{"name": n} for n in "123"]}
    left, right = switch("a", access("1", 11), access("2", 11)), switch("b", access("1", 12), access("2", 12))
    far = switch("c", access("1", 14), access("2", 14))
    tree = {
        "anabasis": 1,
        "name": "Hub",
        "vlans": plan(11, 12, 13, 14),
        "devices": [gate, hub, left, right, far],
        "cables": [["gate:1", "hub:1"], ["hub:2", "a:1"], ["hub:3", "b:1"], ["gate:2", "c:1"]],
    }
    site = build_site(parse_design(tree))
    names = {z: {site.segments.all[k].vlan_ids for k in of} for z, of in zone_segments(site, "gate").items()}
    assert {v for ids in names["in"] for v in ids} >= {11, 12}
    assert 14 not in {v for ids in names["in"] for v in ids}
    assert {v for ids in names["out"] for v in ids} >= {14}
    assert not {11, 12} & {v for ids in names["out"] for v in ids} - {v for ids in names["in"] for v in ids}


def test_a_trunk_brings_all_its_vlans() -> None:
    """Behind a bridged port that leads to a trunk every VLAN of the trunk stands in its zone."""
    gate = {
        "name": "gate",
        "kind": "firewall",
        "zones": [{"name": "in", "kind": "bridged"}],
        "ports": [{"name": "1", "mode": "bridged", "zone": "in", "tagged": [11, 12]}],
    }
    sw = switch("sw", trunk("up", 11, 12), access("1", 11), access("2", 12), access("3", 13))
    tree = {"anabasis": 1, "name": "Trunk", "vlans": plan(11, 12, 13), "devices": [gate, sw], "cables": [["gate:1", "sw:up"]]}  # fmt: skip
    site = build_site(parse_design(tree))
    assert {v for k in zone_segments(site, "gate")["in"] for v in site.segments.all[k].vlan_ids} == {11, 12}
