"""What the box itself answers, and to whom (docs/semantics.md, "Policy")."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.design.devices import Firewall
from anabasis.design.notation import pointer
from anabasis.policy.terms import Service, ServiceSpan, Span, Terms, holds_address, holds_service


@dataclass(frozen=True)
class AnswerList:
    """One named list of services, with the sources they are answered to."""

    name: str
    pointer: str
    services: frozenset[ServiceSpan] | None
    sources: frozenset[Span]

    def allows(self, family: int, source: int, service: Service) -> bool:
        """Tell whether one packet is answered."""
        return holds_address(self.sources, family, source) and holds_service(self.services, service)


def answer_lists(device: Firewall, d: int, terms: Terms) -> dict[str, AnswerList]:
    """Return a firewall's lists by name."""
    return {
        a.name: AnswerList(
            a.name, pointer("devices", d, "answers", i), terms.services(a.services), terms.addresses(a.sources)
        )
        for i, a in enumerate(device.answers)
    }
