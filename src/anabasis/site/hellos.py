"""What filters do to the packets of a routing protocol, those in a link and stateless ones at interfaces: protocol 89, to all routers on the link."""

from __future__ import annotations

from anabasis.design.filters import named
from anabasis.design.notation import PROTOCOLS, Address, parse_address
from anabasis.facts import Cause, Layer, Values, Wrong, because
from anabasis.policy import THERE, Policies, Service
from anabasis.routing import Hellos, Met

ALL_ROUTERS = {4: parse_address("224.0.0.5"), 6: parse_address("ff02::5")}
"""AllSPFRouters (RFC 2328 appendix A.1, RFC 5340 appendix A.1)."""


def hellos_through(policies: Policies) -> Hellos:
    """Return what tells why a filter stops the hellos of a router."""

    def stopped(crossing: Met, source: Address, target: Address) -> Cause | None:
        goal = ALL_ROUTERS[source.version]
        packet = source.version, int(source), int(goal), (PROTOCOLS["ospf"], 0)
        if isinstance(crossing, str):
            return _stateless(policies, crossing, packet)
        policy = policies.of[crossing.device]
        ends = (crossing.from_zone, crossing.entered), (crossing.to_zone, crossing.left)
        for (zone, label), at in zip(ends, crossing.sides, strict=True):
            problem = policy.zone_problem(zone, crossing.kind, label, at)
            if problem is not None:
                return problem
        return policy.decide(crossing.from_zone or "", crossing.to_zone or "", packet)[1]

    return stopped


def _stateless(policies: Policies, key: str, packet: tuple[int, int, int, Service]) -> Cause | None:
    """Ask the stateless filter at an interface, or what a tunnel carries, which is by address as anything it carries."""
    policy = policies.stateless.get(key)
    if policy is None:
        return None
    rule, cause = policy.decide(*THERE, packet)
    if cause is None:
        return None
    wrong = Wrong.FILTER_LACKS if rule is None else Wrong.FILTER_DROPS
    values: Values = {"device": policy.device, "filter": named(key), "what": "the hello"}
    return because(Layer.RULE, wrong, policy.pointer if rule is None else rule.pointer, values=values)
