"""What of the forwarding classes of one state is as it was in another, by the numbers of both."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from anabasis.classes import Numbers

if TYPE_CHECKING:
    from anabasis.allpairs.forwarding_classes import ForwardingClasses
    from anabasis.allpairs.plane import ForwardingPlane


@dataclass(frozen=True)
class Since:
    """How the forwarding classes of a state stand to those of another one."""

    old: Numbers
    """int[fec]: its number there, -1 = there was none like it; in the same order"""
    groups: dict[int, int]
    """The groups of hosts that send, and are reached, as they were: their numbers there."""
    elsewhere: frozenset[int]
    """The classes of the plane that some box sends otherwise, or that hosts have which are reached otherwise, come or gone."""

    @property
    def new(self) -> dict[int, int]:
        """Return the same groups the other way round."""
        return {h: g for g, h in self.groups.items()}


def since(now: ForwardingClasses, then: ForwardingClasses, old: Numbers) -> Since | None:
    """Hold two states against each other; None where what their links are like cannot be told. `old`: int[fec], in ascending order."""
    one, two = now.plane, then.plane
    elsewhere = one.forwarding.elsewhere
    pairs: dict[int, int] = {}
    stay = np.flatnonzero(old >= 0)
    for g, h in zip(now.group[stay].tolist(), then.group[old[stay]].tolist(), strict=True):
        pairs.setdefault(g, h)
    told = None if elsewhere is None else _as_they_were(one, two, pairs)
    if elsewhere is None or told is None:
        return None
    others = [one.members[g] for g in range(len(one.groups)) if g not in told]
    others += [two.members[h] for h in set(range(len(two.groups))) - set(told.values())]
    moved = frozenset(np.flatnonzero(elsewhere).tolist()).union(*(m.tolist() for m in others))
    return Since(old, told, moved)


def _as_they_were(one: ForwardingPlane, two: ForwardingPlane, pairs: dict[int, int]) -> dict[int, int] | None:
    """Return those of some groups, with their numbers in two states, of which forwarding asks the same in both."""
    if one.site.net.hosts is two.site.net.hosts:
        return pairs
    if one.stands is None or two.stands is None:
        return None
    return {
        g: h
        for g, h in pairs.items()
        if one.stands[g] == two.stands[h] and np.array_equal(one.members[g], two.members[h])
    }
