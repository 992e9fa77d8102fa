"""One address family of a sweep: its classes, and the exact flows of one pair of segments as an array over them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from anabasis.allpairs.permits import Permits
from anabasis.allpairs.plane import ForwardingPlane
from anabasis.allpairs.translated_flows import TranslatedFlows
from anabasis.allpairs.translations import Classes, TranslationMaps, mirrored
from anabasis.allpairs.ways import Arriving
from anabasis.classes import AddressClasses, Mask, ServiceAtoms, address_classes
from anabasis.policy import Span
from anabasis.routing import merge
from anabasis.site import Site


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

    def is_about(self, other: PairSpace) -> bool:
        """Tell whether another space has the same sources and destinations."""
        return np.array_equal(self.sources, other.sources) and np.array_equal(self.destinations, other.destinations)


class Family:
    """Classes, paths and permits of one address family."""

    def __init__(
        self, site: Site, version: int, services: ServiceAtoms, plane: ForwardingPlane, before: Family | None = None
    ) -> None:
        """`before`: another state on the same plane; where its rules speak of the same addresses, or of more, its classes are taken over: finer ones do no harm."""
        self.site, self.version, self.services, self.plane = site, version, services, plane
        self.groups, self.published, self.standing = plane.groups, plane.published, plane.standing
        self.ways, self.forwarding = plane.ways, plane.forwarding
        spans = dict.fromkeys(
            s for p in site.policies.of.values() for r in p.rules for s in (r.sources, r.destinations)
        )
        self.spans_at: dict[frozenset[Span], int]
        self.classes: AddressClasses
        self.members: list[Classes]
        self.plane_of: Classes
        """int[address_class]: the class of the plane that a class is a part of"""
        if before is not None and before.plane is plane and before.spans_at.keys() >= spans.keys():
            self.spans_at, self.classes, self.members = before.spans_at, before.classes, before.members
            self.plane_of = before.plane_of
        else:
            predicates = [*plane.predicates, *([(a, b) for f, a, b in sorted(s) if f == version] for s in spans)]
            self.spans_at = {s: len(plane.predicates) + k for k, s in enumerate(spans)}
            predicates = [merge(p) for p in predicates]
            predicates += mirrored(site, version, predicates)
            self.classes = address_classes(predicates, plane.universe)
            self.members = [self.classes.inside(k) for k in range(len(self.groups))]
            starts = (plane.classes.class_of(i[0][0]) for i in self.classes.intervals)
            self.plane_of = np.fromiter(starts, dtype=np.intp, count=self.classes.count)
        self.private: Mask = self.classes.holds(len(self.groups))
        self.changed = self.classes.inside(len(self.groups) + 1)
        self.possible: Mask = services.of_family(version)
        self.translates = any(p.translations for p in site.policies.translating.values())
        self.permits = Permits(site.policies, self.classes, self.spans_at, services, version)
        self.maps = words = TranslationMaps(site, version, self.classes, services, self.private)
        self.translated = TranslatedFlows(site, plane, words, self.permits, self.members, self.plane_of)

    def cut_like(self, other: Family) -> bool:
        """Tell whether another state has the same classes and atoms, by the same numbers."""
        return self.services.atoms == other.services.atoms and self.classes.same_as(other.classes)

    def arriving(self, g: int, h: int, reply: bool) -> Arriving:
        """Return what becomes of packets from group g to the classes of group h, by those classes."""
        found = self.ways.arriving(g, h, reply)
        at = np.searchsorted(self.plane.members[h], self.plane_of[self.members[h]])
        return Arriving(found.arrives[at], found.firewalls[at], found.refuses[at], found.whole[at])

    def touched(self, g: int, classes: Classes) -> Mask:
        """Return bool[class]: whether a translation might change packets from a group on their way."""
        return self.ways.touched(g, self.plane_of[classes])

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
        for column in np.flatnonzero(self.touched(g, destinations)):
            goal = int(destinations[column])
            if goal in done and goal in own:
                continue  # an address of theirs that is published as well has one column
            done.add(goal)
            for h, flows in self.translated.arrivals(g, goal).items():
                if h in theirs:
                    allowed[:, column] |= flows
                    routed[:, column] |= flows.any(axis=1)

    def _fill(self, g: int, h: int, routed: Mask, allowed: Mask) -> None:
        """Decide one pair of host groups where no translation interferes, writing into views of the pair's arrays."""
        s, d = self.members[g], self.members[h]
        there, back = self.arriving(g, h, reply=False), self.arriving(h, g, reply=True)
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
            for crossing in {c for p in self.ways.paths.of(int(number)) for c in p.crossings}:
                passed &= self.permits.between(crossing, s, d[columns])
            allowed[:, columns] = passed
