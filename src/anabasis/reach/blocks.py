"""Blocks: what rules let pass between all parts at once.

A block is every pair of parts whose flows one chain of crossings decides. Its sources fall into kinds that none of its rules tells apart, its
destinations likewise, so a block is a small table of services, kind by kind, however many hosts it is about. Translations have strands instead.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterator
from dataclasses import dataclass
from hashlib import blake2b
from typing import TypeVar

import numpy as np
import numpy.typing as npt

from anabasis.once import once
from anabasis.patience import Work, through
from anabasis.reach.family import Family
from anabasis.reach.kinds import Words, packed, together, unpacked
from anabasis.reach.parts import Chain, Parts, Shape
from anabasis.reach.paths import Zones
from anabasis.reach.permits import Crossed
from anabasis.reach.spaces import Mask, Numbers

Prints = npt.NDArray[np.uint64]
Scalar = TypeVar("Scalar", bound=np.generic)
KEPT = 6
"""How many questions' answers are kept, so that after an edit only what it touched is asked again."""


@dataclass(frozen=True)
class Block:
    """All pairs of parts that one chain decides."""

    shape: Shape
    sources: npt.NDArray[np.float32]
    """[row, kind]: 1 where a part has such a source"""
    destinations: npt.NDArray[np.float32]
    """[column, kind]"""
    passed: Words
    """uint64[source kind, destination kind, word]"""
    source_weights: Prints
    """uint64[row, kind]: the sum of what the sources weigh"""
    destination_weights: Prints

    def moved(self, shape: Shape, rows: Numbers, columns: Numbers) -> Block | None:
        """Return the block about parts that have other numbers now; None where it is about other pairs.

        `rows`, `columns`: int[n], the numbers that the rows and columns of `shape` had here; -1 = there was no such part.
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
        return Block(
            shape,
            self.sources[at],
            self.destinations[to],
            self.passed,
            self.source_weights[at],
            self.destination_weights[to],
        )


def _summed(shape: tuple[int, ...], rows: Numbers, kind: Numbers, weights: Prints) -> Prints:
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


class Blocks:
    """All blocks of one family, and the strands beside them."""

    def __init__(self, family: Family, parts: Parts, segments: int, before: Blocks | None = None) -> None:
        """`before`: the blocks of another state; what no edit touches is taken over, for parts that hold the same classes."""
        self.family, self.parts, self.count = family, parts, segments
        self.possible = packed(family.possible)
        past = before if before is not None and self._comparable(before) else None
        self._past: Blocks | None = past
        same = past is not None and past.parts is parts
        self._old: Numbers | None = None
        """int[part]: its number before, -1 = there was none like it; None = the parts are the same."""
        self._gone: Mask | None = None
        """bool[part, part]: pairs of which nothing is taken over; None = the parts are the same."""
        self._spread: dict[bytes, tuple[Numbers, Numbers]] = {}
        self._kinds: dict[tuple[Zones, bool, bytes], Numbers] = {}
        if past is not None:
            past._past = None  # or states would hang on each other for ever
        self._starts: Numbers
        self._classes: Numbers
        self._starts, self._classes = (past._starts, past._classes) if past and same else self._members()
        if past is not None and not same:
            self._old = self._matched(past)
        self._segments, self._first = np.unique(parts.segment, return_index=True)
        self._weights: Weights = past._weights if past else Weights(family)
        self._crossed: dict[Zones, Crossed] = {}
        self.blocks: dict[int, Block] = {}
        """By the number of the chain."""
        self.fresh: set[int] = set(parts.shapes)
        """The chains whose blocks were not taken over."""
        self._tallies: OrderedDict[bytes, tuple[Mask, Mask]] = OrderedDict()
        self.read: frozenset[Zones] = frozenset()
        """The crossings whose rules the strands have met."""
        self._make(past)

    def _comparable(self, past: Blocks) -> bool:
        """Tell whether another state has the same classes and firewalls, and any parts."""
        one, two = (f.site.policies.of.keys() for f in (self.family, past.family))
        return one == two and bool(len(past.parts.group)) and self.family.cut_like(past.family)

    def _matched(self, past: Blocks) -> Numbers:
        """Return int[part]: the part of another ground that holds the same classes, that of a segment of the same name first; -1 = none."""
        known: dict[bytes | tuple[str, bytes], int] = {}
        for p, key in past._keys():
            known.setdefault(key[1], p)
            known.setdefault(key, p)
        found = (known.get(key, known.get(key[1], -1)) for _, key in self._keys())
        return np.fromiter(found, dtype=np.intp, count=len(self.parts.group))

    def _keys(self) -> Iterator[tuple[int, tuple[str, bytes]]]:
        """Yield every part with the name of its segment and its classes."""
        names = [s.name for s in self.family.site.segments.all]
        for p, segment in enumerate(self.parts.segment.tolist()):
            yield p, (names[segment], self._classes[self._starts[p] : self._starts[p + 1]].tobytes())

    def _members(self) -> tuple[Numbers, Numbers]:
        """Return where the classes of each part begin, and the classes, part by part."""
        found: list[Numbers] = []
        for g in dict.fromkeys(self.parts.group.tolist()):
            mine = self.family.members[g]
            grounds = self.family.ground_of[mine]
            found += [mine[grounds == place] for place in self.family.ground.members[g]]
        sizes = np.array([len(f) for f in found], dtype=np.intp)
        starts = np.concatenate([[0], np.cumsum(sizes)]).astype(np.intp)
        return starts, np.concatenate(found) if found else np.zeros(0, dtype=np.intp)

    def _of(self, parts: Numbers) -> tuple[Numbers, Numbers]:
        """Return the classes of some parts, and which of the parts each belongs to (by its place in the list)."""
        key = parts.tobytes()
        if key not in self._spread:
            self._spread[key] = self._gather(parts)
        return self._spread[key]

    def _gather(self, parts: Numbers) -> tuple[Numbers, Numbers]:
        sizes = self._starts[parts + 1] - self._starts[parts]
        owner = np.repeat(np.arange(len(parts)), sizes)
        within = np.arange(len(owner)) - np.repeat(np.cumsum(sizes) - sizes, sizes)
        return self._classes[np.repeat(self._starts[parts], sizes) + within], owner

    def _make(self, past: Blocks | None) -> None:
        chains, shapes = self.parts.chains, self.parts.shapes
        near: dict[Zones, Crossed] = {}
        if past is not None:
            edits = self.family.permits.edited(past.family.permits)
            edited = {c for c in self.parts.through if edits(c)}
            near = {c: x for c, x in past._crossed.items() if c not in edited}
            if self._old is None:
                self._crossed = near
                self.blocks = {n: b for n, b in past.blocks.items() if edited.isdisjoint(chains[n])}
            else:
                self._take_over(past, edited, self._old)
            self.fresh = set(shapes) - set(self.blocks)
        wanted = {c for n in self.fresh for c in chains[n]}
        sides: dict[Zones, tuple[list[Numbers], list[Numbers]]] = {}
        for n, shape in shapes.items():
            for crossing in chains[n]:
                if crossing in wanted and crossing not in self._crossed:
                    mine = sides.setdefault(crossing, ([], []))
                    mine[0].append(shape.rows)
                    mine[1].append(shape.columns)
        for crossing, sent in sides.items():
            ends = [np.unique(self._of(np.unique(np.concatenate(x)))[0]) for x in sent]
            known = near.get(crossing)
            fits = known is not None and _holds(known.sources, ends[0]) and _holds(known.destinations, ends[1])
            self._crossed[crossing] = (
                known if known and fits else self.family.permits.crossed(crossing, ends[0], ends[1])
            )
        for n in through(self.fresh, Work.RULES):
            self.blocks[n] = self._block(chains[n], shapes[n])
        self._spread.clear()
        self._kinds.clear()

    def _take_over(self, past: Blocks, edited: set[Zones], old: Numbers) -> None:
        """Take over blocks over parts of another ground: those of the same chain, about the same pairs."""
        known = {past.parts.chains[n]: b for n, b in past.blocks.items()}
        kept = np.zeros(len(self.parts.chains) + 1, dtype=bool)  # the last stands for -1
        for n, shape in self.parts.shapes.items():
            chain = self.parts.chains[n]
            block = known.get(chain) if edited.isdisjoint(chain) else None
            moved = block.moved(shape, old[shape.rows], old[shape.columns]) if block is not None else None
            if moved is not None:
                self.blocks[n] = moved
                kept[n] = True
        self._gone = ~kept[self.parts.chain]

    def _carried(self, before: npt.NDArray[Scalar]) -> npt.NDArray[Scalar]:
        """Return what was said of every two parts before, [part, part], by their numbers now; zero where nothing is taken over."""
        if self._old is None:
            return before.copy()
        out: npt.NDArray[Scalar] = before[np.ix_(self._old, self._old)]
        out[self._gone] = 0
        return out

    def _block(self, chain: Chain, shape: Shape) -> Block:
        rows, columns = shape.rows, shape.columns
        (sources, row_of), (destinations, column_of) = self._of(rows), self._of(columns)
        crossed = [self._crossed[c] for c in chain]
        at = [self._kind(c, True, rows, sources) for c in chain]
        to = [self._kind(c, False, columns, destinations) for c in chain]
        (source_kind, first), (destination_kind, second) = together(at, len(sources)), together(to, len(destinations))
        passed: Words | None = None
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
        return Block(shape, has, takes, passed, weighs, weighed)

    def _kind(self, crossing: Zones, sending: bool, parts: Numbers, classes: Numbers) -> Numbers:
        """Return int[class]: the kinds that the classes of some parts have at a crossing; many chains ask for the same."""
        key = crossing, sending, parts.tobytes()
        if key not in self._kinds:
            c = self._crossed[crossing]
            known, kind = (c.sources, c.source_kind) if sending else (c.destinations, c.destination_kind)
            self._kinds[key] = kind[np.searchsorted(known, classes)]
        return self._kinds[key]

    @once
    def strands(self) -> list[Arrived]:
        """Return what translations may touch, followed strand by strand."""
        past, permits = self._past, self.family.permits
        known = past is not None and past.parts is self.parts and "strands" in past.__dict__
        if past is not None and known and not any(map(permits.edited(past.family.permits), past.read)):
            self.read = past.read
            return past.strands
        found = list(self._follow())
        self.read = permits.read
        return found

    def _follow(self) -> Iterator[Arrived]:
        family, parts = self.family, self.parts
        held: dict[int, set[int]] = {}
        for p, c in enumerate(parts.place.tolist()):
            held.setdefault(c, set()).add(p)
        wanted = np.zeros(family.ground.classes.count, dtype=bool)
        wanted[parts.place] = True
        wanted |= family.ground.changed
        for row, groups in enumerate(through(parts.senders, Work.TRANSLATIONS)):
            goals = np.flatnonzero((parts.touched_row[row] & wanted)[family.ground_of])
            if not len(goals):
                continue
            senders = family.strands.senders(groups)
            mine = np.flatnonzero(parts.row == row)
            part_of = {(int(parts.group[p]), int(parts.place[p])): int(p) for p in mine}
            owner = np.array(
                [
                    part_of[int(g), int(c)]
                    for g, c in zip(senders.group_of, family.ground_of[senders.classes], strict=True)
                ],
                dtype=np.intp,
            )
            for goal in map(int, goals):
                for h, flows in family.strands.sent(senders, goal).items():
                    to = [p for p in held.get(int(family.ground_of[goal]), ()) if parts.group[p] == h]
                    segment = family.groups[h].segment
                    kept = np.flatnonzero(parts.segment[owner] != segment)
                    if len(kept) and flows[kept].any():
                        yield Arrived(
                            owner[kept], senders.classes[kept], goal, to[0] if to else -1, segment, packed(flows[kept])
                        )

    def tally(self, asked: Mask) -> Tally:
        """Return the verdicts for the services in asked: bool[service_atom]."""
        count = len(self.parts.group)
        want = packed(asked & self.family.possible)
        some, full = (x.copy() for x in self._by_rules(want))
        led = self.parts.chain >= 0
        sizes = np.diff(self._starts)
        passing, arriving = np.zeros((count, count), dtype=np.intp), np.zeros((count, count), dtype=np.intp)
        published = np.zeros((self.count, self.count), dtype=bool)
        beside = np.zeros((self.count, self.count), dtype=bool)
        for a in self.strands:
            opened = (a.passed & want).any(axis=-1)
            beside[self.parts.segment[a.owner[opened]], a.segment] = True
            if a.part < 0:
                published[self.parts.segment[a.owner[a.passed.any(axis=-1)]], a.segment] = True
            else:
                np.add.at(passing[:, a.part], a.owner, (a.passed & want == want).all(axis=-1))
                np.add.at(arriving[:, a.part], a.owner, a.passed.any(axis=-1))
        pairs = np.multiply.outer(sizes, sizes)
        full |= self.parts.touched & (passing == pairs)
        led |= self.parts.touched & (arriving == pairs)
        known = np.zeros((self.count, self.count), dtype=bool)
        known[np.ix_(self._segments, self._segments)] = True
        return Tally(
            known,
            self._by_segment(some, np.logical_or) | beside,
            self._by_segment(full, np.logical_and),
            self._by_segment(led, np.logical_and) & ~published,
        )

    def _by_rules(self, want: Words) -> tuple[Mask, Mask]:
        """Return bool[part, part] twice, translations aside: some flow passes, every flow passes. Blocks taken over keep what they said."""
        key, past = want.tobytes(), self._past
        if key in self._tallies:
            return self._tallies[key]
        known = past._tallies.get(key) if past is not None else None
        count = len(self.parts.group)
        some, full = map(self._carried, known) if known else (np.zeros((count, count), dtype=bool) for _ in range(2))
        for n in self.fresh if known else self.blocks:
            b = self.blocks[n]
            opened = (b.passed & want).any(axis=-1)
            shut = ((b.passed & want) != want).any(axis=-1)
            any_, all_ = b.sources @ opened @ b.destinations.T > 0, b.sources @ shut @ b.destinations.T == 0
            here, inside = np.ix_(b.shape.rows, b.shape.columns), b.shape.inside
            some[here] = any_ if inside is None else np.where(inside, any_, some[here])
            full[here] = all_ if inside is None else np.where(inside, all_, full[here])
        self._tallies[key] = some, full
        if len(self._tallies) > KEPT:
            self._tallies.popitem(last=False)
        return some, full

    @once
    def _raw_prints(self) -> Prints:
        """Return uint64[part, part], translations aside."""
        past = self._past
        known = past is not None and "_raw_prints" in past.__dict__
        count = len(self.parts.group)
        none = np.zeros((count, count), dtype=np.uint64)
        out: Prints = self._carried(past._raw_prints) if past is not None and known else none
        for n in self.fresh if known else self.blocks:
            b = self.blocks[n]
            found = b.source_weights @ self._weights.services_of(b.passed) @ b.destination_weights.T
            here, inside = np.ix_(b.shape.rows, b.shape.columns), b.shape.inside
            out[here] = found if inside is None else np.where(inside, found, out[here])
        return out

    @once
    def prints(self) -> Prints:
        """Return uint64[segment, segment]: a print of the flows of each pair, the same for the same flows however they are cut into classes.

        A flow set weighs the sum over its classes of source x destination x service; what a class weighs is the sum over its intervals of
        the difference of a random function at their ends, so cutting a class in two changes nothing. Two different sets have one print with
        odds of some 1 in 2^60.
        """
        whole = self._by_segment(self._raw_prints, np.add)
        for a in self.strands:
            weights = self._weights.sources[a.sources] * self._weights.services_of(a.passed)
            np.add.at(whole[:, a.segment], self.parts.segment[a.owner], weights * self._weights.destinations[a.goal])
        return whole

    def _by_segment(self, found: npt.NDArray[Scalar], join: np.ufunc) -> npt.NDArray[Scalar]:
        """Join [part, part] to [segment, segment]; zero where a segment has no part."""
        out = np.zeros((self.count, self.count), dtype=found.dtype)
        if len(found):
            joined = join.reduceat(join.reduceat(found, self._first, axis=0), self._first, axis=1)
            out[np.ix_(self._segments, self._segments)] = joined
        return out


def _holds(known: Numbers, wanted: Numbers) -> bool:
    """Tell whether sorted numbers hold all of some others."""
    at = np.searchsorted(known, wanted)
    return bool(len(known)) and bool((at < len(known)).all()) and np.array_equal(known[at], wanted)


@dataclass(frozen=True)
class Arrived:
    """What of the flows of some parts to one class of addresses gets to a host group through translations."""

    owner: Numbers
    """int[source]: the part of each source"""
    sources: Numbers
    """int[source]: its address class"""
    goal: int
    part: int
    """The part that has the address itself; -1 = another address stands for it."""
    segment: int
    passed: Words
    """uint64[source, word]"""


class Weights:
    """What classes and atoms weigh in a print."""

    def __init__(self, family: Family) -> None:
        one, two = f"from{family.version}", f"to{family.version}"
        self.sources = _weights(one, family.classes.intervals)
        self.destinations = _weights(two, family.classes.intervals)
        atoms = [[(p << 20 | low, p << 20 | high) for p, low, high in atom] for atom in family.services.atoms]
        self._atoms = _weights("service", atoms)

    def services_of(self, sets: Words) -> Prints:
        """Return uint64[...]: what sets of services weigh."""
        bits = unpacked(sets, len(self._atoms))
        found: Prints = bits.astype(np.uint64) @ self._atoms
        return found


def _weights(salt: str, classes: object) -> Prints:
    def at(x: int) -> int:
        return int.from_bytes(blake2b(f"{salt} {x}".encode(), digest_size=8).digest(), "little")

    sums = [sum(at(high + 1) - at(low) for low, high in spans) % 2**64 for spans in classes]  # type: ignore[attr-defined]
    return np.array(sums, dtype=np.uint64)
