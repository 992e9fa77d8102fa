"""What policy routes look at beside the destination: source, service, and the interface a packet came in by (docs/semantics.md, "Policy routes")."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from anabasis.design import Design
from anabasis.design.devices import BridgingBox
from anabasis.design.notation import pointer
from anabasis.policy.filters import replies_of
from anabasis.policy.matching import Match, zone_names
from anabasis.policy.terms import ANY_ADDRESS, ANY_SERVICE, Service, ServiceSpan, Terms, holds_address, holds_service


@dataclass(frozen=True)
class Steering(Match):
    """The conditions of one policy route; `from_zones` are names of interfaces, the destination is the route's own."""

    replies: frozenset[ServiceSpan] | None
    """The requests whose replies it speaks of, going by their own ports (`policy/filters.py`); None = all."""

    def takes(self, family: int, source: int, service: Service, is_reply: bool) -> bool:
        """Tell whether it speaks of a packet, the interface and the destination aside. `service`: of a reply that of the request."""
        told = self.replies if is_reply else self.services
        return holds_address(self.sources, family, source) and holds_service(told, service)


def steerings(design: Design, terms: Terms) -> Iterator[tuple[str, Steering]]:
    """Yield the policy routes of a design by their pointers."""
    for d, device in enumerate(design.devices):
        for v, vrf in enumerate(device.vrfs if isinstance(device, BridgingBox) else []):
            for i, route in enumerate(vrf.routes):
                if route.steers:
                    at = pointer("devices", d, "vrfs", v, "routes", i)
                    sources = terms.addresses(route.sources) if route.sources else ANY_ADDRESS
                    services = terms.services(route.services) if route.services else ANY_SERVICE
                    entered = zone_names(route.entered) if route.entered else None
                    replies = replies_of(services, established=False)
                    yield at, Steering(route.to, at, entered, None, sources, ANY_ADDRESS, services, replies)
