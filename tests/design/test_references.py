"""Every name that is used must exist, every name that is given must be given once: one broken reference of each kind."""

from __future__ import annotations

from typing import Any

import pytest

from anabasis.design import Loaded, apply
from anabasis.errors import InputRefused

GATE, HALL, TANK, LAB = "/devices/4", "/devices/5", "/devices/6", "/devices/7"


def put(path: str, value: Any, op: str = "replace") -> dict[str, Any]:
    """Return one operation."""
    return {"op": op, "path": path, "value": value}


BROKEN: list[tuple[dict[str, Any], str, str]] = [
    (put(f"{GATE}/ports/0/zone", "stret"), f"{GATE}/ports/0/zone", "street"),
    (put(f"{GATE}/ports/8/vrf", "ref"), f"{GATE}/ports/8/vrf", "reef"),
    (put(f"{GATE}/lags/0/subinterfaces/0/answers", "ping-onl"), f"{GATE}/lags/0/subinterfaces/0/answers", "ping-only"),
    (put(f"{GATE}/vlan_interfaces/0/zone", "eye"), f"{GATE}/vlan_interfaces/0/zone", "eyes"),
    (put(f"{GATE}/ports/1/lag", "hal"), f"{GATE}/ports/1/lag", "hall"),
    (put(f"{GATE}/rules/0/from/0", "guest"), f"{GATE}/rules/0/from/0", "guests"),
    (put(f"{GATE}/rules/1/to/0", "streat"), f"{GATE}/rules/1/to/0", "street"),
    (put(f"{GATE}/rules/0/destinations/0", "insid"), f"{GATE}/rules/0/destinations/0", "inside"),
    (put(f"{GATE}/rules/1/services/0", "wab"), f"{GATE}/rules/1/services/0", "web"),
    (put(f"{GATE}/answers/0/sources/0", "insides"), f"{GATE}/answers/0/sources/0", "inside"),
    (put(f"{GATE}/wires/0/ends/0", "120"), f"{GATE}/wires/0/ends/0", "12"),
    (put(f"{GATE}/dhcp/0/interface", "hall.13"), f"{GATE}/dhcp/0/interface", "hall.130"),
    (put(f"{GATE}/failover/watch/1", "hal"), f"{GATE}/failover/watch/1", "hall"),
    (put(f"{GATE}/vrfs/0/routes/2/vrf", "ref"), f"{GATE}/vrfs/0/routes/2/vrf", "reef"),
    (put("/addresses/0/members/0", "recordr"), "/addresses/0/members/0", "recorder"),
    (put("/services/3/members/0", "dnss"), "/services/3/members/0", "dns"),
    (put("/cables/0/0", "internt:1"), "/cables/0/0", "internet"),
    (put("/cables/8/1", "hall-sw:2x"), "/cables/8/1", "2"),
]


@pytest.mark.parametrize(("operation", "pointer", "meant"), BROKEN, ids=[b[1] for b in BROKEN])
def test_a_broken_reference_names_its_place_and_what_was_meant(
    demo: Loaded, operation: dict[str, Any], pointer: str, meant: str
) -> None:
    """Each kind of reference is checked; the nearest name is offered."""
    with pytest.raises(InputRefused) as caught:
        apply(demo.raw, [operation])
    problems = {p.pointer: p for p in caught.value.problems}
    assert pointer in problems, caught.value
    assert problems[pointer].nearest == meant
    assert problems[pointer].allowed


