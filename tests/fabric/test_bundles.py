"""Bundles: the truth table of IEEE 802.1AX, and what keeps members out."""

from __future__ import annotations

from typing import Any

import pytest

from anabasis.design import Design
from anabasis.fabric import Conditions, LinkPort, build_fabric
from anabasis.facts import Wrong
from tests.sites import access, design_of, plan, switch


def pair(mine: dict[str, Any], theirs: dict[str, Any], cables: list[list[str]] | None = None) -> Design:
    """Return two switches with a bundle of two ports each."""
    members = [{"name": n, "mode": "lag", "lag": "up"} for n in ("23", "24")]
    ends = [
        switch(name, access("1", 11), *members, lags=[{"name": "up", "tagged": [11], **settings}])
        for name, settings in (("one", mine), ("two", theirs))
    ]
    return design_of(vlans=plan(11), devices=ends, cables=cables or [["one:23", "two:23"], ["one:24", "two:24"]])


def bundle(design: Design, *failed: str) -> LinkPort:
    """Return the first switch's bundle."""
    return build_fabric(design, Conditions(frozenset(failed))).ports["one", "up"]


@pytest.mark.parametrize(
    ("mine", "theirs", "up"),
    [
        ("static", "static", True),
        ("static", "lacp-active", False),
        ("static", "lacp-passive", False),
        ("lacp-active", "lacp-active", True),
        ("lacp-active", "lacp-passive", True),
        ("lacp-passive", "lacp-passive", False),
    ],
)
def test_protocols(mine: str, theirs: str, up: bool) -> None:
    """One end at least must speak first, and static speaks with static only; the table is symmetric."""
    for one, two in ((mine, theirs), (theirs, mine)):
        found = bundle(pair({"protocol": one}, {"protocol": two}))
        assert found.up == up
        assert up or "never bundle" in found.reason


def test_min_links() -> None:
    """With one of two cables broken the bundle works, unless either end wants two."""
    assert bundle(pair({}, {}), "one:23--two:23").up
    for mine, theirs in (({"min_links": 2}, {}), ({}, {"min_links": 2})):
        found = bundle(pair(mine, theirs), "one:23--two:23")
        assert not found.up
        assert "at least 2" in found.reason


def test_a_miscabled_member_stays_out() -> None:
    """A member that leads to a plain port does not count; the other bundles."""
    design = pair({}, {}, [["one:23", "two:23"], ["one:24", "two:1"]])
    found = bundle(design)
    assert found.up
    assert found.peer == ("two", "up")


def test_a_bundle_to_a_plain_port_is_down() -> None:
    """The far end must be a bundle."""
    assert "is not" in bundle(pair({}, {}, [["one:23", "two:1"]])).reason


def test_down_for_a_reason() -> None:
    """No members, no cable, disabled here or there: each says so."""
    assert "disabled" in bundle(pair({"enabled": False}, {})).reason
    assert "two:up is disabled" in bundle(pair({}, {"enabled": False})).reason
    lone = design_of(devices=[switch("one", lags=[{"name": "up"}])])
    assert "no members" in bundle(lone).reason


def test_off_and_not_said() -> None:
    """One that is off is off; one of a firewall that says no mode has none."""
    assert bundle(pair({"mode": "off"}, {})).cause.wrong == Wrong.OFF  # type: ignore[union-attr]
    wall = {
        "name": "fw",
        "kind": "firewall",
        "lags": [{"name": "up"}],
        "ports": [{"name": "1", "mode": "lag", "lag": "up"}],
    }
    cause = build_fabric(design_of(devices=[wall])).ports["fw", "up"].cause
    assert cause is not None
    assert cause.wrong == Wrong.NO_MODE
