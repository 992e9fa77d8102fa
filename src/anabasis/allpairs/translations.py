"""Translations as maps between classes: what each class of addresses, and each atom of services, becomes."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
import numpy.typing as npt

from anabasis.classes import AddressClasses, Mask, ServiceAtoms
from anabasis.policy import AddressMap, ServiceMap, ServiceSpan, Span, Translation
from anabasis.routing import Interval, Intervals, merge
from anabasis.site import Site

Classes = npt.NDArray[np.intp]


class TranslationMaps:
    """The predicates and maps of all translations of one family."""

    def __init__(self, site: Site, version: int, classes: AddressClasses, atoms: ServiceAtoms, private: Mask) -> None:
        self._site, self._version, self._classes, self._atoms = site, version, classes, atoms
        self.private, self.possible = private, atoms.of_family(version)
        self._maps: dict[AddressMap, Classes] = {}
        self._service_maps: dict[ServiceMap, Classes] = {}
        self._held: dict[tuple[frozenset[Span], Translation], Mask] = {}
        self._masks: dict[frozenset[ServiceSpan] | None, Mask] = {}

    def holds(self, spans: frozenset[Span], entry: Translation) -> Mask:
        """Return bool[address_class]: the classes in some spans, none where the entry speaks of the other family."""
        if (spans, entry) not in self._held:
            self._held[spans, entry] = holding(self._classes, self._version, spans, entry)
        return self._held[spans, entry]

    def spoken(self, spans: frozenset[Span]) -> Mask:
        """Return bool[address_class]: the classes in some spans that policy routes speak of."""
        return self._classes.holding(of_family(spans, self._version))

    def mask(self, services: frozenset[ServiceSpan] | None) -> Mask:
        """Return bool[service_atom]."""
        if services not in self._masks:
            self._masks[services] = self._atoms.mask(services)
        return self._masks[services]

    def addresses(self, change: AddressMap) -> Classes:
        """Return int[address_class]: what each class becomes; classes the map does not speak of stay."""
        if change not in self._maps:
            out = np.arange(self._classes.count)
            for k, spans in enumerate(self._classes.intervals):
                first = spans[0][0]
                if change.keeps is None or change.keeps[1] <= first <= change.keeps[2]:
                    out[k] = self._classes.class_of(change.of(first))
            self._maps[change] = out
        return self._maps[change]

    def services(self, change: ServiceMap) -> Classes:
        """Return int[service_atom]: what each atom becomes."""
        if change not in self._service_maps:
            out = np.arange(len(self._atoms.atoms))
            for k, atom in enumerate(self._atoms.atoms):
                protocol, low, _ = atom[0]
                kept = [s for s in change.keeps if s[0] == protocol]
                if len(atom) == 1 and all(s[1] <= low <= s[2] for s in kept):
                    out[k] = self._atoms.atom_of(change.of((protocol, low)))
            self._service_maps[change] = out
        return self._service_maps[change]

    def sources(self, entry: Translation, egress: str) -> Classes | None:
        """Return int[address_class]: what an entry makes of sources; None where the egress interface has no address to give."""
        if entry.source is not None:
            return self.addresses(entry.source)
        interface = next(i for i in self._site.net.interfaces if i.pointer == egress)
        own = next((a.ip for a in interface.addresses if a.version == self._version), None)
        return None if own is None else np.full(self._classes.count, self._classes.class_of(int(own)))


def holding(classes: AddressClasses, version: int, spans: frozenset[Span], entry: Translation) -> Mask:
    """Return bool[address_class]: the classes in some spans of a translation, none where the entry speaks of the other family."""
    if any(m is not None and m.family != version for m in (entry.source, entry.destination)):
        return np.zeros(classes.count, dtype=bool)
    return classes.holding(of_family(spans, version))


def of_family(spans: frozenset[Span], version: int) -> Intervals:
    """Return the addresses of one family in a set of addresses."""
    return merge((low, high) for family, low, high in spans if family == version)


def translations_of(site: Site) -> Iterator[Translation]:
    """Yield the translations of all boxes."""
    for policy in site.policies.translating.values():
        yield from policy.translations


def address_targets(site: Site, version: int) -> Intervals:
    """Return the addresses that translations give: what they map onto, and the addresses of the firewalls that hide others behind them."""
    out: list[Interval] = []
    for entry in translations_of(site):
        out += [m.onto[1:] for m in (entry.source, entry.destination) if m is not None and m.family == version]
    out += [(address, address) for address in _hiding(site, version)]
    return merge(out)


def _hiding(site: Site, version: int) -> Iterator[int]:
    """Yield the addresses of interfaces that others are hidden behind."""
    for interface in site.net.interfaces:
        policy = site.policies.translating.get(interface.device)
        if policy and any(t.by_interface and t.leaves(policy.side(interface)) for t in policy.translations):
            yield from (int(a.ip) for a in interface.addresses if a.version == version)


def single_targets(site: Site, version: int) -> Iterator[Intervals]:
    """Yield, as predicates, the single addresses that many become."""
    for entry in translations_of(site):
        for change in (entry.source, entry.destination):
            if change is not None and change.family == version and change.keeps is None:
                yield [(change.onto[1], change.onto[1])]
    yield from ([(address, address)] for address in _hiding(site, version))


def published(site: Site, version: int) -> Intervals:
    """Return the destinations that translations change."""
    spans = (s for t in translations_of(site) if t.changes_destination and _speaks(t, version) for s in t.destinations)
    return merge((low, high) for family, low, high in spans if family == version)


def _speaks(entry: Translation, version: int) -> bool:
    return all(m is None or m.family == version for m in (entry.source, entry.destination))


def kept_maps(site: Site, version: int) -> list[AddressMap]:
    """Return the translations of one family that give every address one of its own."""
    return [
        m
        for t in translations_of(site)
        for m in (t.source, t.destination)
        if m is not None and m.family == version and m.keeps is not None
    ]


def mirrored(site: Site, version: int, predicates: Sequence[Intervals]) -> list[Intervals]:
    """Return further predicates, so that every map takes classes to classes: what is cut on one side of a prefix is cut on the other."""
    maps = kept_maps(site, version)
    known = {tuple(p) for p in predicates}
    new = known
    while maps and new:
        found = {tuple(p) for m in maps for one in new for p in _across(m, list(one))}
        new = found - known
        known |= new
    return [list(p) for p in known]


def _across(change: AddressMap, spans: Intervals) -> Iterator[Intervals]:
    assert change.keeps is not None
    shift = change.onto[1] - change.keeps[1]
    for (_, first, last), by in ((change.keeps, shift), (change.onto, -shift)):
        part = [(max(a, first) + by, min(b, last) + by) for a, b in spans if a <= last and first <= b]
        if part:
            yield part
