"""Translation of sources and destinations (docs/semantics.md, "Policy", steps 2 and 6; terms of RFC 2663 and RFC 3022).

One entry may change the destination, the source, or both. A prefix that becomes a prefix of equal length keeps the host part; else the
first address of what is given is taken (docs/semantics.md says why that is enough for reach).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from anabasis.design.devices import Firewall, RoutingBox
from anabasis.design.notation import parse_span, pointer
from anabasis.design.rules import Translating
from anabasis.policy.matching import Match, zone_names
from anabasis.policy.terms import ANY_ADDRESS, Service, ServiceSpan, Span, Terms
from anabasis.routing import Claim


@dataclass(frozen=True)
class AddressMap:
    """What an address of one family becomes."""

    onto: Span
    """What it is changed to."""
    keeps: Span | None
    """The prefix whose host part is kept; None = every address becomes the first of `onto`."""

    @property
    def family(self) -> int:
        """Return 4 or 6."""
        return self.onto[0]

    def of(self, address: int) -> int:
        """Return what one address becomes."""
        return self.onto[1] + (address - self.keeps[1] if self.keeps else 0)

    @property
    def reverse(self) -> AddressMap:
        """Return the way back of a one-to-one map."""
        assert self.keeps is not None
        return AddressMap(self.keeps, self.onto)


@dataclass(frozen=True)
class ServiceMap:
    """What a destination port or message type becomes, by protocol."""

    onto: frozenset[ServiceSpan]
    keeps: frozenset[ServiceSpan]
    """Ranges of equal size keep their offset."""

    def of(self, service: Service) -> Service:
        """Return what one service becomes; another protocol than the map names stays as it is."""
        target = next((s for s in sorted(self.onto) if s[0] == service[0]), None)
        if target is None:
            return service
        kept = next((s for s in sorted(self.keeps) if s[0] == service[0]), None)
        return service[0], target[1] + (service[1] - kept[1] if kept else 0)


@dataclass(frozen=True)
class Translation(Match):
    """One way an entry changes packets: a one-to-one entry stands for two, there and back."""

    source: AddressMap | None = None
    by_interface: bool = False
    """The source becomes the address of the egress interface."""
    destination: AddressMap | None = None
    service: ServiceMap | None = None

    @property
    def changes_destination(self) -> bool:
        """Tell whether it takes part in step 2."""
        return self.destination is not None or self.service is not None

    @property
    def changes_source(self) -> bool:
        """Tell whether it takes part in step 6."""
        return self.source is not None or self.by_interface

    def matches(self, family: int, source: int, destination: int, service: Service) -> bool:
        """Tell whether one packet matches, zones aside: its family must be that of what the entry gives."""
        if any(m is not None and m.family != family for m in (self.source, self.destination)):
            return False
        return super().matches(family, source, destination, service)


def translations(device: Firewall | RoutingBox, d: int, terms: Terms) -> tuple[Translation, ...]:
    """Return the enabled translations of a box, in order."""
    return tuple(
        t for i, n in enumerate(device.nat) if n.enabled for t in _read(n, pointer("devices", d, "nat", i), terms)
    )


def _read(entry: Translating, at: str, terms: Terms) -> Iterator[Translation]:
    sources, destinations = terms.addresses(entry.sources), terms.addresses(entry.destinations)
    services = terms.services(entry.services)
    from_zones, to_zones = zone_names(entry.from_), zone_names(entry.to)
    by_interface = entry.source_to == "interface"
    source = _address_map(entry.source_to, sources) if entry.source_to and not by_interface else None
    destination = _address_map(entry.destination_to, destinations) if entry.destination_to else None
    service = _service_map(entry.service_to, services, terms) if entry.service_to else None
    there = Translation(
        entry.name,
        at,
        from_zones,
        to_zones,
        sources,
        destinations,
        services,
        source,
        by_interface,
        destination,
        service,
    )
    if there.changes_source or there.changes_destination:
        yield there
    if entry.one_to_one and source is not None and source.keeps is not None:
        onto = frozenset({source.onto})
        yield Translation(
            entry.name, at, to_zones, from_zones, destinations, onto, services, destination=source.reverse
        )


def _address_map(text: str, matched: frozenset[Span]) -> AddressMap:
    low, high = parse_span(text)
    onto = (low.version, int(low), int(high))
    same = [s for s in matched if s[0] == onto[0]]
    keeps = same[0] if len(same) == 1 and _alike(same[0], onto) else None
    return AddressMap(onto, keeps)


def _alike(one: Span, two: Span) -> bool:
    """Two prefixes of equal length."""
    size = one[2] - one[1] + 1
    return size == two[2] - two[1] + 1 and size & (size - 1) == 0 and one[1] % size == 0 and two[1] % size == 0


def _service_map(text: str, matched: frozenset[ServiceSpan] | None, terms: Terms) -> ServiceMap:
    onto = terms.services([text]) or frozenset()
    alike = {
        s
        for s in matched or ()
        for t in onto
        if s[0] == t[0] and s[2] - s[1] == t[2] - t[1] and sum(x[0] == s[0] for x in matched or ()) == 1
    }
    return ServiceMap(onto, frozenset(alike))


def claims_of(device: str, entries: tuple[Translation, ...], by_zone: bool = True) -> Iterator[Claim]:
    """Yield what a box answers ARP and neighbour discovery for; `any` is no address that anybody could claim."""
    for t in entries:
        written = t.destinations - ANY_ADDRESS
        if t.changes_destination and written:
            yield Claim(device, t.from_zones, frozenset(written), by_zone)
        if t.source is not None:
            yield Claim(device, t.to_zones, frozenset({t.source.onto}), by_zone)
