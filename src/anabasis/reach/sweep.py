"""Sweep: the exact flows of all pairs of segments at once, as arrays over classes of addresses and services (docs/reach.md)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from anabasis.design.notation import Network
from anabasis.policy import ServiceSpan
from anabasis.reach.paths import Forwarding, Path, Zones
from anabasis.reach.site import Site
from anabasis.reach.spaces import AddressClasses, Box, FlowSet, Mask, ServiceAtoms, address_classes, boxes_of
from anabasis.routing import HostGroup, Table
from anabasis.routing.hosts import PRIVATE
from anabasis.routing.spans import Intervals, merge, span_of


@dataclass(frozen=True)
class PairSpace:
    """The flows of one family between two segments."""

    family: int
    sources: npt.NDArray[np.intp]
    """sources: int[source], address classes that hosts of the first segment may have"""
    destinations: npt.NDArray[np.intp]
    """destinations: int[destination], likewise for the second"""
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
        self.services = ServiceAtoms(r.services for p in site.policies.of.values() for r in p.rules)
        self.families = {version: _Family(site, version, self.services) for version in (4, 6)}
        self.pairs: dict[tuple[int, int], list[PairSpace]] = {}
        for a in range(len(site.segments.all)) if source is None else (source,):
            for b in range(len(site.segments.all)):
                if a != b:
                    self.pairs[a, b] = [s for f in self.families.values() if (s := f.pair(a, b)) is not None]

    def flows(
        self, a: int, b: int, services: frozenset[ServiceSpan] | None = None, family: int | None = None
    ) -> FlowSet:
        """Return the flows that segment a can open and segment b can answer, narrowed to some services and a family."""
        boxes: list[Box] = []
        for space in self.pairs[a, b]:
            if family in (None, space.family):
                classes = self.families[space.family].classes.intervals
                allowed = space.allowed & self.services.mask(services)
                sources, destinations = [classes[k] for k in space.sources], [classes[k] for k in space.destinations]
                boxes += boxes_of(space.family, sources, destinations, self.services, allowed, services)
        return FlowSet(tuple(boxes))


class _Family:
    """Classes, paths and permits of one address family."""

    def __init__(self, site: Site, version: int, services: ServiceAtoms) -> None:
        self.site, self.version, self.services = site, version, services
        self.groups = [g for g in site.net.hosts if g.subnet.version == version]
        hosts = [site.net.host_spans(g) for g in self.groups]
        predicates: list[Intervals] = [*hosts, [span_of(p) for p in PRIVATE if p.version == version]]
        predicates += [[span_of(g.subnet)] for g in self.groups]
        prefixes = {r.to for t in site.net.tables.values() for r in t.routes if r.to.version == version}
        at = {p: len(predicates) + k for k, p in enumerate(sorted(prefixes))}
        predicates += [[span_of(p)] for p in at]
        spans = {s for p in site.policies.of.values() for r in p.rules for s in (r.sources, r.destinations)}
        self.spans_at = {s: len(predicates) + k for k, s in enumerate(spans)}
        predicates += [merge((low, high) for f, low, high in s if f == version) for s in spans]
        self.classes: AddressClasses = address_classes(predicates, merge(i for h in hosts for i in h))
        self.members = [np.flatnonzero(self.classes.member[k]) for k in range(len(self.groups))]
        self.private: Mask = self.classes.member[len(self.groups)]
        fibs = {key: self._fib(table, at) for key, table in site.net.tables.items()}
        self.forwarding = Forwarding(site, version, fibs, [i[0][0] for i in self.classes.intervals])
        self.possible = services.of_family(version)
        self._permits: dict[Zones, Mask] = {}

    def _fib(self, table: Table, at: dict[Network, int]) -> npt.NDArray[np.int32]:
        """Paint routes from the shortest prefix to the longest, the worse before the better: the last one stays."""
        fib = np.full(self.classes.count, -1, dtype=np.int32)
        usable = [
            (r.to.prefixlen, r.rank, k) for k, r in enumerate(table.routes) if r.active and r.to.version == self.version
        ]
        for _, _, k in sorted(usable, key=lambda u: (u[0], tuple(-x for x in u[1]), -u[2])):
            fib[self.classes.member[at[table.routes[k].to]]] = k
        return fib

    def permits(self, crossing: Zones) -> Mask:
        """Return bool[source_class, destination_class, service_atom]: what a firewall lets pass between two zones."""
        if crossing not in self._permits:
            policy = self.site.policies.of[crossing[0]]
            shape = (self.classes.count, self.classes.count, len(self.services.atoms))
            open_, passed = np.ones(shape, dtype=bool), np.zeros(shape, dtype=bool)
            for rule in policy.lines(crossing[1], crossing[2]):
                sources = self.classes.member[self.spans_at[rule.sources]][:, None, None]
                destinations = self.classes.member[self.spans_at[rule.destinations]][None, :, None]
                meets = open_ & sources & destinations & self.services.mask(rule.services)[None, None, :]
                if rule.action == "permit":
                    passed |= meets
                open_ &= ~meets
            if policy.default(crossing[1], crossing[2])[0] == "permit":
                passed |= open_
            self._permits[crossing] = passed
        return self._permits[crossing]

    def pair(self, a: int, b: int) -> PairSpace | None:
        """Return the flows from segment a to segment b, or None where one of them has no host of this family."""
        mine = [k for k, g in enumerate(self.groups) if g.segment == a and len(self.members[k])]
        theirs = [k for k, g in enumerate(self.groups) if g.segment == b and len(self.members[k])]
        if not mine or not theirs:
            return None
        sources = np.concatenate([self.members[k] for k in mine])
        destinations = np.concatenate([self.members[k] for k in theirs])
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
            row = rows.stop
        return PairSpace(self.version, sources, destinations, allowed, self.possible, routed)

    def _fill(self, g: int, h: int, routed: Mask, allowed: Mask) -> None:
        """Decide one pair of host groups, writing into views of the pair's arrays."""
        one, two = self.groups[g], self.groups[h]
        s, d = self.members[g], self.members[h]
        there = [self.forwarding.from_group(one, int(k)) for k in d]
        back = [self.forwarding.from_group(two, int(k)) for k in s]
        arriving = [self._arrive(p, two) for p in there]
        returning = [self._arrive(p, one) for p in back]
        for column, path in enumerate(arriving):
            if path is None:
                continue
            for row, reply in enumerate(returning):
                if reply is None or path.firewalls != reply.firewalls:
                    continue
                dropped = (path.refuses_private and self.private[s[row]]) or (
                    reply.refuses_private and self.private[d[column]]
                )
                routed[row, column] = not dropped
            if routed[:, column].any():
                passed = routed[:, column][:, None] & self.possible[None, :]
                for crossing in path.crossings:
                    passed = passed & self.permits(crossing)[s, d[column]]
                allowed[:, column] = passed

    def _arrive(self, path: Path, group: HostGroup) -> Path | None:
        """Return the whole path to a group, with the filtering points of its last link, or None where it does not get there."""
        if not path.arrived:
            return None
        if path.behind is not None or group.behind is not None:
            return path if path.behind == group.behind else None
        if path.end is None or group.tap is None:
            return None
        over = self.forwarding.over_link(path.end, group.tap)
        return None if over is None else path.then(over)
