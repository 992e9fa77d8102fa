"""The policies of a design: those of all firewalls, what other boxes translate and answer, filters, and what tunnels carry."""

from __future__ import annotations

from collections.abc import Sequence

from anabasis.design import Design
from anabasis.design.devices import BridgingBox, Firewall, RoutingBox
from anabasis.design.notation import pointer
from anabasis.design.targets import interfaces_of
from anabasis.fabric import TunnelState
from anabasis.policy.answers import AnswerList, answer_lists
from anabasis.policy.filters import carried, filter_policies
from anabasis.policy.firewalls import Policies, Policy
from anabasis.policy.listening import listeners
from anabasis.policy.rules import rule_lines, rule_lines_off
from anabasis.policy.steering import steerings
from anabasis.policy.terms import Terms
from anabasis.policy.translation import translations


def build_policies(
    design: Design, before: tuple[Design, Policies] | None = None, tunnels: Sequence[TunnelState] = ()
) -> Policies:
    """Resolve the policy of every firewall, and every filter. `before`: another state; what is the same is taken over. `tunnels`: which are up."""
    terms = Terms(design)
    kept: dict[str, tuple[Firewall, Policy]] = {}
    if before is not None and (before[0].addresses, before[0].services) == (design.addresses, design.services):
        terms = before[1].terms
        kept = {f.name: (f, before[1].of[f.name]) for f in before[0].devices if isinstance(f, Firewall)}
    filtered = before[1].stateless if before is not None and terms is before[1].terms else {}
    stateless: dict[str, Policy] = {}
    of: dict[str, Policy] = {}
    translating: dict[str, Policy] = {}
    answers: dict[str, dict[str, AnswerList]] = {}
    for d, f in enumerate(design.devices):
        if isinstance(f, Firewall):
            known = kept.get(f.name)
            same = known is not None and known[0] is f and known[1].pointer == pointer("devices", d)
            of[f.name] = known[1] if known and same else _policy(f, d, terms, known)
            translating[f.name] = of[f.name]
            answers[f.name] = of[f.name].answers
        elif isinstance(f, BridgingBox):
            answers[f.name] = answer_lists(f, d, terms)
            if isinstance(f, RoutingBox) and f.nat:
                translating[f.name] = _translator(f, d, terms, answers[f.name])
        if isinstance(f, BridgingBox) and f.filters:
            stateless |= filter_policies(f, d, terms)
    stateless |= carried(design, tunnels)
    same_filters = {k: filtered[k] if filtered.get(k) == policy else policy for k, policy in stateless.items()}
    return Policies(of, terms, translating, answers, same_filters, listeners(design), dict(steerings(design, terms)))


def _translator(device: RoutingBox, d: int, terms: Terms, answers: dict[str, AnswerList]) -> Policy:
    at = pointer("devices", d)
    places = dict(interfaces_of(device, at))
    kinds = dict.fromkeys(places, "routed")
    entries = translations(device, d, terms)
    words = "permit", "permit", device.answers_across
    return Policy(device.name, at, kinds, places, (), entries, answers, *words, filters=False)


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
