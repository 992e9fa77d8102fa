"""Tally: the answer to one question for every ordered pair of segments."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anabasis.classes import Mask


@dataclass(frozen=True)
class Tally:
    """The answer to one question for every ordered pair of segments. Arrays bool[segment, segment]."""

    known: Mask
    """Both have a host of the family."""
    some: Mask
    """Some flow passes."""
    full: Mask
    """Every flow to the hosts of the second passes."""
    led: Mask
    """Frames and routes lead from every host to every host, and back, and no translation stands for one: rules stop the rest."""

    @classmethod
    def of(cls, tallies: list[Tally], count: int) -> Tally:
        """Return one tally of several families, each of which has a say where it is known."""
        known, some = (np.zeros((count, count), dtype=bool) for _ in range(2))
        full, led = (np.ones((count, count), dtype=bool) for _ in range(2))
        for t in tallies:
            known, some = known | t.known, some | t.some
            full, led = full & (t.full | ~t.known), led & (t.led | ~t.known)
        return cls(known, some, full & known, led & known)
