"""Open, but nobody asked: what passes though nothing speaks of it."""

from __future__ import annotations

from anabasis.climb import Climb
from anabasis.design import Loaded, apply
from anabasis.design.expecting import expect


def test_what_is_asked_is_every_open_pair_that_nothing_speaks_of(climb: Climb) -> None:
    """Law: listed = open, not transit, without an expectation, and no way out that a purpose lets one expect."""
    found = climb.unasked
    listed = {(p.source, p.target) for p in found.open}
    opened = {(v.source, v.target) for v in climb.verdicts().all if v.verdict != "none"}
    assert listed <= opened
    assert ("keepers", "life-support") not in listed  # an expectation speaks of a set of its addresses
    assert ("visitors", "internet") not in listed  # what visitors are for
    assert ("life-support", "tank-sensors") in listed
    assert found.more == 0


def test_an_answer_takes_a_question_away(demo: Loaded, climb: Climb) -> None:
    """Whichever the answer is; that it is meant holds at once."""
    (one,) = [p for p in climb.unasked.open if (p.source, p.target) == ("keepers", "tank-sensors")]
    assert one.services == "ping, https, ssh"
    for said in (one.expectation, one.closed):
        assert said is not None
        after = Climb(apply(demo.raw, expect(demo.raw, [said]))[1])
        assert (one.source, one.target) not in {(p.source, p.target) for p in after.unasked.open}
        assert after.expectations[-1].holds == (said is one.expectation)


def test_a_subnet_that_its_zones_way_out_leaves_out(demo: Loaded) -> None:
    """Telephones stand in the house, and its rule names the desks alone."""
    rule = next(i for i, r in enumerate(demo.raw["devices"][4]["rules"]) if r["name"] == "keepers-out")
    path = f"/devices/4/rules/{rule}"
    patch = [{"op": "add", "path": f"{path}/sources", "value": ["10.64.130.0/24"]}]
    found = Climb(apply(demo.raw, patch)[1]).unasked.left_out
    assert [(o.zone, o.towards, o.segment, o.pointer) for o in found] == [("house", "street", "intercom", path)]
    assert Climb(demo.design).unasked.left_out == []
