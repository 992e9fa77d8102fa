"""The finder: names, addresses, prefixes, services and pairs, the best first."""

from __future__ import annotations

import pytest

from anabasis.climb import Climb
from anabasis.design import Loaded
from anabasis.finder import find


@pytest.mark.parametrize(
    ("text", "first"),
    [
        ("keepers", ("thing", "VLAN", "130 keepers")),
        ("zone water", ("thing", "Zone", "gate water")),
        ("rule guests-out", ("thing", "Rule", "gate guests-out")),
        ("10.64.130.77", ("segment", "Segment", "keepers (10.64.130.0/24)")),
        ("10.64.110.0/24", ("segment", "Segment", "life-support (10.64.110.0/24)")),
        ("visitors life", ("pair", "Pair", "visitors → life-support")),
        ("visitors to life-support", ("pair", "Pair", "visitors → life-support")),
    ],
)
def test_what_is_found_first(demo: Loaded, climb: Climb, text: str, first: tuple[str, str, str]) -> None:
    """By the words one types."""
    found = find(climb, demo.raw, text)[0]
    assert (found.sort, found.kind, found.title) == first


def test_what_says_a_service_is_found(demo: Loaded, climb: Climb) -> None:
    """A rule by a service in it, a port by its note."""
    assert "gate recorder-pulls-video" in [h.title for h in find(climb, demo.raw, "rtsp")]
    assert "hall-sw 4" in [h.title for h in find(climb, demo.raw, "till 1")]


@pytest.mark.parametrize("text", ["", "   ", "no such thing", "999.1.1.1", "10.0.0.0/99", "("])
def test_what_is_not_there_is_no_error(demo: Loaded, climb: Climb, text: str) -> None:
    """And never more than a page."""
    assert find(climb, demo.raw, text) == [] or text == "999.1.1.1"
    assert len(find(climb, demo.raw, "a", most=7)) == 7
