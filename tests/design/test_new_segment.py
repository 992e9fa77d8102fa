"""A segment in one go: what each purpose brings along, and what is refused."""

from __future__ import annotations

import pytest

from anabasis.climb import Climb
from anabasis.design import Loaded, NewSegment, apply, new_segment, segment_options
from anabasis.design.uplinks import uplinks
from anabasis.errors import InputRefused, UnknownPlace


def made(demo: Loaded, wanted: NewSegment) -> Climb:
    """Return the climb of the demo with the segment in it."""
    return Climb(apply(demo.raw, new_segment(demo.raw, wanted))[1])


def open_to(climb: Climb, source: str) -> set[str]:
    """Return the segments, transits aside, that some flow gets to."""
    kinds = {s.name: s.kind for s in climb.site.segments.all}
    return {
        v.target
        for v in climb.verdicts().all
        if v.source == source and v.verdict != "none" and kinds[v.target] != "transit"
    }


def test_inside_with_a_zone_of_its_own(demo: Loaded) -> None:
    """A gateway, leases, translation and a way out; nothing breaks."""
    climb = made(demo, NewSegment("octopus-den", "inside", 125, None, "gate", "tank", None, ["tank-sw:4", "hall-sw:7"]))
    assert [f for f in climb.findings if f.kind.severity == "breaks"] == []
    assert open_to(climb, "octopus-den") == {"internet"}
    assert climb.site.segments.all[climb.segment("octopus-den")].subnets == ("10.64.125.0/24",)


def test_a_zone_that_goes_nowhere_is_not_hidden(demo: Loaded) -> None:
    """In a zone without a way out there is nothing to translate; in one with a way out there is."""
    inward = new_segment(demo.raw, NewSegment("den", "inside", 125, None, "gate", "tank", "water"))
    outward = new_segment(demo.raw, NewSegment("den", "inside", 125, None, "gate", "hall", "house"))
    assert not any("/nat" in op["path"] for op in inward)
    assert not any("/nat" in op["path"] for op in outward)  # the house is hidden already
    assert Climb(apply(demo.raw, inward)[1]).findings == []
    fresh = new_segment(demo.raw, NewSegment("den", "inside", 125, None, "gate", "tank"))
    assert any("/nat" in op["path"] for op in fresh)


@pytest.mark.parametrize("zone", [None, "water", "eyes", "house"])
def test_whom_its_leases_send_to_for_names_it_reaches(demo: Loaded, zone: str | None) -> None:
    """Whom the rest of the zone asks, or the box itself, which then answers them."""
    climb = made(demo, NewSegment("den", "inside", 125, None, "gate", "tank", zone, ["tank-sw:4"]))
    assert not [f for f in climb.findings if f.code == "lease-names"]
    asked = "10.64.130.10" if zone == "house" else "10.64.125.1"
    assert climb.walk("den", asked, "dns").outcome in ("answered", "delivered")


def test_visitors_reach_the_outside_and_nothing_inside(demo: Loaded) -> None:
    """With what is expected of them written down."""
    wanted = NewSegment("school", "visitors", 165, None, "gate", "hall", None, ["hall-sw:7"])
    climb = made(demo, wanted)
    assert open_to(climb, "school") == {"internet"}
    kept = {e.to for e in climb.design.expectations if e.from_ == "school" and e.expect == "closed"}
    assert {"life-support", "keepers"} <= kept
    assert climb.walk("school", "10.64.165.1", "dns").outcome == "answered"
    assert climb.walk("school", "10.64.165.1", "ssh").layer == "answers"


def test_switched_only_has_no_subnet_and_no_gateway(demo: Loaded) -> None:
    """On purpose, so no finding says so."""
    climb = made(demo, NewSegment("tank-cleaning", "switched", 195, ports=["tank-sw:9"]))
    assert climb.findings == []
    assert climb.site.segments.all[climb.segment("tank-cleaning")].subnets == ()


def test_transit_has_no_leases(demo: Loaded) -> None:
    """A small subnet between two routing boxes, given by hand."""
    patch = new_segment(demo.raw, NewSegment("to-annexe", "transit", 175, "10.64.175.0/29", "gate", "hall"))
    assert not any("/dhcp" in op["path"] for op in patch)


@pytest.mark.parametrize(
    ("wanted", "said"),
    [
        (NewSegment("x", "inside", 125, None, None, None), "needs a firewall"),
        (NewSegment("x", "inside", 125, "10.64.130.0/25", "gate", "tank"), "has 10.64.130.0/24 already"),
        (NewSegment("x", "inside", 125, "10.64.125.1/24", "gate", "tank"), "host bits zero"),
        (NewSegment("x", "inside", 2000, None, "gate", "tank"), "gives this VLAN no subnet"),
        (NewSegment("x", "inside", 125, None, "gate", "cellar"), "no port of this name"),
        (NewSegment("x", "inside", 125, None, "gaet", "tank"), "did you mean 'gate'"),
    ],
)
def test_what_is_refused(demo: Loaded, wanted: NewSegment, said: str) -> None:
    """One clear sentence, and nothing is made."""
    with pytest.raises((InputRefused, UnknownPlace), match=said):
        new_segment(demo.raw, wanted)


def test_the_uplinks_follow_the_cables(demo: Loaded) -> None:
    """Both units' bundles, and the cable between the switches only where a switch behind it is asked for."""
    near = uplinks(demo.design, "gate", "hall", ["hall-sw"])
    assert near == ["hall-sw:to-gate-a", "hall-sw:to-gate-b"]
    assert uplinks(demo.design, "gate", "hall", ["tank-sw"]) == [*near, "hall-sw:across", "tank-sw:across"]


def test_the_options_are_the_sites_own(demo: Loaded) -> None:
    """Ports a host can stand on, trunks and bundles aside."""
    options = segment_options(demo.design)
    assert options.firewalls == {"gate": ["hall", "tank"]}
    assert "tank-sw:4" in options.ports
    assert "tank-sw:12" not in options.ports
    assert options.vlan not in {v.id for v in demo.design.vlans}