TWICE: list[tuple[dict[str, Any], str]] = [
    (put("/vlans/1/name", "life-support"), "VLAN name"),
    (put("/vlans/1/id", 110), "VLAN id"),
    (put("/addresses/1/name", "pump-controllers"), "address set"),
    (put("/services/1/name", "pump-bus"), "service set"),
    (put("/devices/6/name", "hall-sw"), "device or unit"),
    (put(f"{GATE}/units/1/name", "gate-a"), "device or unit"),
    (put(f"{GATE}/zones/1/name", "street"), "zone"),
    (put(f"{GATE}/rules/1/name", "guests-stay-outside"), "rule"),
    (put(f"{HALL}/ports/1/name", "1"), "port or bundle"),
    (put(f"{HALL}/lags/0/name", "7"), "port or bundle"),
    (put(f"{GATE}/lags/0/subinterfaces/1/tag", 130), "tag"),
    (put(f"{LAB}/vlan_interfaces/1/vlan", 170), "interface of VLAN"),
]


@pytest.mark.parametrize(("operation", "what"), TWICE, ids=[t[1] + t[0]["path"] for t in TWICE])
def test_a_name_given_twice_is_refused(demo: Loaded, operation: dict[str, Any], what: str) -> None:
    """With both places."""
    with pytest.raises(InputRefused, match="given twice") as caught:
        apply(demo.raw, [operation])
    assert any(what in p.message and "first at" in p.message for p in caught.value.problems)


WRONG: list[tuple[dict[str, Any], str]] = [
    (put(f"{GATE}/vrfs/0/routes/0", {"to": "0.0.0.0/0"}), "one way to go"),
    (put(f"{GATE}/vrfs/0/routes/0", {"to": "0.0.0.0/0", "via": "198.51.100.1", "discard": True}), "one way to go"),
    (put(f"{GATE}/vrfs/0/routes/0", {"to": "0.0.0.0/0", "via": "fd64::1"}), "other address family"),
    (put("/addresses/-", {"name": "ring", "members": ["ring"]}, "add"), "cannot hold itself"),
    (put("/cables/-", ["hall-sw:1", "tank-sw:2"], "add"), "already holds the cable"),
    (put("/cables/-", ["hall-sw:across", "tank-sw:2"], "add"), "not to a bundle"),
    (put("/cables/-", ["gate:10", "tank-sw:2"], "add"), "cables go to its units"),
    (put(f"{HALL}/ports/0/pvid", 4095), "at most 4094"),
    (put(f"{HALL}/ports/0/pvid", "130"), "a whole number"),
    (put(f"{HALL}/ports/0/accept", "everything", "add"), "all, tagged or untagged"),
    (put(f"{GATE}/failover/hello_ms", 0), "at least 1"),
    (put(f"{GATE}/rules/0/action", "reject"), "permit, drop or refuse"),
]


@pytest.mark.parametrize(("operation", "said"), WRONG, ids=[w[1] + w[0]["path"] for w in WRONG])
def test_what_makes_no_sense_is_refused(demo: Loaded, operation: dict[str, Any], said: str) -> None:
    """In the words of the trade, with what is allowed."""
    with pytest.raises(InputRefused, match=said):
        apply(demo.raw, [operation])


@pytest.mark.parametrize(
    ("entry", "pointer", "said"),
    [
        ({"service_to": "htps"}, "/nat/2/service_to", "no service of this name"),
        ({"source_to": "198.51.100.9", "destination_to": "2001:db8::1"}, "/nat/2", "one family"),
        (
            {"sources": ["10.64.170.0/24"], "source_to": "198.51.100.8/29", "one_to_one": True},
            "/nat/2/one_to_one",
            "equal length",
        ),
        ({"source_to": "interface", "one_to_one": True}, "/nat/2/one_to_one", "equal length"),
        (
            {"sources": ["inside"], "source_to": "198.51.100.8/29", "one_to_one": True},
            "/nat/2/one_to_one",
            "equal length",
        ),
    ],
)
def test_a_translation_that_cannot_be(demo: Loaded, entry: dict[str, Any], pointer: str, said: str) -> None:
    """What it gives must be known, of one family, and one to one of one size."""
    with pytest.raises(InputRefused, match=said) as caught:
        apply(demo.raw, [put(f"{GATE}/nat/-", {"name": "x", **entry}, "add")])
    assert GATE + pointer in {p.pointer for p in caught.value.problems}
