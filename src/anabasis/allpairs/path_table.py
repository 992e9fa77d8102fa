"""Paths, and their numbers: what packets to one class cross on the way, and where they end or are lost."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import reduce
from operator import or_

import numpy as np

from anabasis.classes import Mask, Numbers

Zones = tuple[str, str, str]
"""(firewall, ingress zone, egress zone)."""

Place = tuple[str, str, int]
"""An attachment by its names: box, interface or port, form. Names outlive a state, attachments do not."""
Side = tuple[str | None, tuple[Zones, ...], tuple[Zones, ...]]
"""What tells the interfaces of a box apart for packets that come in: zone or name, stateless filters in and out."""


@dataclass(frozen=True)
class Path:
    """Where packets to one class of addresses end, and what they cross on the way."""

    arrived: bool
    end: Place | None = None
    """The attachment that puts the packet onto its last link."""
    behind: str | None = None
    """The outside that keeps it."""
    crossings: tuple[Zones, ...] = ()
    refuses_private: bool = False
    """It enters an outside that drops private sources."""
    touched: int = 0
    """1 = a translation on the way might change a packet; 2 = a policy route might lead it elsewhere; 3 = both."""
    lost_at: str = ""
    """Of a path that does not arrive: where the packet is lost; the name of a box, a link, or `HOST`."""

    def then(self, crossings: tuple[Zones, ...]) -> Path:
        """Return the same path with filtering points behind it."""
        return replace(self, crossings=self.crossings + crossings) if crossings else self

    @property
    def firewalls(self) -> frozenset[str]:
        """Return the firewalls crossed."""
        return frozenset(c[0] for c in self.crossings)


Paths = tuple[Path, ...]
"""Every way packets may take; one that is lost stands for all."""
HOST = "host"
"""Lost before it leaves the host that sends it."""


def lost(at: str, touched: int = 0) -> Path:
    """Return the path of a packet that is lost."""
    return Path(False, touched=touched, lost_at=at)


Node = tuple[str, str, Side | None]
"""(device, VRF, side the packet came in by; None = sent from behind or by the box itself)."""


STEERED = 2
"""Of what touches a path: a policy route."""
Head = tuple[bool, tuple[Zones, ...], bool, int]
"""What of a path is not its end: arrived, crossings, refuses private sources, touched."""
End = tuple[Place | None, str | None, str]
"""The last attachment, or the outside behind which it ends, or where it is lost."""
_SHIFT = 24
"""A number of paths is that of their heads, times 2**24, and that of their ends."""

MOST = 200_000
"""How many paths with something in front of them a table knows before it is made anew."""


def any_of(touched: Iterable[int]) -> int:
    """Return what touches any of some paths."""
    return reduce(or_, touched, 0)


class Heads:
    """What of paths is not their ends, by number. Only names are in it, so all states of a design may share it."""

    def __init__(self) -> None:
        self.all: list[tuple[Head, ...]] = []
        self.touched: list[int] = []
        self._at: dict[tuple[Head, ...], int] = {}
        self._longer: dict[tuple[tuple[Zones, ...], bool, int, int], int] = {}

    @property
    def fits(self) -> bool:
        """Tell whether more may be put in: those of states gone by are not many yet."""
        return len(self._longer) < MOST

    def number(self, heads: tuple[Head, ...]) -> int:
        """Return the number of some heads."""
        found = self._at.setdefault(heads, len(self.all))
        if found == len(self.all):
            self.all.append(heads)
            self.touched.append(any_of(touched for *_, touched in heads))
        return found

    def before(self, crossings: tuple[Zones, ...], refuses: bool, touched: int, head: int) -> int:
        """Return the number of the heads with something in front of them."""
        key = crossings, refuses, touched, head
        if key not in self._longer:
            told = [
                (arrived, crossings + crossed if arrived else crossed, refuses or refused, touched | changed)
                for arrived, crossed, refused, changed in self.all[head]
            ]
            if not all(arrived for arrived, *_ in told):
                told = [(False, (), False, any_of(changed for *_, changed in told))] * len(told)
            self._longer[key] = self.number(tuple(told))
        return self._longer[key]


LOOP = ""
"""Stands for a box among those visited where packets go in a circle: how it is told depends on where one looked first."""
NOWHERE = 0
"""The number of no boxes at all."""


class Visited:
    """The boxes that paths lead through, by number: names only, as heads are."""

    def __init__(self) -> None:
        self.all: list[frozenset[str]] = [frozenset()]
        self._at: dict[frozenset[str], int] = {frozenset(): NOWHERE}
        self._joined: dict[tuple[int, int], int] = {}

    def number(self, boxes: frozenset[str]) -> int:
        """Return the number of some boxes."""
        found = self._at.setdefault(boxes, len(self.all))
        if found == len(self.all):
            self.all.append(boxes)
        return found

    def joined(self, one: int, numbers: Numbers) -> Numbers:
        """Return int[...]: the numbers of the boxes of one number, and of each of some others."""
        if len(numbers) == 1:
            return np.array([self._both(one, int(numbers[0]))], dtype=np.intp)
        others, at = np.unique(numbers, return_inverse=True)
        return np.array([self._both(one, int(n)) for n in others], dtype=np.intp)[at]

    def _both(self, one: int, two: int) -> int:
        if (one, two) not in self._joined:
            self._joined[one, two] = self.number(self.all[one] | self.all[two])
        return self._joined[one, two]

    def having(self, box: str) -> Mask:
        """Return bool[number]: whether a box is among them."""
        return np.array([box in boxes for boxes in self.all], dtype=bool)


class PathTable:
    """Paths by number, so that arrays can speak of them. What stands in front of paths changes their heads only, so ends are many and heads are few.

    Only names are in it, so all states of a design may share it.
    """

    def __init__(self, heads: Heads | None = None) -> None:
        """`heads`: those that have numbers already."""
        self.heads = heads if heads is not None and heads.fits else Heads()
        self.visited = Visited()
        self.ends: list[tuple[End, ...]] = []
        self._end_at: dict[tuple[End, ...], int] = {}
        self._known: dict[int, Paths] = {}

    @property
    def fits(self) -> bool:
        """Tell whether more may be put in: those of states gone by are not many yet."""
        return self.heads.fits and max(len(self.ends), len(self.visited._joined)) < MOST

    def number(self, paths: Paths) -> int:
        """Return the number of some paths."""
        heads = tuple((p.arrived, p.crossings, p.refuses_private, p.touched) for p in paths)
        ends = tuple((p.end, p.behind, p.lost_at) for p in paths)
        end = self._end_at.setdefault(ends, len(self.ends))
        if end == len(self.ends):
            self.ends.append(ends)
        return self.heads.number(heads) << _SHIFT | end

    def of(self, number: int) -> Paths:
        """Return the paths of a number."""
        if number not in self._known:
            heads, ends = self.heads.all[number >> _SHIFT], self.ends[number & (1 << _SHIFT) - 1]
            self._known[number] = tuple(
                Path(arrived, end, behind, crossings, refuses, touched, lost_at)
                for (arrived, crossings, refuses, touched), (end, behind, lost_at) in zip(heads, ends, strict=True)
            )
        return self._known[number]

    def before(self, crossings: tuple[Zones, ...], refuses: bool, touched: Numbers, numbers: Numbers) -> Numbers:
        """Return the numbers of paths that are those of some numbers with something in front of them. `touched`: int[number], as of a path."""
        if len(numbers) == 1:  # an address that a box holds: most calls are about one class
            head, end = divmod(int(numbers[0]), 1 << _SHIFT)
            return np.array(
                [self.heads.before(crossings, refuses, int(touched[0]), head) << _SHIFT | end], dtype=np.intp
            )
        keys, at = np.unique((numbers >> _SHIFT) * 4 + touched, return_inverse=True)
        heads = np.array([self.heads.before(crossings, refuses, int(k) & 3, int(k) >> 2) for k in keys], dtype=np.intp)
        return heads[at] << _SHIFT | numbers & (1 << _SHIFT) - 1

    def touched(self, numbers: Numbers) -> Numbers:
        """Return, in the shape of some numbers, what might touch packets on their way, as of a path."""
        heads, at = np.unique(numbers >> _SHIFT, return_inverse=True)
        return np.array([self.heads.touched[h] for h in heads], dtype=np.intp)[at].reshape(numbers.shape)

    def parted(self, numbers: Numbers) -> tuple[Numbers, Numbers]:
        """Return the numbers of heads and of ends."""
        return numbers >> _SHIFT, numbers & (1 << _SHIFT) - 1
