"""Sweep: the exact flows of all pairs of segments at once, as arrays over classes of addresses and services (docs/reach.md)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from anabasis.design.notation import PRIVATE, Network
from anabasis.policy import ServiceSpan
from anabasis.reach.paths import Forwarding
from anabasis.reach.permits import Permits
from anabasis.reach.site import Site
from anabasis.reach.spaces import (
    AddressClasses,
    Box,
    FlowSet,
    Mask,
    ServiceAtoms,
    ServiceShift,
    address_classes,
    boxes_of,
)
from anabasis.reach.strands import Strands
from anabasis.reach.ways import Ways
from anabasis.reach.words import Classes, Words, address_targets, mirrored, published, single_targets, translations_of
from anabasis.routing import Table
from anabasis.routing.spans import Intervals, merge, span_of


@dataclass(frozen=True)
class PairSpace:
    """The flows of one family between two segments."""

    family: int
    sources: npt.NDArray[np.intp]
    """sources: int[source], address classes that hosts of the first segment may have"""
    destinations: npt.NDArray[np.intp]
    """destinations: int[destination], likewise for the second; then addresses that translations turn into its hosts"""
    real: Mask
    """real: bool[destination], whether hosts of the second segment have the address themselves"""
    allowed: Mask
    """allowed: bool[source, destination, service_atom]"""
    possible: Mask
    """possible: bool[service_atom], the services this family can carry"""
    routed: Mask
    """routed: bool[source, destination], frames and routes lead there and back, rules aside"""


class Sweep:
    """All pairs of segments of one site."""

    def __init__(self, site: Site, source: int | None = None) -> None:
        """`source`: only the pairs from this segment; None = all."""
        self.site = site
        self.services = ServiceAtoms(*_service_cuts(site))
        self.families = {version: _Family(site, version, self.services) for version in (4, 6)}
        count = len(site.segments.all)
        sources = range(count) if source is None else (source,)
        self.pairs = [(a, b) for a in sources for b in range(count) if a != b]
        """Every ordered pair of different segments, in the order of segments."""
        self._known: dict[tuple[int, int], list[PairSpace]] = {}

    def pair(self, a: int, b: int) -> list[PairSpace]:
        """Return the flows of a pair, one space a family that both sides have; computed when first asked for."""
        if (a, b) not in self._known:
            self._known[a, b] = [s for f in self.families.values() if (s := f.pair(a, b)) is not None]
        return self._known[a, b]

    def flows(
        self, a: int, b: int, services: frozenset[ServiceSpan] | None = None, family: int | None = None
    ) -> FlowSet:
        """Return the flows that segment a can open and segment b can answer, narrowed to some services and a family."""
        boxes: list[Box] = []
        for space in self.pair(a, b):
            if family in (None, space.family):
                classes = self.families[space.family].classes.intervals
                allowed = space.allowed if services is None else space.allowed & self.services.mask(services)
                if not allowed.any():
                    continue
                sources, destinations = [classes[k] for k in space.sources], [classes[k] for k in space.destinations]
                boxes += boxes_of(space.family, sources, destinations, self.services, allowed, services)
        return FlowSet(tuple(boxes))


class _Family:
    """Classes, paths and permits of one address family."""

    def __init__(self, site: Site, version: int, services: ServiceAtoms) -> None:
        self.site, self.version, self.services = site, version, services
        self.groups = [g for g in site.net.hosts if g.subnet.version == version]
        hosts = [site.net.host_spans(g) for g in self.groups]
        targets, self.published = address_targets(site, version), published(site, version)
        predicates: list[Intervals] = [*hosts, [span_of(p) for p in PRIVATE if p.version == version], self.published]
        predicates += [[span_of(g.subnet)] for g in self.groups]
        predicates += [targets, *single_targets(site, version)]
        prefixes = {r.to for t in site.net.tables.values() for r in t.routes if r.to.version == version}
        at = {p: len(predicates) + k for k, p in enumerate(sorted(prefixes))}
        predicates += [[span_of(p)] for p in at]
        spans = {s for p in site.policies.of.values() for r in p.rules for s in (r.sources, r.destinations)}
        spans |= {s for t in translations_of(site) for s in (t.sources, t.destinations)}
        self.spans_at = {s: len(predicates) + k for k, s in enumerate(spans)}
        predicates += [merge((low, high) for f, low, high in s if f == version) for s in spans]
        predicates += mirrored(site, version, predicates)
        universe = merge(i for h in (*hosts, targets, self.published) for i in h)
        self.classes: AddressClasses = address_classes(predicates, universe)
        self.members = [np.flatnonzero(self.classes.member[k]) for k in range(len(self.groups))]
        self.standing: dict[int, list[int]] = {}
        """segment -> its groups that have any address"""
        for k, g in enumerate(self.groups):
            if len(self.members[k]):
                self.standing.setdefault(g.segment, []).append(k)
        self.private: Mask = self.classes.member[len(self.groups)]
        self.changed = np.flatnonzero(self.classes.member[len(self.groups) + 1])
        fibs = {key: self._fibs(table, at) for key, table in site.net.tables.items()}
        self.forwarding = Forwarding(site, version, fibs, [i[0][0] for i in self.classes.intervals], self._touches)
        self.possible = services.of_family(version)
        self.translates = any(p.translations for p in site.policies.of.values())
        self.permits = Permits(site.policies, self.classes.member, self.spans_at, services)
        self.ways = Ways(self.forwarding, self.groups, self.members, self.classes.count)
        self.words = words = Words(site, version, self.classes, services, self.private)
        self.strands = Strands(site, self.forwarding, words, self.permits, self.groups, self.members)
        self._entries = {
            name: [(t, words.holds(t.destinations, t)) for t in p.translations] for name, p in site.policies.of.items()
        }

    def _touches(self, firewall: str, ingress: str, egress: str | None, goal: int) -> bool:
        """Tell whether some translation might change a packet on its way in (no egress zone yet), or on its way out."""
        for entry, holds in self._entries[firewall]:
            if not entry.enters(ingress):
                continue
            if egress is None and entry.changes_destination and holds[goal]:
                return True
            if egress is not None and entry.changes_source and entry.leaves(egress) and holds[goal]:
                return True
        return False

    def _fibs(self, table: Table, at: dict[Network, int]) -> list[npt.NDArray[np.int32]]:
        """Return int32[address_class] a round: paint routes from the shortest prefix to the longest, the worse before the better.

        The last one painted stays. Where as many routes share traffic as there are rounds, each round shows another one.
        """
        usable = [
            (r.to.prefixlen, r.rank, k) for k, r in enumerate(table.routes) if r.active and r.to.version == self.version
        ]
        alike: dict[tuple[Network, tuple[int, int, int]], list[int]] = {}
        for _, rank, k in usable:
            alike.setdefault((table.routes[k].to, rank), []).append(k)
        rounds = max((len(a) for a in alike.values() if table.routes[a[0]].origin == "static"), default=1)
        fibs = [np.full(self.classes.count, -1, dtype=np.int32) for _ in range(rounds)]
        for _, rank, k in sorted(usable, key=lambda u: (u[0], tuple(-x for x in u[1]), -u[2])):
            several = alike[table.routes[k].to, rank]
            shares = len(several) > 1 and table.routes[k].origin == "static"
            for turn, fib in enumerate(fibs):
                fib[self.classes.member[at[table.routes[k].to]]] = several[turn % len(several)] if shares else k
        return fibs

    def pair(self, a: int, b: int) -> PairSpace | None:
        """Return the flows from segment a to segment b, or None where one of them has no host of this family."""
        mine, theirs = self.standing.get(a, []), self.standing.get(b, [])
        if not mine or not theirs:
            return None
        sources = np.concatenate([self.members[k] for k in mine])
        hosts = np.concatenate([self.members[k] for k in theirs])
        destinations = np.concatenate([hosts, self.changed])
        allowed = np.zeros((len(sources), len(destinations), len(self.services.atoms)), dtype=bool)
        routed = np.zeros((len(sources), len(destinations)), dtype=bool)
        row = 0
        for g in mine:
            rows = slice(row, row + len(self.members[g]))
            column = 0
            for h in theirs:
                columns = slice(column, column + len(self.members[h]))
                self._fill(g, h, routed[rows, columns], allowed[rows, columns])
                column = columns.stop
            if self.translates:
                self._through_translation(g, theirs, destinations, routed[rows], allowed[rows])
            row = rows.stop
        if not len(self.changed):
            real = np.ones(len(hosts), dtype=bool)
            return PairSpace(self.version, sources, hosts, real, allowed, self.possible, routed)
        kept = np.ones(len(destinations), dtype=bool)
        kept[len(hosts) :] = allowed[:, len(hosts) :].any(axis=(0, 2))
        real = np.arange(len(destinations))[kept] < len(hosts)
        return PairSpace(
            self.version, sources, destinations[kept], real, allowed[:, kept], self.possible, routed[:, kept]
        )

    def _through_translation(
        self, g: int, theirs: list[int], destinations: Classes, routed: Mask, allowed: Mask
    ) -> None:
        """Fill in what reaches hosts through translations: of their own addresses, and of addresses that stand for them."""
        own = {int(c) for h in theirs for c in self.members[h]}
        done: set[int] = set()
        for column in np.flatnonzero(self.ways.touched(g, destinations)):
            goal = int(destinations[column])
            if goal in done and goal in own:
                continue  # an address of theirs that is published as well has one column
            done.add(goal)
            for h, flows in self.strands.arrivals(g, goal).items():
                if h in theirs:
                    allowed[:, column] |= flows
                    routed[:, column] |= flows.any(axis=1)

    def _fill(self, g: int, h: int, routed: Mask, allowed: Mask) -> None:
        """Decide one pair of host groups where no translation interferes, writing into views of the pair's arrays."""
        s, d = self.members[g], self.members[h]
        there, back = self.ways.arriving(g, h, reply=False), self.ways.arriving(h, g, reply=True)
        if not there.arrives.any() or not back.arrives.any():
            return
        both = back.arrives[:, None] & there.arrives[None, :] & (back.firewalls[:, None] == there.firewalls[None, :])
        dropped = (self.private[s][:, None] & there.refuses[None, :]) | (
            back.refuses[:, None] & self.private[d][None, :]
        )
        routed[:] = both & ~dropped
        for number in dict.fromkeys(there.whole[routed.any(axis=0)]):
            columns = np.flatnonzero(there.whole == number)
            passed = routed[:, columns, None] & self.possible
            for crossing in {c for p in self.ways.table[number] for c in p.crossings}:
                passed &= self.permits.between(crossing, s, d[columns])
            allowed[:, columns] = passed


def _service_cuts(site: Site) -> tuple[list[frozenset[ServiceSpan] | None], list[ServiceShift]]:
    """Return what tells services apart: rules and translations; and the ranges that become others."""
    sets = [r.services for p in site.policies.of.values() for r in p.rules]
    shifts: list[ServiceShift] = []
    for entry in translations_of(site):
        sets.append(entry.services)
        if entry.service is not None:
            sets.append(frozenset((p, low, low) for p, low, _ in entry.service.onto))
            shifts += [(k, s) for k in entry.service.keeps for s in entry.service.onto if s[0] == k[0]]
    return sets, shifts
