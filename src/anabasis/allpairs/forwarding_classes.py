"""Forwarding classes (fecs; RFC 3031, section 2.1): what of a host group forwarding tells apart, and for every two of them whether routes lead there and back, and over what.

All pairs at once: a forwarding class is a source and a destination alike, so everything here is an array `[fec, fec]`. Rules are not in it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from anabasis.allpairs.forwarding import Step
from anabasis.allpairs.path_table import STEERED, Zones
from anabasis.allpairs.since import Since, since
from anabasis.allpairs.whole_paths import FilterSet, Links, WholePaths
from anabasis.classes import Mask, Numbers
from anabasis.once import once

if TYPE_CHECKING:
    from anabasis.allpairs.plane import ForwardingPlane

MOST_SPARE = 2_000
"""How many filter sets may keep numbers that decide no pair any more, beside as many as do."""


@dataclass(frozen=True)
class Shape:
    """The pairs of fecs that one filter set decides."""

    rows: Numbers
    """int[row]: the fecs that send"""
    columns: Numbers
    """int[column]: the fecs that are sent to"""
    inside: Mask | None
    """bool[row, column]: the pairs it is about; None = all"""

    def same_as(self, other: Shape) -> bool:
        """Tell whether the other is about the same pairs, by the same numbers."""
        if not np.array_equal(self.rows, other.rows) or not np.array_equal(self.columns, other.columns):
            return False
        one, two = self.inside, other.inside
        return one is two or (one is not None and two is not None and np.array_equal(one, two))


class ForwardingClasses:
    """The fecs of one family. Cost: rows x classes paths followed, where a row is an entry that hosts send into; then arrays."""

    def __init__(self, plane: ForwardingPlane, known: ForwardingClasses | None = None) -> None:
        """`known`: of another state; filter sets keep the numbers they have there. Nothing here holds on to it."""
        self.plane = plane
        order = sorted((g for g in range(len(plane.groups))), key=lambda g: plane.groups[g].segment)
        self.group = np.array([g for g in order for _ in plane.members[g]], dtype=np.intp)
        """int[fec], sorted by segment"""
        self.place = np.array([c for g in order for c in plane.members[g]], dtype=np.intp)
        """int[fec]: the class of the plane"""
        segments = np.array([g.segment for g in plane.groups], dtype=np.intp)
        self.segment = segments[self.group] if len(self.group) else self.group
        sizes = [len(plane.members[g]) for g in order]
        self._first = dict(zip(order, np.cumsum([0, *sizes])[:-1].tolist(), strict=True))
        self.row_of: dict[int, int] = {}
        """group -> its row"""
        self.senders: list[tuple[int, ...]] = []
        """row -> the groups that send by it"""
        self.row = self._rows()
        """int[fec]"""
        self.numbers: Numbers = np.zeros((len(self.senders), plane.classes.count), dtype=np.intp)
        """numbers: int[row, class of the plane], of the paths"""
        for k, groups in enumerate(self.senders):
            self.numbers[k] = self._sent_by(groups)
        touched = plane.forwarding.table.touched(self.numbers)
        self.steered_row: Mask = (touched & STEERED).astype(bool)
        """bool[row, class of the plane]: a policy route might lead packets elsewhere"""
        self.steers = bool(self.steered_row.any())
        self.touched_row: Mask = touched.astype(bool)
        """bool[row, class of the plane]: packets are followed as streams: a translation or a policy route might touch them, or such a route their replies"""
        if self.steers:
            self._touch_asked()
        self.touched: Mask = self.touched_row[:, self.place][self.row]
        """bool[fec, fec]: such a translation stands on the way there"""
        old = self._old(known) if known is not None else None
        shares = known is not None and plane.forwarding.table is known.plane.forwarding.table
        steers = self.steers or (known is not None and known.steers)
        self.same_since: Since | None = (
            since(self, known, old) if known is not None and old is not None and shares and not steers else None
        )
        """What is as it was in the other state; None = not known."""
        near = known if self.same_since is not None else None
        heads, fits = plane.forwarding.table.heads, known is not None and known.fits
        self._wholes: WholePaths
        """Shared with the other state where numbers of heads are."""
        if known is not None and fits and known._wholes.heads is heads:
            self._wholes = known._wholes
        else:
            self._wholes = WholePaths(heads, known.filter_sets if known is not None and fits else ())
            self.same_since = near = None
        self._links: Links = self._kept_links(near)
        moved, rows = self._moved(near)
        self._there, self._back = (self._whole(near, moved, rows, reply) for reply in (False, True))
        firewalls, refuses, filter_set = self._wholes.told()
        stateless = self._wholes.stateless
        alone = stateless if stateless.any() else None
        self.sent: Numbers = filter_set[self._there]
        """int[row, fec]: the filter set that packets meet on the way there, whatever becomes of replies; -1 = lost, or translated"""
        count, private = len(self.group), plane.private[self.place]
        self.filter_set: npt.NDArray[np.int32] = (
            np.full((count, count), -1, dtype=np.int32) if near is None else _renumbered(near.filter_set, old)
        )
        """int32[fec, fec]: the filter set that decides, -1 = routes and frames do not lead there and back, or a translation may have a word"""
        anew = np.zeros(count, dtype=bool)
        anew[moved] = True
        every = np.arange(count)
        for p in every if len(moved) else every[:0]:  # a row at a time, so that memory stays at a few arrays
            to = every if anew[p] else moved
            go, come = self._there[self.row[p], to], self._back[self.row[to], p]
            both = (firewalls[go] >= 0) & (firewalls[go] == firewalls[come]) & (self.segment[to] != self.segment[p])
            dropped = (private[p] & refuses[go]) | (refuses[come] & private[to])
            decided = np.where(both & ~dropped, filter_set[go], -1)
            if self.steers:
                decided = np.where(self.touched[p, to], -1, decided)
            if alone is not None and alone[come].any():
                decided = self._both_ways(decided, filter_set[come], alone[come])
            self.filter_set[p, to] = decided
        self.filter_sets: list[FilterSet] = list(self._wholes.filter_sets)
        self.old: Numbers | None = None
        """int[fec]: its number in the other state, -1 = there was none like it; None = numbers of filter sets, or classes, are others there."""
        self.elsewhere: Numbers = np.zeros(0, dtype=np.intp)
        """int[n], sorted: the filter sets that may decide other pairs than in the other state, where `old` is known."""
        self._shapes: dict[int, Shape] | None = None
        self.mark = object()
        """Stands for this value where it is not to be held on to."""
        self.since = known.mark if known is not None else None
        """`mark` of the other state."""
        if known is not None and fits and old is not None:
            self._compare(known, old)

    def _touch_asked(self) -> None:
        """Touch what asks for something whose replies a policy route might lead elsewhere."""
        replies = self.steered_row[:, self.place][self.row].T  # [who asks, who replies]
        asked = np.zeros((len(self.senders), self.plane.classes.count), dtype=bool)
        at = np.argwhere(replies)
        asked[self.row[at[:, 0]], self.place[at[:, 1]]] = True
        self.touched_row |= asked

    def _both_ways(self, there: Numbers, back: Numbers, alone: Mask) -> Numbers:
        """Return int[n]: filter sets on the way there, and where a stateless filter stands on the way back what it says of replies."""
        out = there.copy()
        at = np.flatnonzero(alone & (there >= 0))
        wide = len(self._wholes.filter_sets) + 1
        pairs, which = np.unique(there[at].astype(np.int64) * wide + back[at], return_inverse=True)
        told = [self._wholes.both(*divmod(int(k), wide)) for k in pairs]
        out[at] = np.array(told, dtype=out.dtype)[which]
        return out

    @property
    def fits(self) -> bool:
        """Tell whether the numbers of filter sets may be kept: those of states gone by are not many yet."""
        return self._wholes.fits and len(self.filter_sets) <= 2 * len(self.shapes) + MOST_SPARE

    def _same_as(self, other: ForwardingClasses) -> bool:
        """Tell whether forwarding classes are those of another state, by the same numbers."""
        return self.plane.classes.cut_as(other.plane.classes) and all(
            np.array_equal(a, b)
            for a, b in ((self.group, other.group), (self.place, other.place), (self.segment, other.segment))
        )

    def _old(self, known: ForwardingClasses) -> Numbers | None:
        """Return int[fec]: its number in another state, -1 = there was none like it; None where classes, or their order, are others there."""
        if not self.plane.classes.cut_as(known.plane.classes):
            return None
        old = np.arange(len(self.place)) if self._same_as(known) else self._matched(known)
        return None if (np.diff(old[old >= 0]) < 0).any() else old

    def _compare(self, known: ForwardingClasses, old: Numbers) -> None:
        """Find the filter sets that decide other pairs than in another state; the shapes of all others are taken over, by the numbers of now."""
        stay = np.flatnonzero(old >= 0)
        there = old[stay]
        self.old = old
        now, then = self.filter_set[np.ix_(stay, stay)], known.filter_set[np.ix_(there, there)]
        differ = now != then
        come, gone = np.flatnonzero(old < 0), np.setdiff1d(np.arange(len(known.place)), there)
        parts = [now[differ], then[differ], self.filter_set[come], self.filter_set[:, come]]
        parts += [known.filter_set[gone], known.filter_set[:, gone]]
        told = np.unique(np.concatenate([p.ravel() for p in parts]))
        self.elsewhere = told[told >= 0].astype(np.intp)
        other = set(self.elsewhere.tolist())
        kept = {n: shape for n, shape in known.shapes.items() if n not in other}
        if len(come) or len(gone):
            at = np.full(len(known.place), -1, dtype=np.intp)
            at[there] = stay
            kept = {n: Shape(at[s.rows], at[s.columns], s.inside) for n, s in kept.items()}
        self._shapes = kept | self._gathered(self.elsewhere)

    def _matched(self, known: ForwardingClasses) -> Numbers:
        """Return `old`: forwarding classes of the same class of addresses, in a segment of the same name first."""
        names, others = ([s.name for s in p.site.segments.all] for p in (self.plane, known.plane))
        there: dict[tuple[str, int], int] = {}
        spare: dict[int, list[int]] = {}
        for p, (segment, place) in enumerate(zip(known.segment.tolist(), known.place.tolist(), strict=True)):
            there[others[segment], place] = p
            spare.setdefault(place, []).append(p)
        mine = list(zip(self.segment.tolist(), self.place.tolist(), strict=True))
        old = np.array([there.pop((names[s], place), -1) for s, place in mine], dtype=np.intp)
        taken = set(old.tolist())
        for p in np.flatnonzero(old < 0).tolist():
            free = [q for q in spare.get(mine[p][1], ()) if q not in taken]
            if free:
                old[p] = free[0]
                taken.add(free[0])
        return old

    @once
    def arrives(self) -> Mask:
        """Return bool[row, class of the plane]: packets get to some host of the class, rules and translations of the destination aside."""
        gone = self._wholes.lost()
        out = np.zeros((self.plane.classes.count, len(self.senders)), dtype=bool)
        np.logical_or.at(out, self.place, ~gone[self._there].T)
        return out.T

    @once
    def lost_places(self) -> tuple[list[str], npt.NDArray[np.int32]]:
        """Return the places where packets are lost, and int32[segment, segment]: twice the number of one for two segments, -1 = nothing is lost.

        One more where it is the reply that is lost. Where both ways lead somewhere, but not over the same firewalls, or where a translation
        has a word, the place is the first: nowhere. Only segments in which a host stands are in it, in their order (`segments`).
        """
        names, at = self._wholes.places()
        nothing = np.int32(np.iinfo(np.int32).max)
        codes = np.full(self.filter_set.shape, nothing, dtype=np.int32)
        for p in range(len(codes)):
            there, back = at[self._there[self.row[p]]], at[self._back[self.row, p]]
            lost = (self.filter_set[p] < 0) & (self.segment != self.segment[p])
            codes[p, lost] = np.where(there > 0, 2 * there, 2 * back + 1)[lost]
        if not len(codes):
            return names, codes
        _, first = np.unique(self.segment, return_index=True)
        joined = np.minimum.reduceat(np.minimum.reduceat(codes, first, axis=0), first, axis=1)
        return names, np.where(joined == nothing, -1, joined)

    @once
    def through(self) -> dict[Zones, Numbers]:
        """Return the numbers of the filter sets that each crossing is in."""
        found: dict[Zones, list[int]] = {}
        for number, filter_set in enumerate(self.filter_sets):
            for crossing in filter_set:
                found.setdefault(crossing, []).append(number)
        return {c: np.array(n, dtype=np.intp) for c, n in found.items()}

    @once
    def shapes(self) -> dict[int, Shape]:
        """Return the pairs that each filter set decides, by the filter set's number."""
        return self._shapes if self._shapes is not None else self._gathered(None)

    def _gathered(self, wanted: Numbers | None) -> dict[int, Shape]:
        """Return the pairs that some filter sets decide; None = all of them."""
        count, sets = len(self.filter_set), self.filter_set.ravel()
        if wanted is None:
            cells = np.flatnonzero(sets >= 0)
        else:
            asked = np.zeros(len(self.filter_sets) + 1, dtype=bool)  # the last stands for -1
            asked[wanted] = True
            cells = np.flatnonzero(asked[sets])
        numbers = sets[cells]
        order = np.argsort(numbers, kind="stable")
        cells, numbers = cells[order], numbers[order]
        used, starts = np.unique(numbers, return_index=True)
        out: dict[int, Shape] = {}
        for n, mine in zip(used.tolist(), np.split(cells, starts[1:]), strict=False):
            rows, columns = _distinct(mine // count), _distinct(np.sort(mine % count))
            whole = len(mine) == len(rows) * len(columns)
            out[n] = Shape(rows, columns, None if whole else self.filter_set[np.ix_(rows, columns)] == n)
        return out

    def in_segment(self, segment: int) -> Numbers:
        """Return int[fec]: the forwarding classes of a segment."""
        return np.arange(*np.searchsorted(self.segment, [segment, segment + 1]))

    def of(self, group: int, classes: Numbers) -> Numbers:
        """Return int[class]: the forwarding classes of a group that hold some classes of the plane."""
        found: Numbers = self._first[group] + np.searchsorted(self.plane.members[group], classes)
        return found

    def _sent_by(self, groups: tuple[int, ...]) -> Numbers:
        """Return int[class of the plane]: the number of the paths by which some groups send; what is on a link of one is of that one alone."""
        plane = self.plane
        first, forwarding = plane.groups[groups[0]], plane.forwarding
        row = forwarding.row(forwarding.entry(first), np.arange(plane.classes.count))
        if len(groups) == 1:
            for c in forwarding.on_link(first):
                row[c] = forwarding.table.number(forwarding.from_group(first, c))
        return row

    def _rows(self) -> Numbers:
        """Give groups that send alike to everything beyond their own segment one row."""
        plane, at = self.plane, dict[Step | int, int]()
        owner = np.full(plane.classes.count, -1, dtype=np.intp)
        for g, members in enumerate(plane.members):
            mine = plane.groups[g].segment
            owner[members] = np.where((owner[members] == -1) | (owner[members] == mine), mine, -2)
        owner[(owner == -1) & plane.changed] = -2
        row_of = dict[int, int]()
        rows = dict[int, list[int]]()
        for g in dict.fromkeys(self.group.tolist()):
            group = plane.groups[g]
            alone = any(owner[c] not in (-1, group.segment) for c in plane.forwarding.on_link(group))
            row_of[g] = at.setdefault(g if alone else plane.forwarding.entry(group), len(at))
            rows.setdefault(row_of[g], []).append(g)
        self.senders = [tuple(rows[k]) for k in range(len(at))]
        self.row_of = row_of
        return np.array([row_of[g] for g in self.group.tolist()], dtype=np.intp)

    def _moved(self, near: ForwardingClasses | None) -> tuple[Numbers, dict[int, int]]:
        """Return the forwarding classes of which some row's paths, or the link to them, are others than in another state; and those rows it has too.

        A row is found there by a group that sends by it as it did then. All that a group sends which does not is anew.
        """
        same = self.same_since
        if near is None or same is None:
            return np.arange(len(self.place)), {}
        stays = np.isin(self.group, list(same.groups)) & (same.old >= 0)
        here = np.flatnonzero(stays)
        pairs = {(int(k), int(r)) for k, r in zip(self.row[here], near.row[same.old[here]], strict=True)}
        otherwise = np.zeros(self.plane.classes.count, dtype=bool)
        for k, r in pairs:
            otherwise |= self.numbers[k] != near.numbers[r]
        return np.flatnonzero(~stays | otherwise[self.place]), dict(sorted(pairs))

    def _kept_links(self, near: ForwardingClasses | None) -> Links:
        """Return what is known of last links: those to groups that are reached as they were."""
        same = self.same_since
        if near is None or same is None:
            return {}
        if near.plane.site.net.hosts is self.plane.site.net.hosts:
            return near._links
        return {g: near._links[h] for g, h in same.groups.items() if h in near._links}

    def _whole(self, near: ForwardingClasses | None, moved: Numbers, rows: dict[int, int], reply: bool) -> Numbers:
        """Return int[row, fec]: the number of the whole paths to each forwarding class; of those that have not moved they are known."""
        wholes, plane = self._wholes, self.plane

        def found(lines: Numbers | slice, columns: Numbers) -> Numbers:
            numbers = self.numbers[lines][:, self.place[columns]]
            return wholes.of(plane.forwarding, plane.groups, self._links, numbers, self.group[columns], reply)

        every = np.arange(len(self.place))
        if near is None or self.same_since is None:
            return found(slice(None), every)
        known, old = near._back if reply else near._there, np.maximum(self.same_since.old, 0)
        out = np.zeros((len(self.senders), len(self.place)), dtype=np.intp)
        if rows and len(known):
            out[list(rows)] = known[list(rows.values())][:, old] if known.shape[1] else 0
        out[:, moved] = found(slice(None), moved)
        others = np.array([k for k in range(len(self.senders)) if k not in rows], dtype=np.intp)
        if len(others):
            out[others] = found(others, every)
        return out


def _renumbered(known: npt.NDArray[np.int32], old: Numbers | None) -> npt.NDArray[np.int32]:
    """Return int32[fec, fec] by the numbers of now; -1 where one of the two was not there. `old`: int[fec]."""
    if old is None or np.array_equal(old, np.arange(len(known))):
        return known.copy()
    wide = np.pad(known, ((0, 1), (0, 1)), constant_values=-1)
    return wide[np.ix_(old, old)]


def _distinct(numbers: Numbers) -> Numbers:
    """Return sorted numbers, each once."""
    if len(numbers) < 2:
        return numbers
    new = np.empty(len(numbers), dtype=bool)
    new[0] = True
    np.not_equal(numbers[1:], numbers[:-1], out=new[1:])
    return numbers[new]
