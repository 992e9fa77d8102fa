"""The memo: what is asked twice is worked out once, what nobody asks for goes, and nothing half-done stays."""

from __future__ import annotations

import numpy as np
import pytest

from anabasis.memo import KEPT, Memo, Same


def test_the_same_inputs_are_worked_out_once() -> None:
    """By what they hold, or for large things by being the same ones."""
    memo, done = Memo(), list[str]()

    def work(name: str) -> str:
        done.append(name)
        return name

    one, two = [1], [1]
    for inputs in (("a", 1), ("a", 1), ("a", 2), Same(one), Same(one), Same(two), Same(one, two)):
        memo.get("layer", inputs, lambda: work("x"))
    assert len(done) == 5
    memo.get("another layer", ("a", 1), lambda: work("x"))
    assert len(done) == 6


def test_a_layer_that_comes_out_the_same_stops_the_wave() -> None:
    """What stands on it is found again by it."""
    memo, done = Memo(), list[str]()

    def above(text: str) -> int:
        lower = memo.get("lower", text, lambda: memo.get("values", len(text), lambda: (len(text),)))
        return memo.get("upper", Same(lower), lambda: done.append(text) or lower[0])  # type: ignore[func-returns-value]

    assert [above(t) for t in ("ab", "cd", "abc", "ab")] == [2, 2, 3, 2]
    assert done == ["ab", "abc"]


def test_what_nobody_asks_for_goes() -> None:
    """After so many states; what is asked for again stays."""
    memo = Memo()
    for name in ("kept", "gone"):
        memo.put("layer", name, name)
    for _ in range(KEPT + 1):
        memo.begin()
        assert memo.find("layer", "kept") == "kept"
    assert memo.find("layer", "gone") is None
    assert len(memo) == 1


def test_work_that_fails_leaves_nothing() -> None:
    """And is done at the next asking."""
    memo = Memo()
    with pytest.raises(ZeroDivisionError):
        memo.get("layer", "x", lambda: 1 // 0)
    assert memo.last("layer") is None
    assert memo.get("layer", "x", lambda: 7) == 7
    assert memo.last("layer") == 7


def test_bytes_are_those_of_arrays_each_once() -> None:
    """However often they are held."""
    memo, array = Memo(), np.zeros(1_000_000, dtype=np.uint8)
    memo.put("layer", "one", {"a": array})
    memo.put("layer", "two", (array, array[:10]))
    assert 1_000_000 <= memo.bytes < 1_010_000
