"""Exact sets of addresses and services: split into classes that nothing in the design tells apart.

Addresses of one family are cut at every boundary any predicate has (a predicate is a set of addresses: a prefix of a route, the sources of a
rule, the hosts of a segment); pieces that lie in the same predicates are one **class**. Services likewise, cut at the boundaries of rules.
Everything the sweep computes is then an array over classes, and exact.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from ipaddress import IPv4Address, IPv6Address, ip_network, summarize_address_range
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from anabasis.design.notation import PROTOCOLS, WITH_PORTS, WITH_TYPES, Network
from anabasis.once import once
from anabasis.policy import ServiceSpan
from anabasis.routing.spans import Interval, Intervals, intersect, merge, span_of, subtract

Mask = npt.NDArray[np.bool_]
Numbers = npt.NDArray[np.intp]


class AddressClasses:
    """Classes of addresses of one family, and which predicate holds which."""

    def __init__(self, predicates: Sequence[Intervals], edges: list[int], class_of: Numbers, count: int) -> None:
        """`edges`: where pieces begin, sorted; `class_of`: int[piece], -1 = outside the universe."""
        self._predicates, self._edges, self._class_of, self.count = predicates, edges, class_of, count
        self._inside: dict[int, Numbers] = {}
        self.intervals: tuple[Intervals, ...] = self._gathered()
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

    def same_as(self, other: AddressClasses) -> bool:
        """Tell whether the classes are the same, by the same numbers."""
        return self.intervals == other.intervals

    def class_of(self, address: int) -> int:
        """Return the class of an address, or -1 where it is in none."""
        at = bisect_right(self._edges, address) - 1
        return int(self._class_of[at]) if 0 <= at < len(self._class_of) else -1

    def _gathered(self) -> tuple[Intervals, ...]:
        gathered: list[list[Interval]] = [[] for _ in range(self.count)]
        for piece in np.flatnonzero(self._class_of >= 0):
            gathered[self._class_of[piece]].append((self._edges[piece], self._edges[piece + 1] - 1))
        return tuple(merge(g) if len(g) > 1 else g for g in gathered)


def address_classes(predicates: Sequence[Intervals], universe: Intervals) -> AddressClasses:
    """Cut `universe` into classes: pieces that lie in the same predicates. Cost: interval ends, sorted.

    Each predicate has a random number of 128 bits; what a piece lies in is told by their exclusive or, summed up along the line, so no
    table of predicates x pieces is needed. Two different sets of predicates have the same sum with odds of 1 in 2^128.
    """
    edges = sorted({x for spans in (*predicates, universe) for low, high in spans for x in (low, high + 1)})
    count = max(len(edges) - 1, 0)
    inside = np.zeros(count, dtype=bool)
    _paint(inside, edges, universe)
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
        return AddressClasses(predicates, edges, class_of, 0)
    _, first, same = np.unique(
        np.ascontiguousarray(sums[pieces]).view("V16").ravel(), return_index=True, return_inverse=True
    )
    order = np.argsort(np.argsort(first))
    class_of[pieces] = order[same.ravel()]
    return AddressClasses(predicates, edges, class_of, len(first))


def _paint(row: Mask, edges: list[int], spans: Iterable[Interval]) -> None:
    for low, high in spans:
        row[bisect_left(edges, low) : bisect_left(edges, high + 1)] = True


def _top(protocol: int) -> int:
    return 65535 if protocol in WITH_PORTS else 255 if protocol in WITH_TYPES else 0


ServiceNames = Sequence[tuple[str, Sequence[ServiceSpan]]]
"""Names of services with the spans they stand for, the larger ones first."""
FAMILY_OF = {PROTOCOLS["icmp"]: 4, PROTOCOLS["icmpv6"]: 6}
"""Protocols that go over one family only (RFC 792, RFC 4443)."""


ServiceShift = tuple[ServiceSpan, ServiceSpan]
"""Two ranges of one protocol and of equal size: the first becomes the second."""


class ServiceAtoms:
    """Services cut at every boundary the rules have; protocols nobody names are one atom together."""

    def __init__(self, sets: Iterable[frozenset[ServiceSpan] | None], shifts: Sequence[ServiceShift] = ()) -> None:
        """`shifts`: ranges of services that become others; what is cut on one side is cut on the other."""
        spans = {s for one in sets if one is not None for s in one}
        while more := {m for s in spans for one in shifts for m in _mirrored(s, one)} - spans:
            spans |= more
        cuts = {p: {0, _top(p) + 1} for p in sorted({p for p, _, _ in spans} | set(FAMILY_OF))}
        for p, low, high in spans:
            cuts[p] |= {low, high + 1}
        self.atoms: list[tuple[ServiceSpan, ...]] = [
            ((p, a, b - 1),) for p, edges in cuts.items() for a, b in pairwise(sorted(edges))
        ]
        self._starts = [atom[0][:2] for atom in self.atoms]
        self._named = cuts.keys()
        self.atoms.append(tuple((p, 0, _top(p)) for p in range(256) if p not in cuts))
        self._masks: dict[frozenset[ServiceSpan] | None, Mask] = {}

    def mask(self, services: frozenset[ServiceSpan] | None) -> Mask:
        """Return bool[service_atom]: the atoms that overlap a set of services. Not to be written to."""
        if services not in self._masks:
            found = np.full(len(self.atoms), services is None)
            for protocol, low, high in services or ():
                if protocol in self._named:
                    last = bisect_right(self._starts, (protocol, high))
                    found[bisect_right(self._starts, (protocol, low)) - 1 : last] = True
                else:
                    found[-1] = True
            self._masks[services] = found
        return self._masks[services]

    def atom_of(self, service: tuple[int, int]) -> int:
        """Return the atom that holds one service."""
        return next(
            k for k, atom in enumerate(self.atoms) if any(p == service[0] and a <= service[1] <= b for p, a, b in atom)
        )

    def of_family(self, version: int) -> Mask:
        """Return bool[service_atom]: the atoms that packets of a family can be: ICMP goes over IPv4, ICMPv6 over IPv6 only (RFC 792, RFC 4443)."""
        return np.array([FAMILY_OF.get(atom[0][0], version) == version for atom in self.atoms], dtype=bool)

    def spans(self, mask: Mask, within: frozenset[ServiceSpan] | None = None) -> tuple[ServiceSpan, ...]:
        """Return the services of the atoms in `mask`, narrowed to `within`, merged and sorted."""
        chosen = [span for k in np.flatnonzero(mask) for span in self.atoms[k]]
        if within is not None:
            chosen = [cut for a in chosen for b in within if (cut := _cut(a, b)) is not None]
        return merge_services(chosen)


def _mirrored(span: ServiceSpan, shift: ServiceShift) -> Iterator[ServiceSpan]:
    for one, two in (shift, shift[::-1]):
        cut = _cut(span, one)
        if cut is not None:
            yield (cut[0], cut[1] - one[1] + two[1], cut[2] - one[1] + two[1])


def _overlap(a: ServiceSpan, b: ServiceSpan) -> bool:
    return a[0] == b[0] and a[1] <= b[2] and b[1] <= a[2]


def _cut(a: ServiceSpan, b: ServiceSpan) -> ServiceSpan | None:
    return (a[0], max(a[1], b[1]), min(a[2], b[2])) if _overlap(a, b) else None


def merge_services(spans: Iterable[ServiceSpan]) -> tuple[ServiceSpan, ...]:
    """Return services sorted, with touching ranges of a protocol joined."""
    by: dict[int, Intervals] = {}
    for protocol, low, high in spans:
        by.setdefault(protocol, []).append((low, high))
    return tuple((p, low, high) for p in sorted(by) for low, high in merge(by[p]))


ALL_SERVICES = {v: tuple((p, 0, _top(p)) for p in range(256) if FAMILY_OF.get(p, v) == v) for v in (4, 6)}
"""Every service a packet of a family can have."""


@dataclass(frozen=True)
class Box:
    """A product of sets: every source in it may send every service in it to every destination in it."""

    family: int
    sources: tuple[Interval, ...]
    destinations: tuple[Interval, ...]
    services: tuple[ServiceSpan, ...]


@dataclass(frozen=True)
class FlowSet:
    """A set of flows as disjoint boxes."""

    boxes: tuple[Box, ...]

    def __bool__(self) -> bool:
        """Tell whether any flow is in the set."""
        return bool(self.boxes)

    def minus(self, other: FlowSet) -> FlowSet:
        """Return the flows in this set and not in the other; exact."""
        if self.boxes == other.boxes or not self.boxes:
            return FlowSet(())
        out: list[Box] = []
        for family in {b.family for b in self.boxes}:
            raster = _Raster(family, [*self.boxes, *other.boxes])
            out += raster.boxes(raster.fill(self.boxes) & ~raster.fill(other.boxes))
        return FlowSet(tuple(out))

    @once
    def services(self) -> tuple[ServiceSpan, ...]:
        """Return every service that some flow of the set has."""
        return merge_services(s for b in self.boxes for s in b.services)


class _Raster:
    """The common refinement of some boxes of one family, as a boolean array [source_piece, destination_piece, service_piece]."""

    def __init__(self, family: int, boxes: Iterable[Box]) -> None:
        mine = [b for b in boxes if b.family == family]
        self.family = family
        self.sources = _edges(i for b in mine for i in b.sources)
        self.destinations = _edges(i for b in mine for i in b.destinations)
        self.services = ServiceAtoms([frozenset(s for b in mine for s in b.services)])

    def fill(self, boxes: Iterable[Box]) -> Mask:
        shape = (len(self.sources) - 1, len(self.destinations) - 1, len(self.services.atoms))
        filled = np.zeros(shape, dtype=bool)
        for box in boxes:
            if box.family == self.family:
                rows, columns = np.zeros(shape[0], dtype=bool), np.zeros(shape[1], dtype=bool)
                _paint(rows, self.sources, box.sources)
                _paint(columns, self.destinations, box.destinations)
                filled |= (
                    rows[:, None, None]
                    & columns[None, :, None]
                    & self.services.mask(frozenset(box.services))[None, None, :]
                )
        return filled

    def boxes(self, filled: Mask) -> list[Box]:
        return boxes_of(
            self.family,
            [[(a, b - 1)] for a, b in pairwise(self.sources)],
            [[(a, b - 1)] for a, b in pairwise(self.destinations)],
            self.services,
            filled,
        )


def _edges(spans: Iterable[Interval]) -> list[int]:
    return sorted({x for low, high in spans for x in (low, high + 1)})


def boxes_of(
    family: int,
    sources: Sequence[Intervals],
    destinations: Sequence[Intervals],
    services: ServiceAtoms,
    allowed: Mask,
    within: frozenset[ServiceSpan] | None = None,
) -> list[Box]:
    """Write allowed: bool[source, destination, service_atom] as disjoint boxes, fewest where sources or destinations agree."""
    out: list[Box] = []
    rows: dict[bytes, list[int]] = {}
    for s in range(allowed.shape[0]):
        if allowed[s].any():
            rows.setdefault(allowed[s].tobytes(), []).append(s)
    for alike in rows.values():
        slab = allowed[alike[0]]
        columns: dict[bytes, list[int]] = {}
        for d in range(slab.shape[0]):
            if slab[d].any():
                columns.setdefault(slab[d].tobytes(), []).append(d)
        for same in columns.values():
            spans = services.spans(slab[same[0]], within)
            if spans:
                froms = tuple(merge(i for s in alike for i in sources[s]))
                tos = tuple(merge(i for d in same for i in destinations[d]))
                out.append(Box(family, froms, tos, spans))
    return sorted(out, key=lambda b: (b.sources, b.destinations))


def prefix_cover(wanted: Sequence[Interval], hosts: Intervals, roots: Sequence[Network], family: int) -> list[str]:
    """Return few prefixes inside `roots` that hold all of `wanted` and no other host.

    Addresses no host can have (the box's own, network and broadcast) are free to fall in, so a whole subnet is written as one prefix.
    """
    others = subtract(hosts, wanted)
    found: list[Network] = []
    for root in roots:
        inside = intersect(wanted, [span_of(root)])
        if inside:
            _cover(root, inside, others, found)
    for low, high in subtract(wanted, [span_of(r) for r in roots]):  # of another state of the design
        kind = IPv4Address if family == 4 else IPv6Address
        found += summarize_address_range(kind(low), kind(high))
    return [str(n) if n.prefixlen < n.max_prefixlen else str(n.network_address) for n in found]


def readable_addresses(wanted: Sequence[Interval], hosts: Intervals, roots: Sequence[Network], family: int) -> str:
    """Write addresses for a person: as prefixes, or as `subnet except …` where that is shorter."""
    plain = prefix_cover(wanted, hosts, roots, family)
    spoken_of = [r for r in roots if intersect(wanted, [span_of(r)])]
    left = subtract(intersect(hosts, [span_of(r) for r in spoken_of]), wanted)
    but = prefix_cover(left, hosts, spoken_of, family)
    outside = subtract(wanted, [span_of(r) for r in spoken_of])
    if outside or not spoken_of or len(plain) <= len(but) + len(spoken_of):
        return ", ".join(plain)
    return f"{', '.join(map(str, spoken_of))} except {', '.join(but)}"


def _cover(net: Network, wanted: Intervals, others: Intervals, found: list[Network]) -> None:
    if not wanted:
        return
    span = span_of(net)
    if not intersect(others, [span]):
        found.append(_shrink(net, wanted))
        return
    for half in net.subnets():
        edge = [span_of(half)]
        _cover(half, intersect(wanted, edge), intersect(others, edge), found)


def _shrink(net: Network, wanted: Intervals) -> Network:
    """Return the smallest prefix inside `net` that holds all of `wanted`."""
    low, high = wanted[0][0], wanted[-1][1]
    length = net.max_prefixlen - (low ^ high).bit_length()
    text = f"{type(net.network_address)(low)}/{max(length, net.prefixlen)}"
    return ip_network(text, strict=False)


_NAMES = {number: name for name, number in PROTOCOLS.items()}


def service_texts(spans: Sequence[ServiceSpan], family: int) -> list[str]:
    """Write services as the document does, exactly: `tcp/443`, `udp/53-60`, `icmp`, `proto/2-5`, or `any`."""
    if tuple(spans) == ALL_SERVICES[family]:
        return ["any"]
    out: list[str] = []
    bare: list[int] = []
    for protocol, low, high in spans:
        if protocol in _NAMES:
            full = (low, high) == (0, _top(protocol))
            out.append(_NAMES[protocol] if full else f"{_NAMES[protocol]}/{low}" + (f"-{high}" if high > low else ""))
        else:
            bare.append(protocol)
    return out + [f"proto/{a}" + (f"-{b}" if b > a else "") for a, b in merge((p, p) for p in bare)]


def readable_services(spans: Sequence[ServiceSpan], family: int, names: ServiceNames) -> str:
    """Write services for a person: by name, and as `any except …` where that is shorter."""
    if tuple(spans) == ALL_SERVICES[family]:
        return "any"
    mine: dict[int, list[tuple[int, int]]] = {}
    for protocol, low, high in spans:
        mine.setdefault(protocol, []).append((low, high))
    left: list[ServiceSpan] = []
    for protocol, _, top in ALL_SERVICES[family]:
        if protocol not in mine:
            left.append((protocol, 0, top))
        elif mine[protocol] != [(0, top)]:
            left += [(protocol, low, high) for low, high in subtract([(0, top)], mine[protocol])]
    plain, but = _named_texts(spans, family, names), _named_texts(left, family, names)
    return ", ".join(plain) if len(plain) <= len(but) + 1 else "any except " + ", ".join(but)


def _named_texts(spans: Sequence[ServiceSpan], family: int, names: ServiceNames) -> list[str]:
    """Put names in the place of whole services, the larger first; what has no name stays as the document writes it."""
    left, out = dict.fromkeys(spans), []
    for name, members in names:
        if not all(m in left or FAMILY_OF.get(m[0], family) != family for m in members):
            continue
        able = {m for m in members if m in left}
        if able:
            out.append(name)
            left = dict.fromkeys(s for s in left if s not in able)
    return out + service_texts(list(left), family) if left else out
