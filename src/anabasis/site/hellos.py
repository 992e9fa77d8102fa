"""What a filter that stands in a link unseen does to the packets of a routing protocol: protocol 89, to all routers on the link."""

from __future__ import annotations

from anabasis.design.notation import PROTOCOLS, Address, parse_address
from anabasis.fabric import Crossing
from anabasis.facts import Cause
from anabasis.policy import Policies
from anabasis.routing import Hellos

ALL_ROUTERS = {4: parse_address("224.0.0.5"), 6: parse_address("ff02::5")}
"""AllSPFRouters (RFC 2328 appendix A.1, RFC 5340 appendix A.1)."""


def hellos_through(policies: Policies) -> Hellos:
    """Return what tells why a filter stops the hellos of a router."""

    def stopped(crossing: Crossing, source: Address, target: Address) -> Cause | None:
        policy = policies.of[crossing.device]
        ends = (crossing.from_zone, crossing.entered), (crossing.to_zone, crossing.left)
        for (zone, label), at in zip(ends, crossing.sides, strict=True):
            problem = policy.zone_problem(zone, crossing.kind, label, at)
            if problem is not None:
                return problem
        goal = ALL_ROUTERS[source.version]
        packet = source.version, int(source), int(goal), (PROTOCOLS["ospf"], 0)
        return policy.decide(crossing.from_zone or "", crossing.to_zone or "", packet)[1]

    return stopped
