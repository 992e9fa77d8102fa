"""Whole paths: a path over devices and what the last link asks for, by number, with what is told of each: where it is lost, or what decides on it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
import numpy.typing as npt

from anabasis.allpairs.forwarding import Forwarding, labelled
from anabasis.allpairs.path_table import HOST, STEERED, End, Heads, Zones
from anabasis.classes import Mask, Numbers
from anabasis.design.filters import is_stateless
from anabasis.policy import BACK
from anabasis.routing import HostGroup

FilterSet = tuple[Zones, ...]
"""The crossings that decide a flow, each once, sorted: all of them have to permit it."""
Last = tuple[tuple[Zones, ...] | str, ...]
"""What the last link asks for, one an equal path: its filtering points; where frames do not get there its name."""


Links = dict[int, dict[int, int]]
"""Host group -> the end of paths -> the number of what the last link asks for, in one state."""
ANYHOW = 3
"""Of what touches a request: all there is. A reply is translated as its session says, and may be led elsewhere only."""
MOST = 500_000
"""How many whole paths are numbered before they are numbered anew."""


class WholePaths:
    """Whole paths of one family. Only names and numbers are in it, and numbers stay as more are found, so all states of a design may share it."""

    def __init__(self, heads: Heads, filter_sets: Sequence[FilterSet] = ()) -> None:
        """`filter_sets`: those that have numbers already."""
        self.heads = heads
        self.filter_sets: dict[FilterSet, int] = {f: k for k, f in enumerate(filter_sets)}
        self._lasts: dict[Last, int] = {}
        self._last: list[Last] = []
        self._wholes: dict[tuple[int, int, bool], int] = {}
        self._walls: dict[frozenset[str], int] = {}
        self._lost_at: list[str] = []
        self._firewalls: list[int] = []
        self._refuses: list[bool] = []
        self._filter_set: list[int] = []
        self._stateless: list[bool] = []
        """Whether any of its filters remembers nothing, so that replies meet it by themselves."""
        self._both: dict[tuple[int, int], int] = {}

    @property
    def fits(self) -> bool:
        """Tell whether more may be put in: those of states gone by are not many yet."""
        return len(self._wholes) < MOST

    def of(
        self,
        forwarding: Forwarding,
        groups: Sequence[HostGroup],
        links: Links,
        numbers: Numbers,
        group: Numbers,
        reply: bool,
    ) -> Numbers:
        """Return int[row, fec]: the numbers of the whole paths to some forwarding classes.

        `links`: what is known of last links, filled further; `numbers`: int[row, fec], of the paths; `group`: int[fec]; `reply`: whether it is
        replies that are sent.
        """
        heads, ends = forwarding.table.parted(numbers)
        count = len(groups)
        unique, at = np.unique(ends * count + group, return_inverse=True)
        found = [self._last_link(forwarding, groups, links, *divmod(k, count)) for k in unique.tolist()]
        lasts = np.array(found, dtype=np.intp)[at]
        wide = len(self._lasts) + 1
        unique, at = np.unique(heads * wide + lasts.reshape(heads.shape), return_inverse=True)
        told = [self._number(reply, *divmod(k, wide)) for k in unique.tolist()]
        return np.array(told, dtype=np.intp)[at].reshape(heads.shape)

    @property
    def stateless(self) -> Mask:
        """Return by number whether a stateless filter stands on the way."""
        return np.array(self._stateless, dtype=bool)

    def lost(self) -> Mask:
        """Return by number whether packets are lost on the way, or on the last link."""
        return np.array([bool(at) for at in self._lost_at], dtype=bool)

    def told(self) -> tuple[Numbers, Mask, Numbers]:
        """Return by number: the set of firewalls (-1 = lost), whether an outside refuses private sources, the filter set (-1 = lost, or translated)."""
        return (
            np.array(self._firewalls, dtype=np.intp),
            np.array(self._refuses, dtype=bool),
            np.array(self._filter_set, dtype=np.intp),
        )

    def places(self) -> tuple[list[str], npt.NDArray[np.int32]]:
        """Return the places where packets are lost, the first standing for none, and int32[number]: the place of each whole path."""
        names = ["", *sorted(set(self._lost_at) - {""})]
        at = {name: k for k, name in enumerate(names)}
        return names, np.array([at[n] for n in self._lost_at] or [0], dtype=np.int32)

    def _last_link(self, forwarding: Forwarding, groups: Sequence[HostGroup], links: Links, end: int, g: int) -> int:
        """Return the number of what the last link to a group asks for."""
        known = links.setdefault(g, {})
        if end not in known:
            last = tuple(_over_last(forwarding, groups[g], forwarding.table.ends[end]))
            if last not in self._lasts:
                self._lasts[last] = len(self._last)
                self._last.append(last)
            known[end] = self._lasts[last]
        return known[end]

    def _number(self, reply: bool, head: int, last: int) -> int:
        key = head, last, reply
        if key not in self._wholes:
            self._wholes[key] = len(self._wholes)
            self._tell(head, self._last[last], reply)
        return self._wholes[key]

    def _tell(self, head: int, overs: Last, reply: bool) -> None:
        heads = self.heads.all[head]
        self._lost_at.append(next((over for over in overs if isinstance(over, str)), ""))
        firewalls, refuses, filter_set = -1, False, -1
        crossed: FilterSet = ()
        if not self._lost_at[-1] and all(
            arrived and not touched & (STEERED if reply else ANYHOW) for arrived, _, _, touched in heads
        ):
            ways = [
                (*crossed, *(over if isinstance(over, tuple) else ()))
                for (_, crossed, _, _), over in zip(heads, overs, strict=True)
            ]
            walls = {frozenset(c[0] for c in crossings if not is_stateless(c[0])) for crossings in ways}
            if len(walls) == 1:
                firewalls = self._walls.setdefault(walls.pop(), len(self._walls))
            refuses = any(refused for _, _, refused, _ in heads)
            crossed = tuple(sorted({c for crossings in ways for c in crossings}))
            filter_set = self.filter_sets.setdefault(crossed, len(self.filter_sets))
        self._firewalls.append(firewalls)
        self._refuses.append(refuses)
        self._filter_set.append(filter_set)
        self._stateless.append(bool(filter_set >= 0 and any(is_stateless(c[0]) for c in crossed)))

    def both(self, there: int, back: int) -> int:
        """Return the filter set of what one decides on the way there, and the stateless filters of another on the way back."""
        if (there, back) not in self._both:
            sets = list(self.filter_sets)
            replies = {(c[0], *BACK) for c in sets[back] if is_stateless(c[0])}
            crossed = tuple(sorted({*sets[there], *replies}))
            self._both[there, back] = self.filter_sets.setdefault(crossed, len(self.filter_sets))
        return self._both[there, back]


def _over_last(forwarding: Forwarding, group: HostGroup, ends: Sequence[End]) -> Iterator[tuple[Zones, ...] | str]:
    for place, behind, lost_at in ends:
        if lost_at:
            yield lost_at
        elif behind is not None or group.behind is not None:
            yield () if behind == group.behind else behind or (labelled(place) if place else HOST)
        elif place is None or group.attachment is None:
            yield HOST if place is None else labelled(place)
        else:
            over = forwarding.over_link(forwarding.attachment(place), group.attachment)
            yield labelled(place) if over is None else over
