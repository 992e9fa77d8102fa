"""What lies under the rules of one family: classes of addresses by hosts, routes and translations, and the ways packets take to each.

Rules are not in it, so that a rule that is edited leaves all of it as it is.
"""

from __future__ import annotations

import numpy as np

from anabasis.allpairs.forwarding import Forwarding
from anabasis.allpairs.forwarding_classes import ForwardingClasses
from anabasis.allpairs.translations import address_targets, holding, published, single_targets, translations_of
from anabasis.classes import AddressClasses, Mask, Numbers, address_classes
from anabasis.design.notation import PRIVATE, Network
from anabasis.once import once
from anabasis.routing import HostGroup, Intervals, Table, merge, span_of
from anabasis.site import Site


class ForwardingPlane:
    """Groups of hosts, classes and ways of one family."""

    def __init__(self, site: Site, version: int) -> None:
        self.site, self.version = site, version
        self.groups: list[HostGroup] = [g for g in site.net.hosts if g.subnet.version == version]
        hosts = [site.net.host_spans(g) for g in self.groups]
        targets, self.published = address_targets(site, version), published(site, version)
        predicates: list[Intervals] = [*hosts, [span_of(p) for p in PRIVATE if p.version == version], self.published]
        predicates += [[span_of(g.subnet)] for g in self.groups]
        predicates += [targets, *single_targets(site, version)]
        prefixes = {r.to for t in site.net.tables.values() for r in t.routes if r.to.version == version}
        at = {p: len(predicates) + k for k, p in enumerate(sorted(prefixes))}
        predicates += [[span_of(p)] for p in at]
        spans = dict.fromkeys(s for t in translations_of(site) for s in (t.sources, t.destinations))
        predicates += [merge((low, high) for f, low, high in s if f == version) for s in spans]
        self.predicates = predicates
        self.universe = merge(i for h in (*hosts, targets, self.published) for i in h)
        self.classes: AddressClasses = address_classes(predicates, self.universe)
        self.members: list[Numbers] = [self.classes.inside(k) for k in range(len(self.groups))]
        self.standing: dict[int, list[int]] = {}
        """segment -> its groups that have any address"""
        for k, g in enumerate(self.groups):
            if len(self.members[k]):
                self.standing.setdefault(g.segment, []).append(k)
        self.private: Mask = self.classes.holds(len(self.groups))
        self.changed: Mask = self.classes.holds(len(self.groups) + 1)
        """bool[address_class]: destinations that translations change"""
        fibs = {key: self._fibs(table, at) for key, table in site.net.tables.items()}
        self._entries = {
            name: [(t, holding(self.classes, version, t.destinations, t)) for t in p.translations]
            for name, p in site.policies.translating.items()
        }
        self._touched: dict[tuple[str, str, str | None], Mask] = {}
        self.forwarding = Forwarding(site, version, fibs, [i[0][0] for i in self.classes.intervals], self._touching)

    @once
    def fecs(self) -> ForwardingClasses:
        """Return what forwarding tells apart, and what leads to what."""
        return ForwardingClasses(self)

    def _touching(self, firewall: str, ingress: str, egress: str | None) -> Mask:
        """Return bool[address_class]: to which some translation might change a packet on its way in (no egress zone yet), or on its way out."""
        key = firewall, ingress, egress
        if key not in self._touched:
            self._touched[key] = np.zeros(self.classes.count, dtype=bool)
            for entry, holds in self._entries[firewall]:
                changes = entry.changes_destination if egress is None else entry.changes_source and entry.leaves(egress)
                if changes and entry.enters(ingress):
                    self._touched[key] |= holds
        return self._touched[key]

    def _fibs(self, table: Table, at: dict[Network, int]) -> list[np.ndarray[tuple[int], np.dtype[np.int32]]]:
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
            classes = self.classes.inside(at[table.routes[k].to])
            for turn, fib in enumerate(fibs):
                fib[classes] = several[turn % len(several)] if shares else k
        return fibs
