"""The drawing above the cable: every segment and every router once, legs where interfaces stand."""

from __future__ import annotations

import pytest

from anabasis.climb import Climb
from anabasis.design import Loaded, load_file
from anabasis.views import SegmentDrawing, segment_drawing
from tests.conftest import ROOT


def drawn(path: str) -> tuple[Climb, SegmentDrawing]:
    """Draw a file."""
    climb = Climb(load_file(ROOT / path).design)
    return climb, segment_drawing(climb.site.net)


@pytest.mark.parametrize(
    "path",
    [
        "demo/tidewrack.yaml",
        "demo/tidewrack-first-day.yaml",
        *(f"demo/starts/{p.name}" for p in sorted((ROOT / "demo" / "starts").glob("*.yaml"))),
    ],
)
def test_nothing_is_drawn_twice_or_left_out(path: str) -> None:
    """Segments are those of the site without the insides of outsides; a leg joins two things that are drawn, a step apart."""
    climb, found = drawn(path)
    segments = {s.name: s for s in found.segments}
    routers = {r.name: r for r in found.routers}
    assert len(segments) == len(found.segments)
    assert segments.keys() == {s.name for s in climb.site.segments.all} - {
        r.name for r in found.routers if r.kind == "outside"
    }
    assert len({(x.router, x.interface) for x in found.legs}) == len(found.legs)
    for leg in found.legs:
        assert abs(routers[leg.router].tier - segments[leg.segment].tier) == 1
    assert all(len({segments[a].tier, segments[b].tier}) <= 2 for a, b in found.filtered)


def test_the_aquarium_climbs_from_the_street_to_the_lab() -> None:
    """Eight steps, and what is filtered inside one broadcast domain."""
    _, found = drawn("demo/tidewrack.yaml")
    tier = {r.name: r.tier for r in found.routers} | {s.name: s.tier for s in found.segments}
    way = ["internet", "street", "pier-head", "gate", "lab-link", "lab-sw", "lab"]
    assert [tier[x] for x in way] == sorted(tier[x] for x in way)
    assert ["recorders", "cameras"] in found.filtered
    leg = next(x for x in found.legs if x.segment == "visitors")
    assert (leg.router, leg.interface, leg.zone, leg.up) == ("gate", "hall.160", "guests", True)


def test_a_site_without_anything_is_an_empty_drawing(demo: Loaded) -> None:
    """No tier of nothing."""
    design = demo.design.model_copy(update={"devices": [], "cables": []})
    assert segment_drawing(Climb(design).site.net).routers == []
