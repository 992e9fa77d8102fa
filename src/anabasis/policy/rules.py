"""Ordered rules with their words resolved. The first that matches decides (docs/semantics.md, "Policy")."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from anabasis.design.devices import Firewall
from anabasis.design.notation import pointer
from anabasis.design.rules import Rule
from anabasis.policy.matching import Match, zone_names
from anabasis.policy.terms import Service, Terms


@dataclass(frozen=True)
class RuleLine(Match):
    """One rule."""

    action: str

    def would(self, from_zone: str, to_zone: str, family: int, source: int, destination: int, service: Service) -> bool:
        """Tell whether it would permit a packet between two zones."""
        fits = self.enters(from_zone) and self.leaves(to_zone) and self.matches(family, source, destination, service)
        return fits and self.action == "permit"


def rule_lines(
    device: Firewall, d: int, terms: Terms, before: tuple[Firewall, Sequence[RuleLine]] | None = None
) -> tuple[RuleLine, ...]:
    """Return the enabled rules of a firewall, in order. `before`: another state and its lines, in the same terms; those of rules that stay where they are stay."""
    at = pointer("devices", d, "rules")
    kept: dict[int, RuleLine] = {}
    if before is not None:
        enabled = (r for r in before[0].rules if r.stands)
        kept = {id(r): line for r, line in zip(enabled, before[1], strict=True)}
    out: list[RuleLine] = []
    for i, r in enumerate(device.rules):
        known = kept.get(id(r))
        if known is not None and known.pointer == f"{at}/{i}":
            out.append(known)
        elif r.stands:
            out.append(_line(r, f"{at}/{i}", terms))
    return tuple(out)


def rule_lines_off(device: Firewall, d: int, terms: Terms) -> tuple[RuleLine, ...]:
    """Return the rules of a firewall that are switched off, in order: what would decide if they were not."""
    at = pointer("devices", d, "rules")
    return tuple(_line(r, f"{at}/{i}", terms) for i, r in enumerate(device.rules) if not r.enabled and r.when is None)


def _line(r: Rule, at: str, terms: Terms) -> RuleLine:
    return RuleLine(
        r.name,
        at,
        zone_names(r.from_),
        zone_names(r.to),
        terms.addresses(r.sources),
        terms.addresses(r.destinations),
        terms.services(r.services),
        r.action,
    )
