"""Classes of services, called atoms: ranges of ports and types that no rule and no translation tells apart."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Iterator, Sequence
from itertools import pairwise

import numpy as np

from anabasis.classes.addresses import Mask, Numbers
from anabasis.design.notation import FAMILY_OF, WITH_PORTS, WITH_TYPES
from anabasis.policy import ServiceSpan
from anabasis.routing import Intervals, merge


def top_of(protocol: int) -> int:
    """Return the highest port, or type, a protocol can have."""
    return 65535 if protocol in WITH_PORTS else 255 if protocol in WITH_TYPES else 0


ServiceShift = tuple[ServiceSpan, ServiceSpan]
"""Two ranges of one protocol and of equal size: the first becomes the second."""


class ServiceAtoms:
    """Services cut at every boundary the rules have; protocols nobody names are one atom together."""

    def __init__(self, sets: Iterable[frozenset[ServiceSpan] | None], shifts: Sequence[ServiceShift] = ()) -> None:
        """`shifts`: ranges of services that become others; what is cut on one side is cut on the other."""
        spans = {s for one in sets if one is not None for s in one}
        while more := {m for s in spans for one in shifts for m in _mirrored(s, one)} - spans:
            spans |= more
        cuts = {p: {0, top_of(p) + 1} for p in sorted({p for p, _, _ in spans} | set(FAMILY_OF))}
        for p, low, high in spans:
            cuts[p] |= {low, high + 1}
        self.atoms: list[tuple[ServiceSpan, ...]] = [
            ((p, a, b - 1),) for p, edges in cuts.items() for a, b in pairwise(sorted(edges))
        ]
        self._starts = [atom[0][:2] for atom in self.atoms]
        self._named = cuts.keys()
        self.atoms.append(tuple((p, 0, top_of(p)) for p in range(256) if p not in cuts))
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
        """Return the atom that holds one service. Cost: the logarithm of the atoms."""
        return bisect_right(self._starts, service) - 1 if service[0] in self._named else len(self.atoms) - 1

    def within(self, coarser: ServiceAtoms) -> Numbers | None:
        """Return int[service_atom]: the atom of a coarser cut that each is a part of; None where the other cut is not coarser."""
        found = np.zeros(len(self.atoms), dtype=np.intp)
        for k, atom in enumerate(self.atoms):
            found[k] = coarser.atom_of(atom[0][:2])
            if any(coarser.atom_of((p, x)) != found[k] for p, low, high in atom for x in (low, high)):
                return None
        return found

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


ALL_SERVICES = {v: tuple((p, 0, top_of(p)) for p in range(256) if FAMILY_OF.get(p, v) == v) for v in (4, 6)}
"""Every service a packet of a family can have."""
