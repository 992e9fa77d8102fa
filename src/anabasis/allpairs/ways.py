"""Which way packets of every host group take to every class, as arrays: paths by number, and what arrives where over which firewalls."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anabasis.allpairs.forwarding import Forwarding, Path, Step
from anabasis.classes import Mask, Numbers
from anabasis.routing import HostGroup


@dataclass(frozen=True)
class Arriving:
    """What becomes of packets from one group to the classes of another."""

    arrives: Mask
    """arrives: bool[destination], over one set of firewalls whatever equal route is taken"""
    firewalls: Numbers
    """firewalls: int[destination], the number of the set of firewalls crossed"""
    refuses: Mask
    """refuses: bool[destination], an outside on the way drops private sources"""
    whole: Numbers
    """whole: int[destination], the number of the whole paths; -1 = lost"""


class Ways:
    """The paths of one family by number. Cost: entries x classes, where an entry is a zone, or a router, that hosts send into."""

    def __init__(self, forwarding: Forwarding, groups: list[HostGroup], members: list[Numbers], count: int) -> None:
        self._forwarding, self._groups, self._members, self._count = forwarding, groups, members, count
        self.paths = forwarding.table
        self._rows: dict[Step, Numbers] = {}
        self._of: dict[int, Numbers] = {}
        self._whole: dict[tuple[int, int, bool], int] = {}
        self._sets: dict[frozenset[str], int] = {}
        self._seen: dict[tuple[Step | int, int, bool], Arriving] = {}
        self._links: dict[int, frozenset[int]] = {}

    def of(self, g: int) -> Numbers:
        """Return int[address_class]: the number of the paths from a group to every class."""
        if g not in self._of:
            group = self._groups[g]
            row = self._row(self._forwarding.entry(group)).copy()
            for c in self._forwarding.on_link(group):
                row[c] = self.paths.number(self._forwarding.from_group(group, int(c)))
            self._of[g] = row
        return self._of[g]

    def shared(self, g: int) -> Numbers:
        """Return int[address_class]: the number of the paths by which a group sends to everything that is not on its link."""
        return self._row(self._forwarding.entry(self._groups[g]))

    def _row(self, entry: Step) -> Numbers:
        if entry not in self._rows:
            self._rows[entry] = self._forwarding.row(entry, np.arange(self._count))
        return self._rows[entry]

    def touched(self, g: int, classes: Numbers) -> Mask:
        """Return bool[class]: whether a translation might change packets from a group on their way."""
        return self.paths.touched(self.of(g)[classes])

    def arriving(self, g: int, h: int, reply: bool) -> Arriving:
        """Return what becomes of packets from group g to the classes of group h. A reply is not translated by itself."""
        key = self._key(g, h), h, reply
        if key not in self._seen:
            numbers, inverse = np.unique(self.of(g)[self._members[h]], return_inverse=True)
            whole = np.array([self.arrive(int(n), h, reply) for n in numbers], dtype=np.intp)
            sets = np.array([self.firewalls(int(w)) for w in whole], dtype=np.intp)
            refuses = np.array(
                [w >= 0 and any(p.refuses_private for p in self.paths.of(int(w))) for w in whole], dtype=bool
            )
            self._seen[key] = Arriving((sets >= 0)[inverse], sets[inverse], refuses[inverse], whole[inverse])
        return self._seen[key]

    def _key(self, g: int, h: int) -> Step | int:
        """Groups that send into one entry send alike to everything that is on the link of neither."""
        group = self._groups[g]
        if g not in self._links:
            self._links[g] = frozenset(self._forwarding.on_link(group))
        near = self._links[g]
        return g if near and any(int(c) in near for c in self._members[h]) else self._forwarding.entry(group)

    def firewalls(self, whole: int) -> int:
        """Return the number of the set of firewalls that some paths cross; -1 where they are lost, or cross different ones."""
        sets = {p.firewalls for p in self.paths.of(whole)} if whole >= 0 else set()
        return self._sets.setdefault(next(iter(sets)), len(self._sets)) if len(sets) == 1 else -1

    def arrive(self, number: int, h: int, reply: bool) -> int:
        """Return the number of the whole paths to a group, with the filtering points of the last link; -1 where one does not get there."""
        if (number, h, reply) not in self._whole:
            paths = self.paths.of(number)
            whole = [self._last_link(p, self._groups[h]) for p in paths if reply or not p.touched]
            found = tuple(p for p in whole if p is not None)
            self._whole[number, h, reply] = self.paths.number(found) if found and len(found) == len(paths) else -1
        return self._whole[number, h, reply]

    def _last_link(self, path: Path, group: HostGroup) -> Path | None:
        if not path.arrived:
            return None
        if path.behind is not None or group.behind is not None:
            return path if path.behind == group.behind else None
        if path.end is None or group.attachment is None:
            return None
        over = self._forwarding.over_link(path.end, group.attachment)
        return None if over is None else path.then(over)
