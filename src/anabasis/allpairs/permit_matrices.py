"""Permit matrices: what rules let pass between all forwarding classes at once.

A matrix is every pair of forwarding classes (fecs) whose flows one filter set decides. Its sources fall into kinds that none of its rules tells apart, its
destinations likewise, so a matrix is a small table of services, kind by kind, however many hosts it is about. Where translations have a word
there are translated flows instead.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import TypeVar

import numpy as np
import numpy.typing as npt

from anabasis.allpairs.family import Family
from anabasis.allpairs.fingerprints import Fingerprints, Weights
from anabasis.allpairs.forwarding_classes import ForwardingClasses, Shape
from anabasis.allpairs.path_table import Zones
from anabasis.allpairs.permits import Crossed
from anabasis.allpairs.taking_over import Arrived, Carried, Change, Finer, Followed, Renumbered, Sent
from anabasis.allpairs.tally import Tally
from anabasis.allpairs.whole_paths import FilterSet
from anabasis.classes import Bits, Mask, Numbers, holds, packed, together
from anabasis.once import once
from anabasis.patience import Work, through

Scalar = TypeVar("Scalar", bound=np.generic)
KEPT = 6
"""How many questions' answers are kept, so that after an edit only what it touched is asked again."""


@dataclass(frozen=True)
class PermitMatrix:
    """All pairs of fecs that one filter set decides."""

    shape: Shape
    sources: npt.NDArray[np.float32]
    """[row, kind]: 1 where a forwarding class has such a source"""
    destinations: npt.NDArray[np.float32]
    """[column, kind]"""
    passed: Bits
    """uint64[source kind, destination kind, word]"""
    source_weights: Fingerprints
    """uint64[row, kind]: the sum of what the sources weigh"""
    destination_weights: Fingerprints

    def moved(self, shape: Shape, rows: Numbers, columns: Numbers) -> PermitMatrix | None:
        """Return the matrix about fecs that have other numbers now; None where it is about other pairs.

        `rows`, `columns`: int[n], the numbers that the rows and columns of `shape` had here; -1 = there was no such forwarding class.
        """
        at, to = _places(self.shape.rows, rows), _places(self.shape.columns, columns)
        if at is None or to is None:
            return None
        inside, now = self.shape.inside, shape.inside
        alike = inside is now is None or (
            inside is not None and now is not None and np.array_equal(inside[np.ix_(at, to)], now)
        )
        if not alike:
            return None
        return PermitMatrix(
            shape,
            self.sources[at],
            self.destinations[to],
            self.passed,
            self.source_weights[at],
            self.destination_weights[to],
        )


def _summed(shape: tuple[int, ...], rows: Numbers, kind: Numbers, weights: Fingerprints) -> Fingerprints:
    """Return uint64[row, kind]: the sums of what things weigh, by the row and the kind of each."""
    out = np.zeros(shape, dtype=np.uint64)
    if len(weights) == 1:
        out[rows, kind] = weights
    else:
        np.add.at(out, (rows, kind), weights)
    return out


def _places(known: Numbers, numbers: Numbers) -> Numbers | None:
    """Return where each of some numbers stands among sorted ones; None where they are not the same numbers, each once."""
    if len(known) != len(numbers) or not np.array_equal(np.sort(numbers), known):
        return None
    return np.searchsorted(known, numbers)


