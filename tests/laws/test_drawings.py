"""What is drawn of random sites: every cable and segment once, ends as they are set, and steps that lead somewhere."""

from __future__ import annotations

from hypothesis import given

from anabasis.climb import Climb
from anabasis.design import Tree, parse_design
from anabasis.views import cabling, segment_drawing
from tests.counts import law
from tests.sites import sites


@law(1000, 60)
@given(sites())
def test_segments_and_routers_are_drawn_once(tree: Tree) -> None:
    """A leg is an interface that stands in a segment, its two ends a step apart; a broken one says why."""
    climb = Climb(parse_design(tree))
    net = climb.site.net
    found = segment_drawing(net)
    routers, segments = {r.name: r for r in found.routers}, {s.name: s for s in found.segments}
    inside = {s.name for s in climb.site.segments.all if s.kind == "outside"}
    assert segments.keys() == {s.name for s in climb.site.segments.all} - (inside & routers.keys())
    assert len(segments) == len(found.segments)
    assert len(routers) == len(found.routers)
    for leg in found.legs:
        assert abs(routers[leg.router].tier - segments[leg.segment].tier) == 1
        assert leg.up or leg.reason
        own = net.by_name[leg.router, leg.interface]
        assert climb.site.segments.all[climb.site.segments.of(own.attachment)].name == leg.segment  # type: ignore[arg-type]
        assert leg.zone == own.zone
    domain = {s.name: s.domain for s in climb.site.segments.all}
    assert all(domain[a] == domain[b] >= 0 and a != b for a, b in found.filtered)


@law(1000, 60)
@given(sites())
def test_an_end_carries_what_frames_leave_by(tree: Tree) -> None:
    """Law: a VLAN told at the end of a bridged port leaves it in the form that is told, and no other does (IEEE 802.1Q clause 8.8.2)."""
    fabric = Climb(parse_design(tree)).site.fabric
    drawn = cabling(fabric)
    seen: set[str] = set()
    for line in drawn.lines:
        assert len(line.ends) == len(line.ports) == len(line.carried) == 2
        seen |= set(line.pointers)
        for box, names, end in zip(line.ends, line.ports, line.carried, strict=True):
            port = fabric.ports.get((box, names[0]))
            if port is None or not port.bridges or fabric.tables[box] is None or port.settings.translate:
                continue
            table = fabric.tables[box]
            leaving = {
                (vlan, form != 0)
                for (owner, vlan), outlets in fabric.members.items()
                if owner == box
                for outlet, form in outlets
                if outlet.spot == port.spot
            }
            told = {
                (c.vlan, c.tagged)
                for c in end.vlans
                if (c.tagged or c.vlan in port.settings.untagged) and (table is None or c.vlan in table)
            }
            if port.forwarding and port.up and port.spot not in fabric.tree.blocked:
                assert leaving == told
            assert [c.vlan for c in end.vlans if c.pvid] == ([port.settings.pvid] if port.settings.pvid else [])
    assert seen == {f"/cables/{k}" for k in range(len(tree.get("cables", [])))}
