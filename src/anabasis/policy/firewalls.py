"""The policies of all firewalls of a design."""

from __future__ import annotations

from dataclasses import dataclass, field

from anabasis.causes import Cause, Layer, Values, Wrong, because
from anabasis.design import Design
from anabasis.design.devices import Firewall
from anabasis.design.notation import pointer
from anabasis.policy.answers import AnswerList, answer_lists
from anabasis.policy.rules import RuleLine, rule_lines, rule_lines_off
from anabasis.policy.terms import Terms
from anabasis.policy.translation import Translation, claims_of, translations
from anabasis.routing.claims import Claim


@dataclass(frozen=True)
class Policy:
    """What one firewall lets pass."""

    device: str
    pointer: str
    zone_kinds: dict[str, str]
    zone_pointers: dict[str, str]
    rules: tuple[RuleLine, ...]
    translations: tuple[Translation, ...]
    answers: dict[str, AnswerList]
    same_zone: str
    between_zones: str
    answers_across: str
    """`rules`, `always` or `never`."""
    off: tuple[RuleLine, ...] = ()
    """The rules that are switched off, in order."""
    _between: dict[tuple[str, str], list[RuleLine]] = field(default_factory=dict, compare=False, repr=False)
    """What `lines` has found already."""
    _entering: dict[str, list[RuleLine]] = field(default_factory=dict, compare=False, repr=False)

    def zone_problem(self, zone: str | None, kind: str, label: str, at: str) -> Cause | None:
        """Return why nothing passes an interface: it is in no zone, or in one of another kind than its own."""
        if zone is None:
            return because(Layer.ZONE, Wrong.NO_ZONE, at, interface=label)
        if self.zone_kinds[zone] != kind:
            values: Values = {"zone": zone, "kind": self.zone_kinds[zone], "interface": label, "wanted": kind}
            return because(Layer.ZONE, Wrong.ZONE_KIND, f"{self.zone_pointers[zone]}/kind", at, values=values)
        return None

    def default(self, ingress: str, egress: str) -> tuple[str, str]:
        """Return (action, pointer) for traffic between two zones that no rule matches."""
        key = "same_zone" if ingress == egress else "between_zones"
        return (self.same_zone if ingress == egress else self.between_zones), f"{self.pointer}/{key}"

    def lines(self, ingress: str, egress: str) -> list[RuleLine]:
        """Return the rules that speak of traffic between two zones, in order."""
        if (ingress, egress) not in self._between:
            if ingress not in self._entering:
                self._entering[ingress] = [r for r in self.rules if r.enters(ingress)]
            self._between[ingress, egress] = [r for r in self._entering[ingress] if r.leaves(egress)]
        return self._between[ingress, egress]


@dataclass(frozen=True)
class Policies:
    """All policies, by firewall, and the words they are written in."""

    of: dict[str, Policy]
    terms: Terms

    @property
    def claims(self) -> list[Claim]:
        """Return what the firewalls answer ARP and neighbour discovery for because they translate it."""
        return [c for p in self.of.values() for c in claims_of(p.device, p.translations)]


def build_policies(design: Design, before: tuple[Design, Policies] | None = None) -> Policies:
    """Resolve the policy of every firewall. `before`: another state; the policies of firewalls that are the same are taken over."""
    terms = Terms(design)
    kept: dict[str, tuple[Firewall, Policy]] = {}
    if before is not None and (before[0].addresses, before[0].services) == (design.addresses, design.services):
        terms = before[1].terms
        kept = {f.name: (f, before[1].of[f.name]) for f in before[0].devices if isinstance(f, Firewall)}
    of: dict[str, Policy] = {}
    for d, f in enumerate(design.devices):
        if isinstance(f, Firewall):
            known = kept.get(f.name)
            same = known is not None and known[0] is f and known[1].pointer == pointer("devices", d)
            of[f.name] = known[1] if known and same else _policy(f, d, terms, known)
    return Policies(of, terms)


def _policy(device: Firewall, d: int, terms: Terms, before: tuple[Firewall, Policy] | None) -> Policy:
    at = pointer("devices", d)
    zones = {z.name: z.kind for z in device.zones}
    places = {z.name: pointer("devices", d, "zones", i) for i, z in enumerate(device.zones)}
    return Policy(
        device.name,
        at,
        dict(zones),
        places,
        rule_lines(device, d, terms, (before[0], before[1].rules) if before else None),
        translations(device, d, terms),
        answer_lists(device, d, terms),
        device.same_zone,
        device.between_zones,
        device.answers_across,
        rule_lines_off(device, d, terms),
    )
