"""What has failed, by name."""

from __future__ import annotations

import pytest

from anabasis.climb import Climb
from anabasis.design import Loaded
from anabasis.errors import UnknownPlace
from anabasis.fabric import conditions_of
from anabasis.views import cabling


def test_a_cable_may_be_named_from_either_end(demo: Loaded) -> None:
    """The name of a cable has its ends in order."""
    assert conditions_of(demo.design, ["tank-sw:22--gate-a:5"]) == conditions_of(demo.design, ["gate-a:5--tank-sw:22"])


@pytest.mark.parametrize(
    ("part", "near"), [("gate-c", "gate-"), ("gate-a:99", "gate-a:9"), ("gate-a:5--tank-sw:23", "gate-a:5--tank-sw:22")]
)
def test_a_part_that_is_none(demo: Loaded, part: str, near: str) -> None:
    """The nearest part of that sort is offered."""
    with pytest.raises(UnknownPlace) as refused:
        conditions_of(demo.design, [part])
    assert near in str(refused.value)


def test_a_failed_part_is_drawn_as_failed(demo: Loaded) -> None:
    """A unit that fails stands no longer by, its partner neither; one cable of a bundle leaves it in part."""
    conditions = conditions_of(demo.design, ["gate-a", "hall-sw:19--tank-sw:19"])
    found = cabling(Climb(demo.design, conditions).site.fabric, conditions)
    boxes = {b.name: b for b in found.boxes}
    assert boxes["gate-a"].failed
    assert not boxes["gate-b"].standby
    assert not boxes["gate-b"].failed
    across = next(line for line in found.lines if line.ends == ["hall-sw", "tank-sw"] and line.bundle)
    assert (across.state, across.failed) == ("part", ["hall-sw:19--tank-sw:19"])
