"""Sweep: the exact flows of all pairs of segments at once, as arrays over classes of addresses and services (docs/reach.md)."""

from __future__ import annotations

from anabasis.allpairs.family import Family, PairSpace
from anabasis.allpairs.fingerprints import Fingerprints
from anabasis.allpairs.permit_matrices import PermitMatrices
from anabasis.allpairs.plane import ForwardingPlane
from anabasis.allpairs.tally import Tally
from anabasis.allpairs.translations import translations_of
from anabasis.classes import Box, FlowSet, ServiceAtoms, ServiceShift, boxes_of, readable_services
from anabasis.once import once
from anabasis.policy import ServiceSpan
from anabasis.site import Site

Cuts = tuple[set[frozenset[ServiceSpan] | None], list[ServiceShift]]
"""What tells services apart, and the ranges that become others."""


SPARE = 100
"""How many sets of services, or of addresses, may stay cut out that no rule speaks of any more."""


class Sweep:
    """All pairs of segments of one site."""

    def __init__(self, site: Site, source: int | None = None, base: Sweep | None = None) -> None:
        """`source`: only the pairs from this segment; None = all. `base`: of another state; what is the same in this one is taken over."""
        self.site = site
        cuts = _service_cuts(site)
        known = base.cuts if base is not None and base.cuts[1] == cuts[1] else None
        if known is not None and len(known[0] - cuts[0]) <= SPARE:  # finer cuts than needed do no harm
            cuts = (known[0] | cuts[0], cuts[1])
        self.cuts: Cuts = cuts
        self.services: ServiceAtoms = base.services if base is not None and known == cuts else ServiceAtoms(*cuts)
        under = base if base is not None and site.stands_on(base.site) else None
        self.planes: dict[int, ForwardingPlane] = (
            under.planes if under else {v: ForwardingPlane(site, v, base.planes[v] if base else None) for v in (4, 6)}
        )
        self.families: dict[int, Family] = {
            v: Family(site, v, self.services, plane, base.families[v] if base else None)
            for v, plane in self.planes.items()
        }
        self._base = base
        if base is not None:
            base._base = None  # or states would hang on each other for ever
        self.made: dict[int, PermitMatrices] = {}
        """What has been asked for of `matrices`, by family."""
        self._source = source
        self._known: dict[tuple[int, int], list[PairSpace]] = {}
        self._called: dict[tuple[tuple[ServiceSpan, ...], int], str] = {}

    @once
    def pairs(self) -> list[tuple[int, int]]:
        """Return every ordered pair of different segments, in the order of segments."""
        count = len(self.site.segments.all)
        sources = range(count) if self._source is None else (self._source,)
        return [(a, b) for a in sources for b in range(count) if a != b]

    def pair(self, a: int, b: int) -> list[PairSpace]:
        """Return the flows of a pair, one space a family that both sides have; computed when first asked for."""
        if (a, b) not in self._known:
            self._known[a, b] = [s for f in self.families.values() if (s := f.pair(a, b)) is not None]
        return self._known[a, b]

    @once
    def matrices(self) -> dict[int, PermitMatrices]:
        """Return all pairs at once, by family. What no edit touched is taken over from another state, where that has been computed."""
        count, known = len(self.site.segments.all), self._base.made if self._base is not None else {}
        self.made = {v: PermitMatrices(f, f.plane.fecs, count, known.get(v)) for v, f in self.families.items()}
        self._base = None
        return self.made

    def tally(self, services: frozenset[ServiceSpan] | None = None, family: int | None = None) -> Tally:
        """Return the answer to a question for every ordered pair of segments. A family that carries none of the services has no say."""
        asked = self.services.mask(services)
        able = [v for v, f in self.families.items() if family in (None, v) and (asked & f.possible).any()]
        return Tally.of([self.matrices[v].tally(asked) for v in able], len(self.site.segments.all))

    @once
    def fingerprints(self) -> Fingerprints:
        """Return uint64[segment, segment]: a print of the flows of each pair; different fingerprints mean different flows (`PermitMatrices.fingerprints`)."""
        four, six = (self.matrices[v].fingerprints for v in (4, 6))
        return four + six

    def called(self, services: tuple[ServiceSpan, ...], family: int) -> str:
        """Return services as a person reads them; many pairs have the same."""
        if (services, family) not in self._called:
            names = self.site.policies.terms.service_names
            self._called[services, family] = readable_services(services, family, names)
        return self._called[services, family]

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

    def beyond(self, mine: tuple[int, int], other: Sweep, theirs: tuple[int, int]) -> FlowSet:
        """Return the flows of a pair that a pair of another state has not. Where both states have the same classes no boxes are cut."""
        spaces, others = self.pair(*mine), {s.family: s for s in other.pair(*theirs)}
        boxes: list[Box] = []
        for space in spaces:
            family, known = self.families[space.family], others.get(space.family)
            same = family.classes.cut_as(other.families[space.family].classes) and self.services is other.services
            if not same or known is None or not space.is_about(known):
                return self.flows(*mine).minus(other.flows(*theirs))
            more = space.allowed & ~known.allowed
            if more.any():
                classes = family.classes.intervals
                sources, destinations = ([classes[k] for k in x] for x in (space.sources, space.destinations))
                boxes += boxes_of(space.family, sources, destinations, self.services, more)
        return FlowSet(tuple(boxes))


def _service_cuts(site: Site) -> Cuts:
    """Return what tells services apart: rules and translations; and the ranges that become others."""
    sets = {r.services for p in site.policies.filtering.values() for r in p.rules}
    sets |= {s for told in site.policies.steering.values() for s in (told.services, told.replies)}
    shifts: list[ServiceShift] = []
    for entry in translations_of(site):
        sets.add(entry.services)
        if entry.service is not None:
            sets.add(frozenset((p, low, low) for p, low, _ in entry.service.onto))
            shifts += [(k, s) for k in entry.service.keeps for s in entry.service.onto if s[0] == k[0]]
    return sets, shifts
