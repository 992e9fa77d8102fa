"""Layer 1: when a port is up, and what it says when it is not."""

from __future__ import annotations

from typing import Any

import pytest

from anabasis.design import Design
from anabasis.fabric import Conditions, build_fabric, cable_name
from tests.sites import access, design_of, plan, switch


def pair(one: dict[str, Any] | None = None, two: dict[str, Any] | None = None, cabled: bool = True) -> Design:
    """Return two switches with one cable."""
    ends = [switch(n, access("1", 11) | more, access("2", 11)) for n, more in (("a", one or {}), ("b", two or {}))]
    return design_of(vlans=plan(11), devices=ends, cables=[["a:1", "b:1"]] if cabled else [])


@pytest.mark.parametrize(
    ("design", "failed", "reason", "blame"),
    [
        (pair(), (), "", "/devices/0/ports/0"),
        (pair(cabled=False), (), "a:1 has no cable", "/devices/0/ports/0"),
        (pair({"enabled": False}), (), "a:1 is disabled", "/devices/0/ports/0/enabled"),
        (pair(None, {"enabled": False}), (), "b:1 is disabled", "/devices/1/ports/0/enabled"),
        (pair({"mode": "off"}), (), "a:1 is off", "/devices/0/ports/0"),
        (pair(), ("a:1--b:1",), "the cable a:1--b:1 is broken", "/cables/0"),
        (pair(), ("b",), "b has failed", "/devices/1"),
        (pair(), ("b:1",), "b:1 has failed", "/devices/1/ports/0"),
        (
            pair({"speed_mbps": 100}, {"speed_mbps": 1000}),
            (),
            "a:1 runs at 100 Mbit/s, b:1 at 1000",
            "/devices/0/ports/0/speed_mbps",
        ),
        (pair({"speed_mbps": 100}, {}), (), "", "/devices/0/ports/0"),
        (pair({"speed_mbps": 100}, {"speed_mbps": 100}), (), "", "/devices/0/ports/0"),
    ],
)
def test_a_port_is_up_or_says_why_not(design: Design, failed: tuple[str, ...], reason: str, blame: str) -> None:
    """The first thing that takes it down, and the item of the design behind it."""
    port = build_fabric(design, Conditions(frozenset(failed))).ports["a", "1"]
    guilty = port.cause.guilty[0] if port.cause is not None else port.pointer
    assert (port.up, port.reason, guilty) == (not reason, reason, blame)


def test_both_ends_of_a_cable_are_up_or_down_together() -> None:
    """Whatever takes one down."""
    for design in (
        pair(),
        pair({"enabled": False}),
        pair(None, {"mode": "off"}),
        pair({"speed_mbps": 10}, {"speed_mbps": 100}),
    ):
        ports = build_fabric(design).ports
        assert ports["a", "1"].up == ports["b", "1"].up


def test_a_cable_has_one_name() -> None:
    """Whichever end comes first."""
    assert cable_name((("b", "2"), ("a", "1"))) == cable_name((("a", "1"), ("b", "2"))) == "a:1--b:2"


def test_of_a_pair_only_the_active_unit_forwards() -> None:
    """Higher priority, then name; the other when it has failed; none when both have."""
    units = [{"name": "x", "priority": 90}, {"name": "y", "priority": 150}]
    fence = {"name": "fw", "kind": "firewall", "units": units, "ports": [{"name": "1", "mode": "routed"}]}
    design = design_of(devices=[fence])

    def forwarding(*failed: str) -> list[str]:
        ports = build_fabric(design, Conditions(frozenset(failed))).ports
        return [box for (box, _), port in ports.items() if port.forwarding]

    assert forwarding() == ["y"]
    assert forwarding("y") == ["x"]
    assert forwarding("x", "y") == []
