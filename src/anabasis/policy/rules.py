"""Ordered rules with their words resolved. The first that matches decides (concepts, section 5, step 5)."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.design.devices import Firewall
from anabasis.design.notation import pointer
from anabasis.policy.terms import Service, ServiceSpan, Span, Terms, holds_address, holds_service


@dataclass(frozen=True)
class RuleLine:
    """One enabled rule."""

    name: str
    pointer: str
    from_zones: frozenset[str] | None
    """None = any zone."""
    to_zones: frozenset[str] | None
    sources: frozenset[Span]
    destinations: frozenset[Span]
    services: frozenset[ServiceSpan] | None
    action: str

    def meets(self, ingress: str, egress: str) -> bool:
        """Tell whether the rule speaks of traffic between two zones."""
        return (self.from_zones is None or ingress in self.from_zones) and (
            self.to_zones is None or egress in self.to_zones
        )

    def matches(self, family: int, source: int, destination: int, service: Service) -> bool:
        """Tell whether one packet matches."""
        return (
            holds_address(self.sources, family, source)
            and holds_address(self.destinations, family, destination)
            and holds_service(self.services, service)
        )


def rule_lines(device: Firewall, d: int, terms: Terms) -> tuple[RuleLine, ...]:
    """Return the enabled rules of a firewall, in order."""
    return tuple(
        RuleLine(
            r.name,
            pointer("devices", d, "rules", i),
            _zones(r.from_),
            _zones(r.to),
            terms.addresses(r.sources),
            terms.addresses(r.destinations),
            terms.services(r.services),
            r.action,
        )
        for i, r in enumerate(device.rules)
        if r.enabled
    )


def _zones(names: list[str]) -> frozenset[str] | None:
    return None if "any" in names else frozenset(names)
