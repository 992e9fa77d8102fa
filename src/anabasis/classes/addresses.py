"""Classes of addresses: pieces of the line of addresses that nothing in the design tells apart.

Addresses of one family are cut at every boundary any predicate has (a predicate is a set of addresses: a prefix of a route, the sources of a
rule, the hosts of a segment); pieces that lie in the same predicates are one **class**. These are the atomic predicates of Yang and Lam,
"Real-Time Verification of Network Properties Using Atomic Predicates" (ICNP 2013), over one field of the header.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Sequence

import numpy as np
import numpy.typing as npt

from anabasis.routing import Interval, Intervals, merge, subtract

Mask = npt.NDArray[np.bool_]
Numbers = npt.NDArray[np.intp]


class AddressClasses:
    """Classes of addresses of one family, and which predicate holds which."""

    def __init__(
        self,
        predicates: Sequence[Intervals],
        edges: list[int],
        class_of: Numbers,
        count: int,
        universe: Intervals,
        intervals: tuple[Intervals, ...] | None = None,
        at: dict[tuple[Interval, ...], int] | None = None,
    ) -> None:
        """`edges`: where pieces begin, sorted; `class_of`: int[piece], -1 = outside the universe; `intervals`, `at`: those of the classes, where known."""
        self._predicates, self._edges, self._class_of, self.count = predicates, edges, class_of, count
        self.universe = universe
        self.at: dict[tuple[Interval, ...], int] = at if at is not None else _numbered(predicates)
        """Addresses -> the predicate that holds exactly them."""
        self._inside: dict[int, Numbers] = {}
        self.intervals: tuple[Intervals, ...] = intervals if intervals is not None else self._gathered()
        """The addresses of each class."""

    def holds(self, predicate: int) -> Mask:
        """Return bool[address_class]: the classes that a predicate holds."""
        out = np.zeros(self.count, dtype=bool)
        out[self.inside(predicate)] = True
        return out

    def inside(self, predicate: int) -> Numbers:
        """Return int[n], sorted: the classes that a predicate holds. Cost: its pieces."""
        if predicate not in self._inside:
            spans = [
                (bisect_left(self._edges, a), bisect_left(self._edges, b + 1)) for a, b in self._predicates[predicate]
            ]
            pieces = np.concatenate([self._class_of[a:b] for a, b in spans]) if spans else np.zeros(0, dtype=np.intp)
            held = np.zeros(self.count + 1, dtype=bool)  # the last stands for what is outside the universe
            held[pieces] = True
            self._inside[predicate] = (
                np.flatnonzero(held[:-1])
                if len(pieces) > 40
                else np.array(sorted({*pieces.tolist()} - {-1}), dtype=np.intp)
            )
        return self._inside[predicate]

    def refined(self, further: Sequence[Intervals]) -> tuple[AddressClasses, Numbers]:
        """Cut out further predicates; return the finer classes, and int[class]: the class here that each is a part of.

        A class that is cut in two keeps its number for what lies outside the predicate; what lies inside gets a number behind all others.
        Cost: the pieces of the new predicates, and a copy of the line.
        """
        edges = sorted({*self._edges, *(x for spans in further for low, high in spans for x in (low, high + 1))})
        at = np.array([bisect_right(self._edges, e) - 1 for e in edges[:-1]], dtype=np.intp)
        known = np.append(self._class_of, -1)  # the last stands for what lies before and behind the line
        class_of = np.where(at < len(self._class_of), known[at], -1)
        parents, cut = list(range(self.count)), set[int]()
        for spans in further:
            inside = np.zeros(len(class_of), dtype=bool)
            paint(inside, edges, spans)
            for c in sorted({*class_of[inside].tolist()} - {-1}):
                mine = class_of == c
                if (mine & ~inside).any():
                    class_of[mine & inside] = len(parents)
                    cut |= {c, len(parents)}
                    parents.append(parents[c])
        changed = {c: _spans_of(edges, np.flatnonzero(class_of == c)) for c in cut}
        finer_ones = (changed.get(c) or self.intervals[c] for c in range(len(parents)))
        intervals = tuple(finer_ones) if cut else self.intervals
        at_ = self.at | {tuple(p): len(self._predicates) + k for k, p in enumerate(further)}
        predicates = [*self._predicates, *further]
        finer = AddressClasses(predicates, edges, class_of, len(parents), self.universe, intervals, at_)
        return finer, np.array(parents, dtype=np.intp)

    @property
    def predicates(self) -> int:
        """Return how many predicates there are."""
        return len(self._predicates)

    def held(self, spans: Intervals) -> Numbers:
        """Return int[n], sorted: the classes in some addresses, which have to be those of a predicate."""
        return self.inside(self.at[tuple(spans)])

    def holding(self, spans: Intervals) -> Mask:
        """Return bool[address_class]: the classes in some addresses, which have to be those of a predicate."""
        return self.holds(self.at[tuple(spans)])

    def cut_as(self, other: AddressClasses) -> bool:
        """Tell whether classes are those of another state by the same numbers, since none had to be cut."""
        return self.intervals is other.intervals

    def within(self, other: AddressClasses) -> Numbers:
        """Return int[class]: the class of another cut that each is a part of, where the parts make up the whole of it; else -1.

        Cost: the intervals of both, sorted.
        """
        if self.intervals == other.intervals:
            return np.arange(self.count)
        known = sorted((low, high, c) for c, spans in enumerate(other.intervals) for low, high in spans)
        starts = [low for low, _, _ in known]
        found, covered = np.full(self.count, -1, dtype=np.intp), [0] * other.count
        for c, spans in enumerate(self.intervals):
            homes = set[int]()
            for low, high in spans:
                _, last, home = known[max(bisect_right(starts, low) - 1, 0)]
                homes.add(home if starts and starts[0] <= low and high <= last else -1)
            if len(homes) == 1 and -1 not in homes:
                found[c] = home = homes.pop()
                covered[home] += _size(spans)
        whole = np.array([n == _size(s) for n, s in zip(covered, other.intervals, strict=True)] + [False], dtype=bool)
        return np.where(whole[found], found, -1)

    def class_of(self, address: int) -> int:
        """Return the class of an address, or -1 where it is in none."""
        at = bisect_right(self._edges, address) - 1
        return int(self._class_of[at]) if 0 <= at < len(self._class_of) else -1

    def _gathered(self) -> tuple[Intervals, ...]:
        gathered: list[list[Interval]] = [[] for _ in range(self.count)]
        for piece in np.flatnonzero(self._class_of >= 0):
            gathered[self._class_of[piece]].append((self._edges[piece], self._edges[piece + 1] - 1))
        return tuple(merge(g) if len(g) > 1 else g for g in gathered)


def cut_again(
    known: AddressClasses, predicates: Sequence[Intervals], universe: Intervals, spare: int
) -> tuple[AddressClasses, Numbers] | None:
    """Return the classes of another state cut finer where predicates are new, and int[class]: the class there that each is a part of.

    None where they are better cut anew: the universe reaches further, or more than `spare` predicates are not asked for any more.
    """
    wanted = {tuple(p): p for p in predicates}
    if subtract(universe, known.universe) or len(known.at) - sum(k in known.at for k in wanted) > spare:
        return None
    further = [p for k, p in wanted.items() if k not in known.at]
    return known.refined(further) if further else (known, np.arange(known.count))


def _numbered(predicates: Sequence[Intervals]) -> dict[tuple[Interval, ...], int]:
    return {tuple(p): k for k, p in enumerate(predicates)}


def _size(spans: Intervals) -> int:
    return sum(high - low + 1 for low, high in spans)


def _spans_of(edges: list[int], pieces: Numbers) -> Intervals:
    """Return the addresses of some pieces of a line."""
    return merge((edges[p], edges[p + 1] - 1) for p in pieces.tolist())


def address_classes(predicates: Sequence[Intervals], universe: Intervals) -> AddressClasses:
    """Cut `universe` into classes: pieces that lie in the same predicates. Cost: interval ends, sorted.

    Each predicate has a random number of 128 bits; what a piece lies in is told by their exclusive or, summed up along the line, so no
    table of predicates x pieces is needed. Two different sets of predicates have the same sum with odds of 1 in 2^128.
    """
    edges = sorted({x for spans in (*predicates, universe) for low, high in spans for x in (low, high + 1)})
    count = max(len(edges) - 1, 0)
    inside = np.zeros(count, dtype=bool)
    paint(inside, edges, universe)
    at = {edge: k for k, edge in enumerate(edges)}
    marks = np.random.default_rng(802).integers(0, 2**63, size=(len(predicates), 2), dtype=np.uint64)
    ends = [(at[x], k) for k, spans in enumerate(predicates) for low, high in spans for x in (low, high + 1)]
    turns = np.zeros((count + 1, 2), dtype=np.uint64)
    if ends:
        where, who = np.array(ends, dtype=np.intp).T
        np.bitwise_xor.at(turns, where, marks[who])
    sums = np.bitwise_xor.accumulate(turns, axis=0)[:count]
    class_of = np.full(count, -1, dtype=np.intp)
    pieces = np.flatnonzero(inside)
    if not len(pieces):
        return AddressClasses(predicates, edges, class_of, 0, universe)
    _, first, same = np.unique(
        np.ascontiguousarray(sums[pieces]).view("V16").ravel(), return_index=True, return_inverse=True
    )
    order = np.argsort(np.argsort(first))
    class_of[pieces] = order[same.ravel()]
    return AddressClasses(predicates, edges, class_of, len(first), universe)


def paint(row: Mask, edges: list[int], spans: Iterable[Interval]) -> None:
    """Mark the pieces of a line, cut at sorted edges, that some spans hold."""
    for low, high in spans:
        row[bisect_left(edges, low) : bisect_left(edges, high + 1)] = True
