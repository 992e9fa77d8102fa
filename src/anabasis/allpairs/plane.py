"""What lies under the rules of one family: classes of addresses by hosts, routes and translations, and the ways packets take to each.

Rules are not in it, so that a rule that is edited leaves all of it as it is.
"""

from __future__ import annotations

import numpy as np

from anabasis.allpairs.forwarding import Fib, Forwarding, Spoken, Steered
from anabasis.allpairs.forwarding_classes import ForwardingClasses
from anabasis.allpairs.translations import (
    address_targets,
    holding,
    of_family,
    published,
    single_targets,
    translations_of,
)
from anabasis.classes import AddressClasses, Mask, Numbers, address_classes, cut_again
from anabasis.design.notation import PRIVATE, Network
from anabasis.once import once
from anabasis.routing import HostGroup, Intervals, Table, merge, span_of
from anabasis.site import Site

SPARE = 200
"""How many sets of addresses may stay cut out that no host, route or translation speaks of any more."""


def private_spans(version: int) -> Intervals:
    """Return the private addresses of a family."""
    return merge(span_of(p) for p in PRIVATE if p.version == version)


class ForwardingPlane:
    """Groups of hosts, classes and ways of one family."""

    def __init__(self, site: Site, version: int, base: ForwardingPlane | None = None) -> None:
        """`base`: of another state; its classes are taken over and cut finer, so that they keep their numbers. Nothing here holds on to it."""
        self.site, self.version = site, version
        self.groups: list[HostGroup] = [g for g in site.net.hosts if g.subnet.version == version]
        self.published = published(site, version)
        self.hosts: list[Intervals] = [merge(site.net.host_spans(g)) for g in self.groups]
        """By group: the addresses that its hosts may have."""
        self.classes: AddressClasses
        self.within: tuple[AddressClasses, Numbers] | None = None
        """The classes of the other state, where they were cut finer, and int[class]: the one that each is a part of."""
        self._cut(base)
        self.members: list[Numbers] = [self.classes.held(h) for h in self.hosts]
        self.standing: dict[int, list[int]] = {}
        """segment -> its groups that have any address"""
        for k, g in enumerate(self.groups):
            if len(self.members[k]):
                self.standing.setdefault(g.segment, []).append(k)
        self.private: Mask = self.classes.holding(private_spans(version))
        self.changed: Mask = self.classes.holding(self.published)
        """bool[address_class]: destinations that translations change"""
        self._entries: Spoken = {
            name: [(t, holding(self.classes, version, t.destinations, t)) for t in p.translations]
            for name, p in site.policies.translating.items()
        }
        self._touched: dict[tuple[str, str, str | None], Mask] = {}
        self.fibs = self._painted(base)
        parents: Numbers | None = None
        if base is not None and self.within is not None:
            parents = self.within[1]
        self.forwarding: Forwarding = Forwarding(
            site,
            version,
            self.fibs,
            [i[0][0] for i in self.classes.intervals],
            self._touching,
            self._entries,
            self._steering(),
            base.forwarding if base is not None else None,
            parents,
        )
        self.made: ForwardingClasses | None = None
        """`fecs`, where they have been asked for."""
        self._known = base.made if base is not None else None

    @once
    def stands(self) -> list[object] | None:
        """Return by group all that forwarding asks of it, by names; None where that is hard to tell (`Forwarding.links`)."""
        links, forwarding = self.forwarding.links, self.forwarding
        if links is None:
            return None
        entries = [forwarding.entry(g) for g in self.groups]
        return [links.of_group(g, (e.to, e.over)) for g, e in zip(self.groups, entries, strict=True)]

    @once
    def fecs(self) -> ForwardingClasses:
        """Return what forwarding tells apart, and what leads to what."""
        self.made, self._known = ForwardingClasses(self, self._known), None
        return self.made

    @once
    def alike(self) -> Numbers:
        """Return int[class]: classes with the same number are sent alike by every box, and translations speak of all of them or of none."""
        spoken = [self.classes.holding(spans) for spans in self._translated]
        rows = np.array([self.forwarding.alike, *spoken], dtype=np.intp).T
        numbers: Numbers = np.unique(rows, axis=0, return_inverse=True)[1].ravel()
        return numbers

    @once
    def _translated(self) -> list[Intervals]:
        """Return the addresses that translations and policy routes speak of."""
        spans = dict.fromkeys(s for t in translations_of(self.site) for s in (t.sources, t.destinations))
        spans |= dict.fromkeys(told.sources for told in self.site.policies.steering.values())
        each = (r.to for t in self.site.net.tables.values() for r in t.steering)
        to = dict.fromkeys(p for p in each if p.version == self.version)
        return [*(of_family(s, self.version) for s in spans), *([span_of(p)] for p in to)]

    def _cut(self, base: ForwardingPlane | None) -> None:
        """Cut addresses into classes by all that hosts, routes and translations tell apart."""
        site, version = self.site, self.version
        targets = address_targets(site, version)
        predicates: list[Intervals] = [*self.hosts, private_spans(version), self.published]
        predicates += [[span_of(g.subnet)] for g in self.groups]
        predicates += [targets, *single_targets(site, version)]
        prefixes = {r.to for t in site.net.tables.values() for r in t.routes if r.to.version == version}
        predicates += [[span_of(p)] for p in sorted(prefixes)]
        predicates += self._translated
        self.predicates = predicates
        universe = merge(i for h in (*self.hosts, targets, self.published) for i in h)
        again = cut_again(base.classes, predicates, universe, SPARE) if base is not None else None
        if again is None or base is None:
            self.classes = address_classes(predicates, universe)
        else:
            self.classes, self.within = again[0], (base.classes, again[1])

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

    def _steering(self) -> Steered:
        """Return the policy routes that are active, with the destinations they are for."""
        told = self.site.policies.steering
        return {
            key: [
                (told[r.pointer], r, self.classes.holding([span_of(r.to)]))
                for r in table.steering
                if r.active and r.to.version == self.version
            ]
            for key, table in self.site.net.tables.items()
            if table.steering
        }

    def _painted(self, base: ForwardingPlane | None) -> dict[tuple[str, str], Fib]:
        """Return the tables over classes; one that is the same table over the same classes as in the other state is the same."""
        known = base if base is not None and self.classes.cut_as(base.classes) else None
        return {
            key: known.fibs[key] if known is not None and known.site.net.tables.get(key) is table else self._fib(table)
            for key, table in self.site.net.tables.items()
        }

    def _fib(self, table: Table) -> Fib:
        """Return int32[address_class] a round: paint routes from the shortest prefix to the longest, the worse before the better.

        The last one painted stays. Where as many routes share traffic as there are rounds, each round shows another one.
        """
        usable = [
            (r.to.prefixlen, r.rank, k) for k, r in enumerate(table.routes) if r.active and r.to.version == self.version
        ]
        alike: dict[tuple[Network, tuple[int, int, int]], list[int]] = {}
        for _, rank, k in usable:
            alike.setdefault((table.routes[k].to, rank), []).append(k)
        rounds = max((len(a) for a in alike.values() if table.routes[a[0]].shares), default=1)
        fibs = [np.full(self.classes.count, -1, dtype=np.int32) for _ in range(rounds)]
        for _, rank, k in sorted(usable, key=lambda u: (u[0], tuple(-x for x in u[1]), -u[2])):
            several = alike[table.routes[k].to, rank]
            shares = len(several) > 1 and table.routes[k].shares
            classes = self.classes.held([span_of(table.routes[k].to)])
            for turn, fib in enumerate(fibs):
                fib[classes] = several[turn % len(several)] if shares else k
        return fibs
