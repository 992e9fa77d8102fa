"""Two states compared, as configuration and as reach."""

from __future__ import annotations

from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from anabasis.climb import Climb
from anabasis.comparison import compare_states
from anabasis.design import Loaded, apply, parse_design
from anabasis.errors import InputRefused
from tests.laws.test_taking_over import edits
from tests.sites import Tree, sites

State = tuple[Tree, Climb]


def state(tree: Tree) -> State:
    """Return a state."""
    return tree, Climb(parse_design(tree))


@settings(max_examples=60)
@given(sites(), st.data())
def test_there_and_back(tree: Tree, data: st.DataObject) -> None:
    """The edits lead from the one to the other; what opens one way closes the other way; nothing differs from itself."""
    try:
        other, _ = apply(tree, edits(tree, data))
    except InputRefused:
        return
    one, two = state(tree), state(other)
    there, back = compare_states(one, two), compare_states(two, one)
    assert apply(tree, there.edits)[0] == other

    def pairs(changes: Any) -> set[frozenset[str]]:
        return {frozenset((c.source, c.target)) for c in changes}

    if not there.consequences.split and not there.consequences.joined:
        assert len(there.consequences.opened) == len(back.consequences.closed)
        assert len(there.consequences.closed) == len(back.consequences.opened)
        assert pairs(there.consequences.changed) == pairs(back.consequences.changed)
    assert (there.come, there.gone) == (back.gone, back.come)
    same = compare_states(one, state(tree))
    assert (same.differences, same.edits, same.come, same.gone) == ([], [], [], [])
    assert not same.consequences


def test_flows_by_pair(demo: Loaded) -> None:
    """A pair that gains and loses stands under both; every pair is opened, closed, both, or as before."""
    rules = demo.raw["devices"][4]["rules"]
    at = next(i for i, r in enumerate(rules) if r["name"] == "keepers-watch-water")
    other, _ = apply(
        demo.raw, [{"op": "replace", "path": f"/devices/4/rules/{at}/services", "value": ["ping", "tcp/23"]}]
    )
    found = compare_states(state(demo.raw), state(other)).as_dict()
    opened, closed = ({(c["from"], c["to"]): c["flows"] for c in found["reach"][k]} for k in ("opened", "closed"))
    pair = ("keepers", "life-support")
    assert all(f["services"] == "telnet" or f["services"] == "tcp/23" for f in opened[pair])
    assert all("https" in f["services"] for f in closed[pair])
    count = sum(bool(s.attachments) for s in state(demo.raw)[1].site.segments.all)
    assert found["reach"]["unchanged"] + len(opened.keys() | closed.keys()) == count * (count - 1)
