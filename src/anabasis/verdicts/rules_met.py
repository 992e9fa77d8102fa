"""Which rules a packet met on its way: what else its walk depends on than the forwarding plane."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.allpairs import Zones
from anabasis.facts import FollowsRoute, MeetsFilter, Permits, Stops, TraceStep
from anabasis.memo import Same
from anabasis.policy import Policies
from anabasis.trace import Walk

RulesMet = tuple[Same, Same, tuple[str, str]]
"""The rules between two zones, those that are switched off, and the default, by identity."""


def rules_met(policies: Policies, walk: Walk) -> dict[Zones, RulesMet] | None:
    """Return the rules at every crossing of a walk, there and back; None where it went one of several equal ways, and may have met more."""
    steps = [*walk.steps, *(walk.way_back.steps if walk.way_back is not None else ())]
    if any(isinstance(s, FollowsRoute) and s.equal > 1 for s in steps):
        return None
    return {crossing: rules_between(policies, crossing) for crossing in dict.fromkeys(_crossings(steps))}


def _crossings(steps: list[TraceStep]) -> Iterator[Zones]:
    for step in steps:
        if isinstance(step, Permits | Stops) and step.zones is not None:
            yield (step.device, *step.zones)
        elif isinstance(step, MeetsFilter | Stops) and step.crossing is not None:
            yield step.crossing


def rules_between(policies: Policies, crossing: Zones) -> RulesMet:
    """Return the rules at one crossing. A rule that no edit touched is the same object in both states (`policy/rules.py`)."""
    device, *zones = crossing
    policy = policies.filtering[device]
    return Same(*policy.lines(*zones)), Same(*policy.off), policy.default(*zones)
