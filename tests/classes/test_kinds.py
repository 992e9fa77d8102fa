"""Kinds and sets of services as bits: packing loses nothing, kinds tell apart exactly what marks do."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import array_shapes, arrays

from anabasis.classes import kinds, packed, together, unpacked

masks = arrays(bool, array_shapes(min_dims=1, max_dims=3, min_side=1, max_side=130))
rows = arrays(bool, st.tuples(st.integers(0, 12), st.integers(1, 40)))


@given(masks)
def test_packing_loses_nothing(mask: np.ndarray) -> None:
    """Packed and unpacked a mask is itself; words are as few as 64 bits allow."""
    words = packed(mask)
    assert words.shape[-1] == -(-mask.shape[-1] // 64)
    assert (unpacked(words, mask.shape[-1]) == mask).all()


@given(rows)
def test_kinds_are_equal_columns(marks: np.ndarray) -> None:
    """Two columns are of one kind if and only if every row marks both or neither; a kind's marks are those of its columns."""
    kind, of = kinds(marks)
    for a in range(marks.shape[1]):
        assert (of[:, kind[a]] == marks[:, a]).all()
        for b in range(a):
            assert (kind[a] == kind[b]) == bool((marks[:, a] == marks[:, b]).all())


@given(
    st.integers(1, 30).flatmap(
        lambda n: st.lists(arrays(np.intp, n, elements=st.integers(0, 6)), min_size=0, max_size=3).map(lambda x: (n, x))
    )
)
def test_together_tells_apart_what_any_tells_apart(drawn: tuple[int, list[np.ndarray]]) -> None:
    """Things are of one kind together if and only if they are of one kind each time; the one that stands for a kind is of it."""
    count, several = drawn
    kind, first = together(several, count)
    for a in range(count):
        assert kind[first[kind[a]]] == kind[a]
        for b in range(a):
            assert (kind[a] == kind[b]) == all(one[a] == one[b] for one in several)
