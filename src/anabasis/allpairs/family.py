"""One address family of a sweep: its classes, and the exact flows of one pair of segments as an array over them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from anabasis.allpairs.path_table import Zones
from anabasis.allpairs.permits import Crossed, Permits
from anabasis.allpairs.plane import ForwardingPlane, private_spans
from anabasis.allpairs.translated_flows import TranslatedFlows
from anabasis.allpairs.translations import Classes, TranslationMaps, kept_maps, mirrored, of_family
from anabasis.classes import AddressClasses, Mask, Numbers, ServiceAtoms, address_classes, holds, unpacked
from anabasis.once import once
from anabasis.policy import Span
from anabasis.site import Site

SPARE = 200
"""How many sets of addresses may stay cut out that no rule speaks of any more."""


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
    possible: Mask
    """possible: bool[service_atom], the services this family can carry"""
    routed: Mask
    """routed: bool[source, destination], frames and routes lead there and back, rules aside"""
    permitted: Callable[[], Mask] = field(repr=False)
    """Works out `allowed`."""

    @once
    def allowed(self) -> Mask:
        """Return bool[source, destination, service_atom]. Where nothing is routed nothing is allowed, so whoever looks for what is lost need not ask."""
        return self.permitted()

    def is_about(self, other: PairSpace) -> bool:
        """Tell whether another space has the same sources and destinations."""
        return np.array_equal(self.sources, other.sources) and np.array_equal(self.destinations, other.destinations)


class Family:
    """Classes, paths and permits of one address family."""

    def __init__(
        self, site: Site, version: int, services: ServiceAtoms, plane: ForwardingPlane, base: Family | None = None
    ) -> None:
        """`base`: another state, on the same plane or one whose classes this plane cuts finer; its classes are taken over, and cut finer likewise."""
        self.site, self.version, self.services, self.plane = site, version, services, plane
        self.groups, self.published, self.standing = plane.groups, plane.published, plane.standing
        self.forwarding = plane.forwarding
        spans = dict.fromkeys(
            s for p in site.policies.filtering.values() for r in p.rules for s in (r.sources, r.destinations)
        )
        self.spans_at: dict[frozenset[Span], int]
        """Which predicate of the classes stands for addresses that rules speak of."""
        self.classes: AddressClasses
        self.members: list[Classes]
        self.plane_of: Classes
        """int[address_class]: the class of the plane that a class is a part of"""
        self._refines: tuple[AddressClasses, Classes] | None = None
        if base is None or not self._refine(base, spans):
            self._cut(spans)
        self.private: Mask = self.classes.holding(private_spans(version))
        self.changed = self.classes.held(plane.published)
        self.possible: Mask = services.of_family(version)
        self.translates = bool(site.policies.steering) or any(
            p.translations for p in site.policies.translating.values()
        )
        self.permits = Permits(site.policies, self.classes, self.spans_at, services, version)
        self.crossed: dict[Zones, Crossed] = {}
        """What is known of crossings, for many pairs at once: whoever computes all pairs fills it."""
        self.maps = TranslationMaps(site, version, self.classes, services, self.private)
        self.translated = TranslatedFlows(site, plane, self.maps, self.permits, self.members, self.plane_of)

    def _cut(self, spans: Iterable[frozenset[Span]]) -> None:
        """Cut the classes of the plane by all that rules speak of."""
        plane, of = self.plane, {s: of_family(s, self.version) for s in spans}
        predicates = [*plane.predicates, *of.values()]
        predicates += mirrored(self.site, self.version, predicates)
        self.classes = address_classes(predicates, plane.classes.universe)
        self.spans_at = {s: self.classes.at[tuple(p)] for s, p in of.items()}
        self.members = [self.classes.held(h) for h in plane.hosts]
        starts = (plane.classes.class_of(i[0][0]) for i in self.classes.intervals)
        self.plane_of = np.fromiter(starts, dtype=np.intp, count=self.classes.count)

    def _refine(self, base: Family, spans: dict[frozenset[Span], None]) -> bool:
        """Take the classes of another state over, and cut out what further rules, hosts, routes and translations speak of; tell whether that could be done."""
        plane, site, version, known = self.plane, self.site, self.version, base.classes.at
        same = plane is base.plane
        grown = plane.within is not None and plane.within[0] is base.plane.classes
        if not (same or grown) or len(base.spans_at.keys() - spans.keys()) > SPARE:
            return False
        of = {s: of_family(s, version) for s in spans if s not in base.spans_at}
        further = [*of.values()] if same else [*of.values(), *plane.predicates]
        if same or kept_maps(site, version) == kept_maps(base.site, version):
            further = mirrored(site, version, [p for p in further if tuple(p) not in known])
        else:
            every = [*plane.predicates, *(of_family(s, version) for s in spans)]
            further = mirrored(site, version, every)
        new = [p for p in further if tuple(p) not in known]
        self.classes, parents = base.classes.refined(new) if new else (base.classes, np.arange(base.classes.count))
        if new:
            self._refines = base.classes, parents
        self.spans_at = base.spans_at | {s: self.classes.at[tuple(p)] for s, p in of.items()} if of else base.spans_at
        kept = same and not new
        self.members = base.members if kept else [self.classes.held(h) for h in plane.hosts]
        self.plane_of = base.plane_of[parents] if new else base.plane_of
        if plane.within is not None and not same:
            born = plane.within[1][plane.within[0].count :]
            moved = np.flatnonzero(np.isin(self.plane_of, born))
            if len(moved):
                self.plane_of = self.plane_of.copy()
                self.plane_of[moved] = [plane.classes.class_of(self.classes.intervals[c][0][0]) for c in moved]
        return True

    def within(self, other: Family) -> Classes:
        """Return int[address_class]: the class of another state that each is a part of, where its parts make up the whole; else -1."""
        if self.classes.cut_as(other.classes):
            return np.arange(self.classes.count)
        if self._refines is not None and self._refines[0] is other.classes:
            return self._refines[1]
        return self.classes.within(other.classes)

    def fecs_of(self, segment: int) -> Numbers:
        """Return int[host]: the forwarding class of every class that hosts of a segment may have, group by group."""
        fecs = self.plane.fecs
        found = [fecs.of(g, self.plane_of[self.members[g]]) for g in self.standing.get(segment, [])]
        return np.concatenate(found) if found else np.zeros(0, dtype=np.intp)

    def touched(self, g: int, classes: Classes) -> Mask:
        """Return bool[class]: whether a translation might change packets from a group on their way."""
        fecs = self.plane.fecs
        found: Mask = fecs.touched_row[fecs.row_of[g], self.plane_of[classes]]
        return found

    def pair(self, a: int, b: int) -> PairSpace | None:
        """Return the flows from segment a to segment b, or None where one of them has no host of this family."""
        mine, theirs = self.standing.get(a, []), self.standing.get(b, [])
        if not mine or not theirs:
            return None
        sources = np.concatenate([self.members[k] for k in mine])
        hosts = np.concatenate([self.members[k] for k in theirs])
        destinations = np.concatenate([hosts, self.changed])
        sets = self.plane.fecs.filter_set[np.ix_(self.fecs_of(a), self.fecs_of(b))]
        routed = np.zeros((len(sources), len(destinations)), dtype=bool)
        routed[:, : len(hosts)] = sets >= 0
        through = self._through_translation(mine, theirs, destinations, routed) if self.translates else []
        kept = np.ones(len(destinations), dtype=bool)
        kept[len(hosts) :] = False
        kept[[column for _, column, flows in through if flows.any()]] = True
        real = np.arange(len(destinations))[kept] < len(hosts)

        def permitted() -> Mask:
            allowed = np.zeros((*routed.shape, len(self.services.atoms)), dtype=bool)
            self._fill(sets, allowed[:, : len(hosts)], sources, hosts)
            for rows, column, flows in through:
                allowed[rows, column] |= flows
            return allowed[:, kept]

        return PairSpace(self.version, sources, destinations[kept], real, self.possible, routed[:, kept], permitted)

    def _through_translation(
        self, mine: list[int], theirs: list[int], destinations: Classes, routed: Mask
    ) -> list[tuple[slice, int, Mask]]:
        """Return what reaches hosts through translations: of their own addresses, and of addresses that stand for them; and note where it is routed.

        Rows of sources, a column, and bool[source, service_atom] each.
        """
        own = {c for h in theirs for c in self.members[h].tolist()}
        found: list[tuple[slice, int, Mask]] = []
        row = 0
        for g in mine:
            rows = slice(row, row + len(self.members[g]))
            row = rows.stop
            done: set[int] = set()
            for column in np.flatnonzero(self.touched(g, destinations)).tolist():
                goal = int(destinations[column])
                if goal in done and goal in own:
                    continue  # an address of theirs that is published as well has one column
                done.add(goal)
                for h, flows in self.translated.arrivals(g, goal).items():
                    if h in theirs:
                        found.append((rows, column, flows))
                        routed[rows, column] |= flows.any(axis=1)
        return found

    def _fill(self, sets: npt.NDArray[np.int32], allowed: Mask, sources: Classes, hosts: Classes) -> None:
        """Write down what filter sets permit into a view of a pair's array. `sets`: int32[source, host]."""
        for number in np.unique(sets[sets >= 0]).tolist():
            here = sets == number
            rows, columns = np.flatnonzero(here.any(axis=1)), np.flatnonzero(here.any(axis=0))
            passed = here[np.ix_(rows, columns)][:, :, None] & self.possible
            for crossing in self.plane.fecs.filter_sets[number]:
                passed &= self._crossing(crossing, sources[rows], hosts[columns])
            allowed[np.ix_(rows, columns)] |= passed

    def _crossing(self, crossing: Zones, sources: Classes, destinations: Classes) -> Mask:
        (one, at), (two, to) = (np.unique(x, return_inverse=True) for x in (sources, destinations))
        known = self.crossed.get(crossing)
        if known is not None and holds(known.sources, one) and holds(known.destinations, two):
            crossed = known
            at, to = np.searchsorted(known.sources, sources), np.searchsorted(known.destinations, destinations)
        else:
            crossed = self.permits.crossed(crossing, one, two)
        rows, columns = crossed.source_kind[at], crossed.destination_kind[to]
        return unpacked(crossed.passed[rows[:, None], columns], len(self.services.atoms))
