"""What the box itself answers, and to whom (docs/semantics.md, "Policy")."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.design.devices import BridgingBox
from anabasis.design.notation import pointer
from anabasis.policy.terms import (
    ANY_ADDRESS,
    ANY_SERVICE,
    Service,
    ServiceSpan,
    Span,
    Terms,
    holds_address,
    holds_service,
)


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


def answer_lists(device: BridgingBox, d: int, terms: Terms) -> dict[str, AnswerList]:
    """Return a box's lists by name."""
    return {
        a.name: AnswerList(
            a.name, pointer("devices", d, "answers", i), terms.services(a.services), terms.addresses(a.sources)
        )
        for i, a in enumerate(device.answers)
    }


def everything(at: str) -> AnswerList:
    """Return what an interface without a list answers on a box that is no firewall: every service, to everybody."""
    return AnswerList("", at, ANY_SERVICE, ANY_ADDRESS)
