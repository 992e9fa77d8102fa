"""What rules and translations have in common: zones, addresses and services that a packet must match."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.policy.terms import Service, ServiceSpan, Span, holds_address, holds_service


@dataclass(frozen=True)
class Match:
    """One entry of an ordered list, with its words resolved."""

    name: str
    pointer: str
    from_zones: frozenset[str] | None
    """None = any zone."""
    to_zones: frozenset[str] | None
    sources: frozenset[Span]
    destinations: frozenset[Span]
    services: frozenset[ServiceSpan] | None

    def enters(self, ingress: str) -> bool:
        """Tell whether it speaks of packets from a zone."""
        return self.from_zones is None or ingress in self.from_zones

    def leaves(self, egress: str) -> bool:
        """Tell whether it speaks of packets to a zone."""
        return self.to_zones is None or egress in self.to_zones

    def meets(self, ingress: str, egress: str) -> bool:
        """Tell whether it speaks of traffic between two zones."""
        return self.enters(ingress) and self.leaves(egress)

    def matches(self, family: int, source: int, destination: int, service: Service) -> bool:
        """Tell whether one packet matches, zones aside."""
        return (
            holds_address(self.sources, family, source)
            and holds_address(self.destinations, family, destination)
            and holds_service(self.services, service)
        )


def zone_names(names: list[str]) -> frozenset[str] | None:
    """Return the zones of a list; None = any zone."""
    return None if "any" in names else frozenset(names)
