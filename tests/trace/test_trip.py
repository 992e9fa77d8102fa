"""Equal-cost routes: a packet is sent every way, up to a limit."""

from __future__ import annotations

import pytest

from anabasis.trace.trip import MOST_WAYS, Choices, Trip, every_way


@pytest.mark.parametrize(("boxes", "ways"), [(0, 1), (1, 2), (3, 8), (6, 64), (7, MOST_WAYS)])
def test_every_combination_is_gone_once(boxes: int, ways: int) -> None:
    """Of two routes at every box; the first as written first."""
    gone: list[tuple[int, ...]] = []

    def travel(choices: Choices) -> Trip:
        gone.append(tuple(choices.pick(2) for _ in range(boxes)))
        return None  # type: ignore[return-value]

    assert len(list(every_way(travel))) == ways
    assert gone[0] == (0,) * boxes
    assert len(set(gone)) == ways


def test_boxes_met_on_one_way_only() -> None:
    """A way may lead by boxes that the others never meet."""
    gone: set[tuple[int, ...]] = set()

    def travel(choices: Choices) -> Trip:
        first = choices.pick(2)
        gone.add((first, *([choices.pick(3)] if first else [])))
        return None  # type: ignore[return-value]

    list(every_way(travel))
    assert gone == {(0,), (1, 0), (1, 1), (1, 2)}
