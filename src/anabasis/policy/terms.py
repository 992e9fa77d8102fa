"""What the words of a rule mean: address sets and service sets, nested, down to spans of numbers."""

from __future__ import annotations

from anabasis.design import Design
from anabasis.design.iana import iana_services
from anabasis.design.notation import looks_like_address, parse_service, parse_span
from anabasis.once import once

Span = tuple[int, int, int]
"""(family 4 or 6, first address, last address), both ends included."""
ServiceSpan = tuple[int, int, int]
"""(protocol number, first, last): destination ports, message types, or 0 to 0; both ends included."""
Service = tuple[int, int]
"""One concrete service: (protocol number, destination port or message type or 0)."""

ANY_ADDRESS: frozenset[Span] = frozenset({(4, 0, 2**32 - 1), (6, 0, 2**128 - 1)})
ANY_SERVICE: None = None
"""The set of all services is written None: it holds every protocol, those without a name too."""


class Terms:
    """The named sets of one design, resolved once."""

    def __init__(self, design: Design) -> None:
        self._design = design
        self._addresses: dict[str, frozenset[Span]] = {}
        self._services: dict[str, frozenset[ServiceSpan] | None] = {}

    @once
    def _address_sets(self) -> dict[str, list[str]]:
        return {s.name: list(s.members) for s in self._design.addresses}

    @once
    def _service_sets(self) -> dict[str, list[str]]:
        return {s.name: list(s.members) for s in self._design.services}

    def addresses(self, terms: list[str]) -> frozenset[Span]:
        """Return the spans that a list of address terms covers. Assumes checked names."""
        return frozenset().union(*(self._address(t) for t in terms))

    def _address(self, term: str) -> frozenset[Span]:
        if term not in self._addresses:
            if term == "any":
                spans = ANY_ADDRESS
            elif looks_like_address(term):
                low, high = parse_span(term)
                spans = frozenset({(low.version, int(low), int(high))})
            else:
                spans = self.addresses(self._address_sets[term])
            self._addresses[term] = spans
        return self._addresses[term]

    def services(self, terms: list[str]) -> frozenset[ServiceSpan] | None:
        """Return the spans that a list of service terms covers, or None for every service."""
        parts = [self._service(t) for t in terms]
        if any(p is None for p in parts):
            return ANY_SERVICE
        return frozenset().union(*(p for p in parts if p is not None))

    @once
    def service_names(self) -> list[tuple[str, list[ServiceSpan]]]:
        """Return the names that services can be called by: the design's own sets first, then IANA's; one name a set, large sets first."""
        known: dict[frozenset[ServiceSpan], str] = {}
        for name in [*self._service_sets, *iana_services()]:
            spans = self._service(name)
            if spans:
                known.setdefault(spans, name)
        own = set(self._service_sets)
        ranked = sorted(known.items(), key=lambda e: (e[1] not in own, -len(e[0])))
        return [(name, sorted(spans)) for spans, name in ranked]

    def _service(self, term: str) -> frozenset[ServiceSpan] | None:
        if term not in self._services:
            self._services[term] = self._read_service(term)
        return self._services[term]

    def _read_service(self, term: str) -> frozenset[ServiceSpan] | None:
        """A set of the design hides an IANA name, and that hides a protocol's name."""
        if term == "any":
            return ANY_SERVICE
        if term in self._service_sets:
            return self.services(self._service_sets[term])
        if term in iana_services():
            return frozenset(iana_services()[term])
        return frozenset({parse_service(term)})


def holds_address(spans: frozenset[Span], family: int, address: int) -> bool:
    """Tell whether one address lies in one of the spans; plain scan."""
    return any(f == family and low <= address <= high for f, low, high in spans)


def holds_service(spans: frozenset[ServiceSpan] | None, service: Service) -> bool:
    """Tell whether one service lies in one of the spans; plain scan."""
    return spans is None or any(p == service[0] and low <= service[1] <= high for p, low, high in spans)
