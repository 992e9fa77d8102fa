"""Paths by number: what stands in front of one path is what stands in front of it among many."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from anabasis.allpairs import Zones
from anabasis.allpairs.path_table import Path, PathTable

zones: st.SearchStrategy[Zones] = st.tuples(st.just("fw"), st.sampled_from("ab"), st.sampled_from("bc"))
crossings = st.lists(zones, max_size=2).map(tuple)
paths = st.builds(
    Path,
    arrived=st.booleans(),
    behind=st.sampled_from((None, "x", "y")),
    crossings=crossings,
    refuses_private=st.booleans(),
    touched=st.booleans(),
)
several = st.lists(st.lists(paths, min_size=1, max_size=2).map(tuple), min_size=1, max_size=6)


@given(several)
def test_a_number_stands_for_its_paths(drawn: list[tuple[Path, ...]]) -> None:
    """Different paths have different numbers, and a number gives its paths back."""
    table = PathTable()
    numbers = [table.number(p) for p in drawn]
    assert [table.of(n) for n in numbers] == drawn
    assert len(set(numbers)) == len(set(drawn))


@given(several, crossings, st.booleans(), st.data())
def test_in_front_of_one_as_in_front_of_many(
    drawn: list[tuple[Path, ...]], before: tuple[Zones, ...], refuses: bool, data: st.DataObject
) -> None:
    """Crossings come first, marks add up, an end stays; where one of several is lost all are."""
    table = PathTable()
    numbers = np.array([table.number(p) for p in drawn], dtype=np.intp)
    touched = np.array([data.draw(st.booleans()) for _ in drawn], dtype=bool)
    together = table.before(before, refuses, touched, numbers)
    alone = [int(table.before(before, refuses, touched[k : k + 1], numbers[k : k + 1])[0]) for k in range(len(drawn))]
    assert together.tolist() == alone
    for number, old, mark in zip(alone, drawn, touched.tolist(), strict=True):
        found = table.of(number)
        assert [p.behind for p in found] == [p.behind for p in old]
        if all(p.arrived for p in old):
            assert [p.crossings for p in found] == [(*before, *p.crossings) for p in old]
            assert [p.touched for p in found] == [mark or p.touched for p in old]
            assert [p.refuses_private for p in found] == [refuses or p.refuses_private for p in old]
        else:
            assert not any(p.arrived or p.crossings for p in found)
            assert {p.touched for p in found} == {mark or any(p.touched for p in old)}