class PermitMatrices:
    """All matrices of one family, and translated flows beside them."""

    def __init__(
        self, family: Family, fecs: ForwardingClasses, segments: int, base: PermitMatrices | None = None
    ) -> None:
        """`base`: the matrices of another state; what is the same in this one is taken over. Nothing here holds on to it."""
        self.family, self.fecs, self.count = family, fecs, segments
        self.possible = packed(family.possible)
        self._spread: dict[bytes, tuple[Numbers, Numbers]] = {}
        self._kinds: dict[tuple[Zones, bool, bytes], Numbers] = {}
        self._segments, self._first = np.unique(fecs.segment, return_index=True)
        self._starts, self._classes = self._members()
        self._weights: Weights
        self._crossed: dict[Zones, Crossed] = {}
        self.matrices: dict[int, PermitMatrix] = {}
        """By the number of the filter set."""
        self._tallies: OrderedDict[bytes, tuple[Mask, Mask]] = OrderedDict()
        self._carried = Carried({}, None, {})
        self._fingerprints: Fingerprints | None = None
        self._followed: dict[Sent, Followed] = {}
        """What translations may touch; empty where nobody asked yet."""
        change = self._change_from(base) if base is not None else None
        if base is not None and change is not None:
            self._weights = base._weights.refined(family, change.classes)
            near = self._take_over(base, change)
        else:
            self._weights, near = Weights.of(family), {}
        self.fresh: set[int] = set(fecs.shapes) - set(self.matrices)
        """The filter sets whose matrices were not taken over."""
        self._make(near)
        family.crossed = self._crossed

    def _change_from(self, base: PermitMatrices) -> Change | None:
        """Return what tells this state from another; None where the two cannot be compared."""
        one, two = self.family, base.family
        if one.site.policies.filtering.keys() != two.site.policies.filtering.keys() or not len(base.fecs.group):
            return None
        classes, atoms = one.within(two), one.services.within(two.services)
        if atoms is None:
            return None
        fecs = None if base.fecs is self.fecs else self._old(base)
        if base.fecs is not self.fecs and fecs is None:
            fecs = self._matched(base, classes)
        edits = one.permits.edited(two.permits)
        return Change(classes, atoms, fecs, frozenset(c for c in self.fecs.through if edits(c)), edits)

    def _old(self, base: PermitMatrices) -> Numbers | None:
        """Return int[fec]: its number in another state, where filter sets have the same numbers there; else None."""
        return self.fecs.old if self.fecs.since is base.fecs.mark else None

    def _matched(self, base: PermitMatrices, within: Numbers) -> Numbers:
        """Return int[fec]: the one of another plane that holds the same classes, that of a segment of the same name first; -1 = none.

        `within`: int[address_class], the class there that each is a part of.
        """
        known: dict[bytes | tuple[str, bytes], int] = {}
        for p, name, classes in base._by_name():
            key = np.unique(classes).tobytes()
            known.setdefault(key, p)
            known.setdefault((name, key), p)
        parts = np.bincount(within[within >= 0], minlength=base.family.classes.count)
        out = np.full(len(self.fecs.group), -1, dtype=np.intp)
        for p, name, classes in self._by_name():
            there = np.unique(within[classes])
            if len(there) and there[0] >= 0 and parts[there].sum() == len(classes):  # not some of their parts alone
                key = there.tobytes()
                out[p] = known.get((name, key), known.get(key, -1))
        return out

    def _by_name(self) -> Iterator[tuple[int, str, Numbers]]:
        """Yield every forwarding class with the name of its segment and its address classes."""
        names = [s.name for s in self.family.site.segments.all]
        for p, segment in enumerate(self.fecs.segment.tolist()):
            yield p, names[segment], self._classes[self._starts[p] : self._starts[p + 1]]

    def _members(self) -> tuple[Numbers, Numbers]:
        """Return where the classes of each forwarding class begin, and the classes, one after the other."""
        found: list[Numbers] = []
        for g in dict.fromkeys(self.fecs.group.tolist()):
            mine = self.family.members[g]
            planes = self.family.plane_of[mine]
            found += [mine[planes == place] for place in self.family.plane.members[g]]
        sizes = np.array([len(f) for f in found], dtype=np.intp)
        starts = np.concatenate([[0], np.cumsum(sizes)]).astype(np.intp)
        return starts, np.concatenate(found) if found else np.zeros(0, dtype=np.intp)

    def _of(self, fecs: Numbers) -> tuple[Numbers, Numbers]:
        """Return the classes of some fecs, and which of the fecs each belongs to (by its place in the list)."""
        key = fecs.tobytes()
        if key not in self._spread:
            self._spread[key] = self._gather(fecs)
        return self._spread[key]

    def _gather(self, fecs: Numbers) -> tuple[Numbers, Numbers]:
        sizes = self._starts[fecs + 1] - self._starts[fecs]
        owner = np.repeat(np.arange(len(fecs)), sizes)
        within = np.arange(len(owner)) - np.repeat(np.cumsum(sizes) - sizes, sizes)
        return self._classes[np.repeat(self._starts[fecs], sizes) + within], owner

    def _take_over(self, base: PermitMatrices, change: Change) -> dict[Zones, Crossed]:
        """Take over what no edit touches; return what crossings that none touches let pass, as far as it is known."""
        cut = not self.family.classes.cut_as(base.family.classes)
        atoms = len(base.family.services.atoms)
        finer = len(change.atoms) > atoms
        passed = Finer(change, base.family.classes.count, atoms) if cut or finer else None
        near = {c: passed.crossed(x) if passed else x for c, x in base._crossed.items() if c not in change.edited}
        sets, gone = self.fecs.filter_sets, None
        same = base.fecs is self.fecs
        if same or self._old(base) is not None:
            elsewhere, shapes = set() if same else set(self.fecs.elsewhere.tolist()), self.fecs.shapes
            near_by = {
                n: m for n, m in base.matrices.items() if n not in elsewhere and change.edited.isdisjoint(sets[n])
            }
            kept = {n: m if m.shape is shapes[n] else replace(m, shape=shapes[n]) for n, m in near_by.items()}
        else:
            kept = dict(self._moved(base, change))
        if not same:
            stays = np.zeros(len(sets) + 1, dtype=bool)  # the last stands for -1
            stays[list(kept)] = True
            gone = ~stays[self.fecs.filter_set]
        self.matrices = (
            {n: replace(m, passed=passed.services(m.passed)) for n, m in kept.items()} if finer and passed else kept
        )
        tallies = {passed.key(k) if finer and passed else k: v for k, v in base._tallies.items()}
        followed = self._still(base, change)
        if passed is not None:
            followed = dict(x for sent, known in followed.items() for x in passed.followed(sent, known))
        self._carried = Carried(tallies, base._fingerprints, followed, change.fecs, gone)
        return near

    def _still(self, base: PermitMatrices, change: Change) -> dict[Sent, Followed]:
        """Return what became of translated flows in another state, where no class they met goes otherwise, and no rule they met is edited."""
        if base.fecs is self.fecs:
            return {k: f for k, f in base._followed.items() if not any(map(change.edits, f.read))}
        same = self.fecs.same_since if self._old(base) is not None else None
        if same is None:
            return {}
        new, renumber = same.new, Renumbered.of(self.fecs, base.fecs, same.old)
        senders = set(self.fecs.senders)
        out: dict[Sent, Followed] = {}
        for (groups, goal), known in base._followed.items():
            sent = tuple(new.get(g, -1) for g in groups)
            if sent in senders and same.elsewhere.isdisjoint(known.met) and not any(map(change.edits, known.read)):
                arrived = tuple(map(renumber, known.arrived))
                if all(a is not None for a in arrived):
                    out[sent, goal] = replace(known, arrived=tuple(a for a in arrived if a is not None))
        return out

    def _moved(self, base: PermitMatrices, change: Change) -> Iterator[tuple[int, PermitMatrix]]:
        """Yield matrices over forwarding classes of another plane: those of the same filter set, about the same pairs."""
        edited, old = change.edited, change.fecs
        assert old is not None
        known = {base.fecs.filter_sets[n]: m for n, m in base.matrices.items()}
        stay = len(old) == len(base.fecs.group) and np.array_equal(old, np.arange(len(old)))
        for n, shape in self.fecs.shapes.items():
            filter_set = self.fecs.filter_sets[n]
            matrix = known.get(filter_set) if edited.isdisjoint(filter_set) else None
            if matrix is not None and stay and matrix.shape.same_as(shape):
                yield n, matrix
                continue
            moved = matrix.moved(shape, old[shape.rows], old[shape.columns]) if matrix is not None else None
            if moved is not None:
                yield n, moved

    def _make(self, near: dict[Zones, Crossed]) -> None:
        """Read the rules of crossings, as far as they are not known, and make the matrices that are missing."""
        filter_sets, shapes = self.fecs.filter_sets, self.fecs.shapes
        sides: dict[Zones, tuple[list[Numbers], list[Numbers]]] = {}
        for n in self.fresh:
            for crossing in filter_sets[n]:
                mine = sides.setdefault(crossing, ([], []))
                mine[0].append(shapes[n].rows)
                mine[1].append(shapes[n].columns)
        self._crossed = near
        for crossing, sent in sides.items():
            ends = [np.unique(self._of(np.unique(np.concatenate(x)))[0]) for x in sent]
            known = near.get(crossing)
            if known is not None and holds(known.sources, ends[0]) and holds(known.destinations, ends[1]):
                continue
            if known is not None:
                ends = [np.union1d(ends[0], known.sources), np.union1d(ends[1], known.destinations)]
            near[crossing] = self.family.permits.crossed(crossing, ends[0], ends[1])
        for n in through(self.fresh, Work.RULES):
            self.matrices[n] = self._matrix(filter_sets[n], shapes[n])
        self._spread.clear()
        self._kinds.clear()

    def _matrix(self, filter_set: FilterSet, shape: Shape) -> PermitMatrix:
        rows, columns = shape.rows, shape.columns
        (sources, row_of), (destinations, column_of) = self._of(rows), self._of(columns)
        crossed = [self._crossed[c] for c in filter_set]
        at = [self._kind(c, True, rows, sources) for c in filter_set]
        to = [self._kind(c, False, columns, destinations) for c in filter_set]
        (source_kind, first), (destination_kind, second) = together(at, len(sources)), together(to, len(destinations))
        passed: Bits | None = None
        for c, a, b in zip(crossed, at, to, strict=True):
            let = c.passed[a[first][:, None], b[second]]
            passed = let if passed is None else passed & let
        if passed is None:
            passed = np.broadcast_to(self.possible, (len(first), len(second), len(self.possible)))
        has = np.zeros((len(rows), len(first)), dtype=np.float32)
        takes = np.zeros((len(columns), len(second)), dtype=np.float32)
        has[row_of, source_kind] = 1
        takes[column_of, destination_kind] = 1
        weighs = _summed(has.shape, row_of, source_kind, self._weights.sources[sources])
        weighed = _summed(takes.shape, column_of, destination_kind, self._weights.destinations[destinations])
        return PermitMatrix(shape, has, takes, passed, weighs, weighed)

    def _kind(self, crossing: Zones, sending: bool, fecs: Numbers, classes: Numbers) -> Numbers:
        """Return int[class]: the kinds that the classes of some fecs have at a crossing; many filter sets ask for the same."""
        key = crossing, sending, fecs.tobytes()
        if key not in self._kinds:
            c = self._crossed[crossing]
            known, kind = (c.sources, c.source_kind) if sending else (c.destinations, c.destination_kind)
            self._kinds[key] = kind[np.searchsorted(known, classes)]
        return self._kinds[key]

    @once
    def translated(self) -> list[Arrived]:
        """Return what translations may touch, followed stream by stream."""
        self._followed = dict(self._follow())
        self.family.permits.forget()
        return [a for f in self._followed.values() for a in f.arrived]

    def _follow(self) -> Iterator[tuple[Sent, Followed]]:
        """Yield what becomes of the flows of every row to every class that translations may touch."""
        family, fecs, still = self.family, self.fecs, self._carried.followed
        held: dict[int, list[int]] = {}
        for p, c in enumerate(fecs.place.tolist()):
            held.setdefault(c, []).append(p)
        wanted = np.zeros(family.plane.classes.count, dtype=bool)
        wanted[fecs.place] = True
        wanted |= family.plane.changed
        for row, groups in enumerate(through(fecs.senders, Work.TRANSLATIONS)):
            possible = fecs.touched_row[row] & wanted & (fecs.arrives[row] | family.plane.changed | fecs.steers)
            goals = np.flatnonzero(possible[family.plane_of]).tolist()
            fresh = [goal for goal in goals if (groups, goal) not in still]
            yield from (((groups, goal), still[groups, goal]) for goal in goals if (groups, goal) in still)
            if not fresh:
                continue
            senders = family.translated.senders(groups)
            mine = np.flatnonzero(fecs.row == row)
            part_of = {(int(fecs.group[p]), int(fecs.place[p])): int(p) for p in mine}
            of = zip(senders.group_of.tolist(), family.plane_of[senders.classes].tolist(), strict=True)
            owner = np.array([part_of[k] for k in of], dtype=np.intp)
            for goal in fresh:
                arrived: list[Arrived] = []
                for h, flows in family.translated.sent(senders, goal).items():
                    segment = family.groups[h].segment
                    to = [p for p in held.get(int(family.plane_of[goal]), ()) if fecs.segment[p] == segment]
                    to = [p for p in to if fecs.group[p] == h] or to  # another host of the segment may get some of it
                    kept = np.flatnonzero(fecs.segment[owner] != segment)
                    if len(kept) and flows[kept].any():
                        sent, fec = packed(flows[kept]), to[0] if to else -1
                        arrived.append(Arrived(owner[kept], senders.classes[kept], goal, fec, segment, sent))
                met = family.translated
                yield (groups, goal), Followed(tuple(arrived), frozenset(met.asked), frozenset(met.read))

    def tally(self, asked: Mask) -> Tally:
        """Return the verdicts for the services in asked: bool[service_atom]."""
        count = len(self.fecs.group)
        want = packed(asked & self.family.possible)
        some, full = (x.copy() for x in self._by_rules(want))
        led = self.fecs.filter_set >= 0
        sizes = np.diff(self._starts)
        passing, arriving = np.zeros((count, count), dtype=np.intp), np.zeros((count, count), dtype=np.intp)
        published = np.zeros((self.count, self.count), dtype=bool)
        beside = np.zeros((self.count, self.count), dtype=bool)
        for a in self.translated:
            opened = (a.passed & want).any(axis=-1)
            beside[self.fecs.segment[a.owner[opened]], a.segment] = True
            if a.fec < 0:
                published[self.fecs.segment[a.owner[a.passed.any(axis=-1)]], a.segment] = True
        for fec, owner, passed in self._to_themselves():
            np.add.at(passing[:, fec], owner, (passed & want == want).all(axis=-1))
            np.add.at(arriving[:, fec], owner, passed.any(axis=-1))
        pairs = np.multiply.outer(sizes, sizes)
        full |= self.fecs.touched & (passing == pairs)
        led |= self.fecs.touched & (arriving == pairs)
        known = np.zeros((self.count, self.count), dtype=bool)
        known[np.ix_(self._segments, self._segments)] = True
        return Tally(
            known,
            self._by_segment(some, np.logical_or) | beside,
            self._by_segment(full, np.logical_and),
            self._by_segment(led, np.logical_and) & ~published,
        )

    def _to_themselves(self) -> Iterator[tuple[int, Numbers, Bits]]:
        """Yield (fec, owners, what passes) of flows to an address that a fec has itself; what hosts beside it in its segment get of them is one with it."""
        several: dict[tuple[int, int], list[Arrived]] = {}
        for a in self.translated:
            if a.fec >= 0:
                several.setdefault((a.fec, a.goal), []).append(a)
        for (fec, _), parts in several.items():
            if len(parts) == 1:
                yield fec, parts[0].owner, parts[0].passed
                continue
            owner, sources, passed = (
                np.concatenate([getattr(a, k) for a in parts]) for k in ("owner", "sources", "passed")
            )
            _, first, which = np.unique(np.stack((owner, sources)), axis=1, return_index=True, return_inverse=True)
            joined = np.zeros((len(first), passed.shape[1]), dtype=passed.dtype)
            np.bitwise_or.at(joined, which.ravel(), passed)
            yield fec, owner[first], joined

    def _by_rules(self, want: Bits) -> tuple[Mask, Mask]:
        """Return bool[fec, fec] twice, translations aside: some flow passes, every flow passes. Matrices taken over keep what they said."""
        key = want.tobytes()
        if key in self._tallies:
            return self._tallies[key]
        known, count = self._carried.tallies.get(key), len(self.fecs.group)
        some, full = (
            map(self._carried.over, known) if known else (np.zeros((count, count), dtype=bool) for _ in range(2))
        )
        for n in self.fresh if known else self.matrices:
            b = self.matrices[n]
            opened = (b.passed & want).any(axis=-1)
            shut = ((b.passed & want) != want).any(axis=-1)
            with np.errstate(invalid="ignore"):  # zeros and ones only; some BLAS raise the flag over padding
                any_, all_ = b.sources @ opened @ b.destinations.T > 0, b.sources @ shut @ b.destinations.T == 0
            here, inside = np.ix_(b.shape.rows, b.shape.columns), b.shape.inside
            some[here] = any_ if inside is None else np.where(inside, any_, some[here])
            full[here] = all_ if inside is None else np.where(inside, all_, full[here])
        self._tallies[key] = some, full
        if len(self._tallies) > KEPT:
            self._tallies.popitem(last=False)
        return some, full

    def _by_fecs(self) -> Fingerprints:
        """Return uint64[fec, fec], translations aside."""
        if self._fingerprints is not None:
            return self._fingerprints
        known, count = self._carried.fingerprints, len(self.fecs.group)
        out = self._carried.over(known) if known is not None else np.zeros((count, count), dtype=np.uint64)
        for n in self.fresh if known is not None else self.matrices:
            m = self.matrices[n]
            found = m.source_weights @ self._weights.services_of(m.passed) @ m.destination_weights.T
            here, inside = np.ix_(m.shape.rows, m.shape.columns), m.shape.inside
            out[here] = found if inside is None else np.where(inside, found, out[here])
        self._fingerprints = out
        return out

    @once
    def fingerprints(self) -> Fingerprints:
        """Return uint64[segment, segment]: a print of the flows of each pair, the same for the same flows however they are cut into classes.

        A flow set weighs the sum over its classes of source x destination x service; what a class weighs is the sum over its intervals of
        the difference of a random function at their ends, so cutting a class in two changes nothing. Two different sets have one print with
        odds of some 1 in 2^60.
        """
        whole = self._by_segment(self._by_fecs(), np.add)
        for a in self.translated:
            weights = self._weights.sources[a.sources] * self._weights.services_of(a.passed)
            np.add.at(whole[:, a.segment], self.fecs.segment[a.owner], weights * self._weights.destinations[a.goal])
        return whole

    def _by_segment(self, found: npt.NDArray[Scalar], join: np.ufunc) -> npt.NDArray[Scalar]:
        """Join [fec, fec] to [segment, segment]; zero where a segment has no forwarding class."""
        out = np.zeros((self.count, self.count), dtype=found.dtype)
        if len(found):
            joined = join.reduceat(join.reduceat(found, self._first, axis=0), self._first, axis=1)
            out[np.ix_(self._segments, self._segments)] = joined
        return out
