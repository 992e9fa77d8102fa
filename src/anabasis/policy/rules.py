"""Ordered rules with their words resolved. The first that matches decides (concepts, section 5, step 5)."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.design.devices import Firewall
from anabasis.design.notation import pointer
from anabasis.policy.matching import Match, zone_names
from anabasis.policy.terms import Terms


@dataclass(frozen=True)
class RuleLine(Match):
    """One enabled rule."""

    action: str


def rule_lines(device: Firewall, d: int, terms: Terms) -> tuple[RuleLine, ...]:
    """Return the enabled rules of a firewall, in order."""
    return tuple(
        RuleLine(
            r.name,
            pointer("devices", d, "rules", i),
            zone_names(r.from_),
            zone_names(r.to),
            terms.addresses(r.sources),
            terms.addresses(r.destinations),
            terms.services(r.services),
            r.action,
        )
        for i, r in enumerate(device.rules)
        if r.enabled
    )
