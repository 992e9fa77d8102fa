"""The policy of one firewall, and those of a whole design with what other boxes translate and answer."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from anabasis.facts import Cause, Layer, Values, Wrong, because
from anabasis.once import once
from anabasis.policy.answers import AnswerList, everything
from anabasis.policy.listening import Listener
from anabasis.policy.rules import RuleLine
from anabasis.policy.terms import Service, Terms
from anabasis.policy.translation import Translation, claims_of
from anabasis.routing import Claim, L3Interface

if TYPE_CHECKING:
    from anabasis.policy.steering import Steering

VERBS = {"drop": "drops", "refuse": "refuses"}
Packet = tuple[int, int, int, Service]
"""(family, source, destination, service), as rules match it."""


@dataclass(frozen=True)
class Policy:
    """What one firewall lets pass, or what a box without zones translates: its interfaces then stand for zones."""

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
    filters: bool = True
    """Whether it has zones and rules, and remembers every session; else only what it translated."""
    _between: dict[tuple[str, str], list[RuleLine]] = field(default_factory=dict, compare=False, repr=False)
    """What `lines` has found already."""
    _entering: dict[str, list[RuleLine]] = field(default_factory=dict, compare=False, repr=False)

    def side(self, interface: L3Interface) -> str:
        """Return what rules and translations call an interface: its zone, or where there are none its name."""
        return (interface.zone or "") if self.filters else interface.name

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

    def decide(self, ingress: str, egress: str, packet: Packet) -> tuple[RuleLine | None, Cause | None]:
        """Return the first rule that matches a packet between two zones, None where the default decides; and why it is stopped, if it is."""
        said: Values = {"device": self.device, "zones": f"{ingress} to {egress}"}
        for rule in self.lines(ingress, egress):
            if rule.matches(*packet):
                if rule.action == "permit":
                    return rule, None
                values = said | {"rule": rule.name, "action": VERBS[rule.action]}
                return rule, because(Layer.RULE, Wrong.RULE_DROPS, rule.pointer, values=values)
        action, at = self.default(ingress, egress)
        if action == "permit":
            return None, None
        values = said | {"action": VERBS[action]}
        off = next((r for r in self.off if r.would(ingress, egress, *packet)), None)
        if off is not None:
            places = (f"{off.pointer}/enabled", at)
            return None, because(Layer.RULE, Wrong.RULE_OFF, *places, values=values | {"rule": off.name})
        return None, because(Layer.RULE, Wrong.DEFAULT_DROPS, at, values=values)

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
    """The firewalls'."""
    terms: Terms
    translating: dict[str, Policy]
    """Those of every box that may translate: the firewalls, and boxes without zones that have translations."""
    answers: dict[str, dict[str, AnswerList]]
    """Of every box, its lists by name."""
    stateless: dict[str, Policy] = field(default_factory=dict)
    """Stateless filters and what tunnels carry, by what crossings call them (`policy/filters.py`)."""
    listening: dict[str, list[Listener]] = field(default_factory=dict)
    """By box, what tunnels that end on it are spoken to by."""
    steering: dict[str, Steering] = field(default_factory=dict)
    """What policy routes look at beside the destination, by their pointers."""

    @once
    def filtering(self) -> dict[str, Policy]:
        """Return all that may stop a packet on its way, by what crossings call it."""
        return {**self.of, **self.stateless}

    @property
    def claims(self) -> list[Claim]:
        """Return what boxes answer ARP and neighbour discovery for because they translate it."""
        return [c for p in self.translating.values() for c in claims_of(p.device, p.translations, p.filters)]

    def answered_by(self, interface: L3Interface) -> AnswerList | None:
        """Return what an interface answers, and to whom; None = nothing. One without a list answers everything where its box is no firewall."""
        if interface.answers is None and interface.device not in self.of:
            return everything(interface.pointer)
        return self.answers.get(interface.device, {}).get(interface.answers or "")
