"""Address classes, cut finer and compared."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from anabasis.classes import address_classes
from anabasis.routing import Intervals, merge

LINE = 60
spans = st.lists(st.tuples(st.integers(0, LINE), st.integers(0, 9)), max_size=3).map(
    lambda found: merge((low, min(low + more, LINE)) for low, more in found)
)


def members(intervals: Intervals) -> set[int]:
    """Return the addresses of some intervals, one by one."""
    return {x for low, high in intervals for x in range(low, high + 1)}


@given(st.lists(spans, max_size=4), st.lists(spans, max_size=3))
def test_refined_is_what_would_be_cut_at_once(known: list[Intervals], further: list[Intervals]) -> None:
    """The same classes, whatever their numbers; each knows what it is a part of, and predicates hold what they held."""
    universe = [(0, LINE)]
    before = address_classes(known, universe)
    finer, parents = before.refined(further)
    at_once = address_classes([*known, *further], universe)
    assert {frozenset(members(i)) for i in finer.intervals} == {frozenset(members(i)) for i in at_once.intervals}
    for child, parent in enumerate(parents.tolist()):
        assert members(finer.intervals[child]) <= members(before.intervals[parent])
    for k, predicate in enumerate([*known, *further]):
        assert {x for c in finer.inside(k) for x in members(finer.intervals[c])} == members(predicate)
    for c, intervals in enumerate(finer.intervals):
        assert {finer.class_of(x) for x in members(intervals)} == {c}
    assert (finer.within(before) == parents).all()


@given(st.lists(spans, max_size=4), st.lists(spans, max_size=4))
def test_within_finds_the_whole_that_parts_make_up(one: list[Intervals], two: list[Intervals]) -> None:
    """A class is told as a part of another only where such parts make up the whole of it."""
    first, second = address_classes(one, [(0, LINE - 10)]), address_classes(two, [(5, LINE)])
    found = first.within(second)
    for home in set(found.tolist()) - {-1}:
        parts = [members(first.intervals[c]) for c in range(first.count) if found[c] == home]
        assert set().union(*parts) == members(second.intervals[home])
    for c in range(first.count):
        wholes = [h for h in range(second.count) if members(second.intervals[h]) == members(first.intervals[c])]
        assert not wholes or found[c] == wholes[0]
