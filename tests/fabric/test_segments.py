"""Segments of small sites: whole, islands, merges, one-way leaks, transits."""

from __future__ import annotations

from typing import Any

from anabasis.design import Design
from anabasis.fabric import Conditions, Segments, build_fabric, compute_segments
from tests.sites import access, design_of, plan, switch, trunk


def segments_of(design: Design, *failed: str) -> Segments:
    """Return the segments of a design with some things failed."""
    return compute_segments(build_fabric(design, Conditions(frozenset(failed))))


def two_switches(near: dict[str, Any], far: dict[str, Any]) -> Design:
    """Return two switches with ports in VLANs 11 and 12 each, and an uplink with the given ends."""
    one = switch("one", access("1", 11), access("2", 12), near)
    two = switch("two", access("1", 11), access("2", 12), far)
    return design_of(vlans=plan(11, 12), devices=[one, two], cables=[["one:up", "two:up"]])


def names(segments: Segments) -> list[str]:
    """Return the names of all segments."""
    return [s.name for s in segments.all]


def test_a_whole_trunk() -> None:
    """Both VLANs are one segment each, over both switches."""
    found = segments_of(two_switches(trunk("up", 11, 12), trunk("up", 11, 12)))
    assert names(found) == ["v11", "v12"]
    assert found.all[0].labels == ("one:1", "two:1")
    assert found.all[0].subnets == ("10.64.11.0/24",)


def test_a_tag_missing_at_either_end_makes_islands() -> None:
    """The VLAN falls apart, named by place; the other stays whole."""
    for near, far in (((11,), (11, 12)), ((11, 12), (11,))):
        found = segments_of(two_switches(trunk("up", *near), trunk("up", *far)))
        assert names(found) == ["v11", "v12@one", "v12@two"]
        assert [s.island for s in found.all] == [False, True, True]


def test_native_vlans_that_differ_merge_two_vlans() -> None:
    """Untagged frames of one VLAN come in as the other: one domain of both."""
    found = segments_of(two_switches(access("up", 11), access("up", 12)))
    assert "v11+v12" in " ".join(names(found))
    merged = next(s for s in found.all if len(s.vlan_ids) == 2)
    assert set(merged.labels) >= {"one:1", "two:2"}


def test_a_one_way_leak_joins_nothing() -> None:
    """A port that sends a VLAN untagged but puts what comes in elsewhere passes frames one way only."""
    leak = {"name": "up", "untagged": [11], "pvid": 12, "ingress_check": False}
    found = segments_of(two_switches(leak, access("up", 11)))
    assert found.by_name.keys() >= {"v12@one"} or len(found.all) >= 3
    home = {label: s.name for s in found.all for label in s.labels}
    assert home["one:1"] != home["two:1"]


def test_a_failed_cable_makes_islands() -> None:
    """The conditions decide, not the document."""
    design = two_switches(trunk("up", 11, 12), trunk("up", 11, 12))
    assert len(segments_of(design, "one:up--two:up").all) == 4
    assert len(segments_of(design, "two").all) == 2


def test_isolated_ports_hear_only_the_rest() -> None:
    """Two isolated ports of one switch exchange nothing, but share the segment through a third."""
    ports = [access("1", 11, isolated=True), access("2", 11, isolated=True), access("3", 11)]
    found = segments_of(design_of(vlans=plan(11), devices=[switch("one", *ports)]))
    attachments = {t.name: t for t in found.fabric.attachments}
    assert not found.fabric.delivers(attachments["1"], attachments["2"])
    assert found.fabric.delivers(attachments["1"], attachments["3"])
    assert names(found) == ["v11"]


def test_a_hub_passes_tags_through() -> None:
    """An unmanaged box in the middle of a trunk changes nothing."""
    design = design_of(
        vlans=plan(11),
        devices=[
            switch("one", access("1", 11), trunk("up", 11)),
            {"name": "hub", "kind": "hub", "ports": [{"name": "1"}, {"name": "2"}]},
            switch("two", access("1", 11), trunk("up", 11)),
        ],
        cables=[["one:up", "hub:1"], ["hub:2", "two:up"]],
    )
    found = segments_of(design)
    assert {"one:1", "two:1"} <= set(found.all[0].labels)


def test_a_vlan_between_two_routers_is_a_transit() -> None:
    """No port of it takes a host."""
    ends = [
        {
            "name": n,
            "kind": "router",
            "ports": [access("1", 11, mode="bridged")],
            "vlan_interfaces": [{"vlan": 11, "addresses": [a]}],
        }
        for n, a in (("east", "10.64.11.1/24"), ("west", "10.64.11.2/24"))
    ]
    found = segments_of(design_of(vlans=plan(11), devices=ends, cables=[["east:1", "west:1"]]))
    assert [(s.name, s.kind) for s in found.all] == [("v11", "transit")]


def test_a_vlan_without_ports_is_no_segment() -> None:
    """The plan alone makes none."""
    assert segments_of(design_of(vlans=plan(11, 12), devices=[switch("one", access("1", 11))])).by_name == {"v11": 0}


def test_ports_that_say_nothing_are_in_the_default_vlan() -> None:
    """Where the box states one; one that says anything of VLANs is left alone."""
    box = switch("sw", {"name": "1"}, {"name": "2"}, trunk("3", 12), default_vlan=11)
    found = compute_segments(build_fabric(design_of(vlans=plan(11, 12), devices=[box])))
    assert next(s for s in found.all if s.name == "v11").labels == ("sw:1", "sw:2")
    bare = switch("sw", {"name": "1"}, {"name": "2"})
    assert not [
        s for s in compute_segments(build_fabric(design_of(vlans=plan(11), devices=[bare]))).all if s.attachments
    ]
