"""Frames from attachment to attachment: who hears whom, in which form, and by which way."""

from __future__ import annotations

from typing import Any

from anabasis.design import Design
from anabasis.fabric import Attachment, Fabric, build_fabric
from tests.sites import access, design_of, plan, switch, trunk


def fabric_of(*devices: dict[str, Any], cables: list[list[str]] | None = None) -> Fabric:
    """Return the fabric of a few devices."""
    design: Design = design_of(vlans=plan(11, 12, 13), devices=list(devices), cables=cables or [])
    return build_fabric(design)


def attachment(fabric: Fabric, label: str, form: int = 0) -> Attachment:
    """Return an attachment by label and form."""
    return next(t for t in fabric.attachments if t.label == label and t.form == form)


def test_nobody_hears_across_vlans() -> None:
    """Two access ports of one switch, two VLANs."""
    fabric = fabric_of(switch("s", access("1", 11), access("2", 12), access("3", 11)))
    assert fabric.delivers(attachment(fabric, "s:1"), attachment(fabric, "s:3"))
    assert not fabric.delivers(attachment(fabric, "s:1"), attachment(fabric, "s:2"))
    assert fabric.delivers(attachment(fabric, "s:1"), attachment(fabric, "s:1"))


def test_a_trunk_port_has_a_place_for_each_tag() -> None:
    """A host with two tags stands twice, and hears each VLAN in its tag."""
    fabric = fabric_of(switch("s", access("1", 11), access("2", 12), trunk("t", 11, 12)))
    assert fabric.delivers(attachment(fabric, "s:1"), attachment(fabric, "s:t", 11))
    assert not fabric.delivers(attachment(fabric, "s:1"), attachment(fabric, "s:t", 12))


def test_the_way_of_a_frame_is_told_port_by_port() -> None:
    """In the form it has on each wire."""
    one = switch("a", access("1", 11), trunk("up", 11))
    two = switch("b", trunk("up", 11), trunk("down", 11))
    three = switch("c", trunk("up", 11), access("1", 11))
    fabric = fabric_of(one, two, three, cables=[["a:up", "b:up"], ["b:down", "c:up"]])
    carriage = fabric.carry(attachment(fabric, "a:1"), attachment(fabric, "c:1"))
    assert carriage is not None
    assert [wire for wire, _ in carriage.steps] == [(("a", "1"), 0), (("b", "up"), 11), (("c", "up"), 11)]
    assert carriage.crossings == ()


def test_a_leak_is_one_way() -> None:
    """A port that sends VLAN 11 untagged and puts what comes in into 12 is heard by 11's host, and does not hear it back."""
    leak = {"name": "x", "untagged": [11], "pvid": 12, "ingress_check": False}
    fabric = fabric_of(switch("s", access("1", 11), access("2", 12), leak))
    assert fabric.delivers(attachment(fabric, "s:1"), attachment(fabric, "s:x"))
    assert not fabric.delivers(attachment(fabric, "s:x"), attachment(fabric, "s:1"))
    assert fabric.delivers(attachment(fabric, "s:x"), attachment(fabric, "s:2"))
    assert not fabric.delivers(attachment(fabric, "s:2"), attachment(fabric, "s:x"))


def test_a_hub_repeats_in_the_form_it_hears() -> None:
    """Tagged frames reach a tagged subinterface behind a hub, untagged ones do not."""
    router = {
        "name": "r",
        "kind": "router",
        "ports": [{"name": "1", "subinterfaces": [{"tag": 11, "addresses": ["10.64.11.1/24"]}]}],
    }
    hub = {"name": "h", "kind": "hub", "ports": [{"name": n} for n in "123"]}
    fabric = fabric_of(
        switch("s", access("1", 11), access("2", 12), trunk("up", 11, 12)),
        hub,
        router,
        cables=[["s:up", "h:1"], ["h:2", "r:1"]],
    )
    gateway = attachment(fabric, "r:1.11", 11)
    assert fabric.delivers(attachment(fabric, "s:1"), gateway)
    assert fabric.delivers(gateway, attachment(fabric, "s:1"))
    assert not fabric.delivers(attachment(fabric, "s:2"), gateway)


def test_a_translated_tag_is_another_vlan_inside() -> None:
    """Tag 13 on the wire, VLAN 12 inside, both ways."""
    port = {"name": "t", "tagged": [12], "translate": {"13": 12}}
    fabric = fabric_of(switch("s", access("1", 12), access("2", 13), port))
    wire = attachment(fabric, "s:t", 13)
    assert fabric.delivers(attachment(fabric, "s:1"), wire)
    assert fabric.delivers(wire, attachment(fabric, "s:1"))
    assert not fabric.delivers(attachment(fabric, "s:2"), wire)
