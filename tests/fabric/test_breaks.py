"""The first obstacle between two places: its layer, the item that makes it, and the way up to it."""

from __future__ import annotations

from typing import Any

import pytest

from anabasis.design import Design
from anabasis.fabric import Break, Conditions, build_fabric, why_apart
from anabasis.wording import say
from tests.sites import access, design_of, plan, switch


def apart(design: Design, start: str, goal: str, *failed: str) -> Break:
    """Return why frames from one attachment do not get to another."""
    fabric = build_fabric(design, Conditions(frozenset(failed)))
    attachments = {t.label: t for t in fabric.attachments}
    assert not fabric.delivers(attachments[start], attachments[goal])
    return why_apart(fabric, attachments[start], attachments[goal])


def chain(*uplinks: tuple[dict[str, Any], dict[str, Any]], **more: Any) -> Design:
    """Return switches s0, s1, … in a chain with an access port of VLAN 11 each; `uplinks` are the ends between them."""
    count = len(uplinks) + 1
    ports: list[list[dict[str, Any]]] = [
        [access("1", 11), access("2", 11, isolated=True), access("3", 11, isolated=True)] for _ in range(count)
    ]
    cables = []
    for k, (near, far) in enumerate(uplinks):
        ports[k].append({"name": "right", **near})
        ports[k + 1].append({"name": "left", **far})
        cables.append([f"s{k}:right", f"s{k + 1}:left"])
    devices = [switch(f"s{k}", *own, **(more if k == 1 else {})) for k, own in enumerate(ports)]
    return design_of(vlans=plan(11, 12), devices=devices, cables=cables)


WHOLE = ({"tagged": [11]}, {"tagged": [11]})


@pytest.mark.parametrize(
    ("uplink", "pointer", "words"),
    [
        (({"tagged": [12]}, {"tagged": [11]}), "/devices/0/ports/3", "s0:right does not carry VLAN 11"),
        (({"tagged": [11]}, {"tagged": [12]}), "/devices/1/ports/3", "s1:left drops tag 11"),
        (({"tagged": [11], "enabled": False}, {"tagged": [11]}), "/devices/0/ports/3/enabled", "s0:right is disabled"),
        (
            ({"untagged": [11], "pvid": 11}, {"untagged": [12], "pvid": 12}),
            "/devices/1/ports/3",
            "into VLAN 12, not VLAN 11",
        ),
    ],
)
def test_the_first_obstacle_is_named(uplink: tuple[dict[str, Any], dict[str, Any]], pointer: str, words: str) -> None:
    """A whole uplink before it does not hide it, and one after it does not matter."""
    for uplinks in ((uplink,), (uplink, WHOLE)):
        why = apart(chain(*uplinks), "s0:1", f"s{len(uplinks)}:1")
        assert (why.cause.guilty[0], words in say(why.cause)) == (pointer, True), why
        assert why.cause.layer == ("link" if "disabled" in words else "vlan")


def test_the_way_up_to_it_is_told() -> None:
    """The trail ends at the last port that took the frame."""
    why = apart(chain(WHOLE, ({"tagged": [12]}, {"tagged": [11]})), "s0:1", "s2:1")
    assert [(p.label, vlan) for p, vlan in why.trail] == [("s0:1", 11), ("s1:left", 11)]


def test_a_table_that_lacks_the_vlan() -> None:
    """The device's table is named, not the port."""
    why = apart(chain(WHOLE, WHOLE, vlans=[12]), "s0:1", "s2:1")
    assert (why.cause.layer, why.cause.guilty[0]) == ("vlan", "/devices/1/vlans")


def test_isolation() -> None:
    """Two isolated ports of one box are kept apart."""
    assert apart(chain(WHOLE), "s0:2", "s0:3").cause.layer == "isolation"


def test_a_broken_cable() -> None:
    """The cable is named."""
    why = apart(chain(WHOLE), "s0:1", "s1:1", "s0:right--s1:left")
    assert (why.cause.layer, why.cause.guilty[0]) == ("link", "/cables/0")


def test_no_cable_at_all() -> None:
    """Nothing leads there."""
    design = design_of(vlans=plan(11), devices=[switch("a", access("1", 11)), switch("b", access("1", 11))])
    assert "no cable leads" in say(apart(design, "a:1", "b:1").cause)


def test_joining_the_port_mends_it() -> None:
    """The port and VLAN a break carries are what one has to join."""
    why = apart(chain(({"tagged": [12]}, {"tagged": [11]})), "s0:1", "s1:1")
    assert why.port is not None
    assert (why.port.label, why.vlan) == ("s0:right", 11)


def test_a_tag_that_nobody_translates_is_named_at_the_boundary() -> None:
    """A firewall carries VLAN 11 as tag 12 towards the other side; where the translation is missing, its port is the obstacle."""
    ports = [{"name": "1", "mode": "bridged", "tagged": [11]}, {"name": "2", "mode": "bridged", "tagged": [11]}]
    devices = [
        switch("s0", access("1", 11), {"name": "up", "tagged": [11]}),
        switch("s1", access("1", 12), {"name": "up", "tagged": [12]}),
        {"name": "fw", "kind": "firewall", "ports": ports},
    ]
    design = design_of(vlans=plan(11, 12), devices=devices, cables=[["s0:up", "fw:1"], ["s1:up", "fw:2"]])
    why = apart(design, "s1:1", "s0:1")
    assert why.cause.guilty[0] == "/devices/2/ports/1"
    assert "fw:2 drops tag 12" in say(why.cause)
