"""Parts: what of a host group forwarding tells apart, and for every two of them whether routes lead there and back, and over what.

All pairs at once: a part is a source and a destination alike, so everything here is an array `[part, part]`. Rules are not in it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from anabasis.once import once
from anabasis.reach.paths import Step, Zones
from anabasis.reach.spaces import Mask, Numbers

if TYPE_CHECKING:
    from anabasis.reach.ground import Ground

Chain = tuple[Zones, ...]
"""The crossings that decide a flow, each once, sorted: all of them have to permit it."""


@dataclass(frozen=True)
class Shape:
    """The pairs of parts that one chain decides."""

    rows: Numbers
    """int[row]: the parts that send"""
    columns: Numbers
    """int[column]: the parts that are sent to"""
    inside: Mask | None
    """bool[row, column]: the pairs it is about; None = all"""


class Parts:
    """The parts of one family. Cost: rows x classes paths followed, where a row is an entry that hosts send into; then arrays."""

    def __init__(self, ground: Ground) -> None:
        self.ground = ground
        order = sorted((g for g in range(len(ground.groups))), key=lambda g: ground.groups[g].segment)
        self.group = np.array([g for g in order for _ in ground.members[g]], dtype=np.intp)
        """int[part], sorted by segment"""
        self.place = np.array([c for g in order for c in ground.members[g]], dtype=np.intp)
        """int[part]: the class of the ground"""
        segments = np.array([g.segment for g in ground.groups], dtype=np.intp)
        self.segment = segments[self.group] if len(self.group) else self.group
        self.senders: list[tuple[int, ...]] = []
        """row -> the groups that send by it"""
        self.row = self._rows()
        """int[part]"""
        self.chains: list[Chain] = []
        count = len(self.group)
        self.numbers: Numbers = np.zeros((len(self.senders), ground.classes.count), dtype=np.intp)
        """numbers: int[row, class of the ground], of the paths"""
        for k, groups in enumerate(self.senders):
            self.numbers[k] = ground.ways.of(groups[0]) if len(groups) == 1 else ground.ways.shared(groups[0])
        self.touched_row: Mask = ground.forwarding.table.touched(self.numbers)
        """bool[row, class of the ground]: a translation might change packets on their way"""
        self._last = dict[tuple[tuple[Zones, ...] | None, ...], int]()
        wholes = dict[tuple[int, int, bool], int]()
        there, back = self._whole(False, wholes), self._whole(True, wholes)
        firewalls, refuses, chain = self._told(wholes)
        self.sent: Numbers = chain[there]
        """int[row, part]: the chain that packets meet on the way there, whatever becomes of replies; -1 = lost, or translated"""
        self.touched: Mask = self.touched_row[:, self.place][self.row]
        """bool[part, part]: such a translation stands on the way there"""
        self.chain: npt.NDArray[np.int32] = np.full((count, count), -1, dtype=np.int32)
        """int32[part, part]: the chain that decides, -1 = routes and frames do not lead there and back, or a translation may have a word"""
        private = ground.private[self.place]
        for p in range(count):  # a row at a time, so that memory stays at a few arrays
            go, come = there[self.row[p]], back[self.row, p]
            both = (firewalls[go] >= 0) & (firewalls[go] == firewalls[come]) & (self.segment != self.segment[p])
            dropped = (private[p] & refuses[go]) | (refuses[come] & private)
            self.chain[p] = np.where(both & ~dropped, chain[go], -1)

    @once
    def through(self) -> dict[Zones, Numbers]:
        """Return the numbers of the chains that each crossing is in."""
        found: dict[Zones, list[int]] = {}
        for number, chain in enumerate(self.chains):
            for crossing in chain:
                found.setdefault(crossing, []).append(number)
        return {c: np.array(n, dtype=np.intp) for c, n in found.items()}

    @once
    def shapes(self) -> dict[int, Shape]:
        """Return the pairs that each chain decides, by the chain's number."""
        count = len(self.chain)
        spots = np.flatnonzero(self.chain.ravel() >= 0)
        numbers = self.chain.ravel()[spots]
        order = np.argsort(numbers, kind="stable")
        spots, numbers = spots[order], numbers[order]
        used, starts = np.unique(numbers, return_index=True)
        out: dict[int, Shape] = {}
        for n, mine in zip(used.tolist(), np.split(spots, starts[1:]), strict=False):
            rows, columns = np.unique(mine // count), np.unique(mine % count)
            whole = len(mine) == len(rows) * len(columns)
            out[n] = Shape(rows, columns, None if whole else self.chain[np.ix_(rows, columns)] == n)
        return out

    def _rows(self) -> Numbers:
        """Give groups that send alike to everything beyond their own segment one row."""
        ground, at = self.ground, dict[Step | int, int]()
        owner = np.full(ground.classes.count, -1, dtype=np.intp)
        for g, members in enumerate(ground.members):
            mine = ground.groups[g].segment
            owner[members] = np.where((owner[members] == -1) | (owner[members] == mine), mine, -2)
        owner[(owner == -1) & ground.changed] = -2
        row_of = dict[int, int]()
        rows = dict[int, list[int]]()
        for g in dict.fromkeys(self.group.tolist()):
            group = ground.groups[g]
            alone = any(owner[c] not in (-1, group.segment) for c in ground.forwarding.on_link(group))
            row_of[g] = at.setdefault(g if alone else ground.forwarding.entry(group), len(at))
            rows.setdefault(row_of[g], []).append(g)
        self.senders = [tuple(rows[k]) for k in range(len(at))]
        return np.array([row_of[g] for g in self.group.tolist()], dtype=np.intp)

    def _whole(self, reply: bool, wholes: dict[tuple[int, int, bool], int]) -> Numbers:
        """Return int[row, part]: the number of the whole paths to each part; what is in a whole path is kept in `wholes`."""
        heads, ends = self.ground.forwarding.table.parted(self.numbers[:, self.place])
        groups = len(self.ground.groups)
        unique, at = np.unique(ends * groups + self.group, return_inverse=True)
        lasts = np.array([self._last_link(int(k) // groups, int(k) % groups) for k in unique], dtype=np.intp)[at]
        wide = len(self._last) + 1
        unique, at = np.unique(heads * wide + lasts.reshape(heads.shape), return_inverse=True)
        told = [wholes.setdefault((int(k) // wide, int(k) % wide, reply), len(wholes)) for k in unique]
        return np.array(told, dtype=np.intp)[at].reshape(heads.shape)

    def _last_link(self, end: int, g: int) -> int:
        """Return the number of what the last link to a group asks for: its filtering points, None where frames do not get there."""
        forwarding, group = self.ground.forwarding, self.ground.groups[g]
        found: list[tuple[Zones, ...] | None] = []
        for tap, behind in forwarding.table.ends[end]:
            if behind is not None or group.behind is not None:
                found.append(() if behind == group.behind else None)
            else:
                found.append(None if tap is None or group.tap is None else forwarding.over_link(tap, group.tap))
        return self._last.setdefault(tuple(found), len(self._last))

    def _told(self, wholes: dict[tuple[int, int, bool], int]) -> tuple[Numbers, Mask, Numbers]:
        """Return by number of whole paths: the set of firewalls (-1 = lost), whether an outside refuses private sources, the chain."""
        table, lasts = self.ground.forwarding.table, list(self._last)
        firewalls, chain = np.full(len(wholes), -1, dtype=np.intp), np.full(len(wholes), -1, dtype=np.intp)
        refuses = np.zeros(len(wholes), dtype=bool)
        chains, sets = dict[Chain, int](), dict[frozenset[str], int]()
        for (head, last, reply), number in wholes.items():
            ways = [
                (arrived and over is not None and (reply or not touched), (*crossed, *(over or ())), refused)
                for (arrived, crossed, refused, touched), over in zip(table.heads[head], lasts[last], strict=True)
            ]
            crossed_sets = {frozenset(c[0] for c in crossings) for _, crossings, _ in ways}
            if not all(there for there, _, _ in ways):
                continue
            if len(crossed_sets) == 1:
                firewalls[number] = sets.setdefault(crossed_sets.pop(), len(sets))
            refuses[number] = any(refused for _, _, refused in ways)
            crossed = tuple(sorted({c for _, crossings, _ in ways for c in crossings}))
            chain[number] = chains.setdefault(crossed, len(chains))
        self.chains = list(chains)
        return firewalls, refuses, chain
