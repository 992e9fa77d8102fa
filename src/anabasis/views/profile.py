"""The climb profile: a walk as a line over layers, hops along, rising and falling through each device, broken off where it stops."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.facts import Layer, Outcome, Passes, StepStage, stage_of
from anabasis.site import find_place
from anabasis.trace import Walk, choose_ends, service_text, walk
from anabasis.verdicts import Deciding, Verdicts, deciding_rules, one_service, read_flows
from anabasis.wording import tell

LEVELS = ("link", "vlan", "gateway", "route", "rule")
"""From the cable up."""
HEIGHT = {layer: k for k, layer in enumerate(LEVELS)} | {
    "isolation": 1,
    "zone": 2,
    "neighbour": 3,
    "underlay": 3,
    "tunnel": 3,
    "return": 3,
    "answers": 4,
    "nat": 4,
    "standby": 0,
    "name": 4,
}
"""How high each layer stands: a zone is a matter of the interface, what a box answers a matter of policy."""


@dataclass(frozen=True)
class Point:
    """One point of the line."""

    device: str
    stage: StepStage
    level: int
    """Index into `LEVELS`."""
    text: str
    label: str
    """The text in a word or two."""
    pointer: str
    stopped: bool


@dataclass(frozen=True)
class Profile:
    """One way of a flow."""

    outcome: Outcome
    layer: Layer | None
    reason: str
    decided_by: list[str]
    points: list[Point]


@dataclass(frozen=True)
class PairView:
    """Everything about one ordered pair of segments."""

    source: str
    target: str
    verdict: Passes
    layer: Layer | None
    reason: str
    decided_by: list[str]
    flows: list[dict[str, str]]
    levels: list[str]
    sample: list[str] | None
    """Source address, destination address and service of the flow that is drawn."""
    firewalls: list[str]
    """The firewalls that decide about the flow that is drawn; none = it never meets one."""
    there: Profile | None
    back: Profile | None
    deciding: list[Deciding]
    """The smallest list of rules that decides the whole pair."""


def profile(walk: Walk) -> Profile:
    """Return the line of one way."""
    points = [
        Point(t.device, t.stage, HEIGHT[t.layer], t.text, t.label, t.pointer, t.stopped) for t in map(tell, walk.steps)
    ]
    return Profile(walk.outcome, walk.layer, walk.reason, list(walk.decided_by), points)


def pair_view(verdicts: Verdicts, a: int, b: int, passing: bool = False) -> PairView:
    """Return the verdict of a pair, its exact flows, and one flow there and back: what stops first, or one that passes."""
    verdict = verdicts.judge(a, b)
    shown = verdicts.show(a, b, stopped=verdict.verdict != "all" and not (passing and verdict.verdict == "some"))
    sample = [str(shown.source.address), str(shown.target.address), service_text(shown.service)] if shown else None
    return PairView(
        verdict.source,
        verdict.target,
        verdict.verdict,
        verdict.layer,
        verdict.reason,
        list(verdict.decided_by),
        read_flows(verdicts.sweep, a, b, verdicts.flows(a, b)),
        list(LEVELS),
        sample,
        _firewalls(verdicts, shown.walk) if shown else [],
        profile(shown.walk) if shown else None,
        profile(shown.walk.way_back) if shown and shown.walk.way_back else None,
        deciding_rules(verdicts.sweep, a, b),
    )


def _firewalls(verdicts: Verdicts, walk: Walk) -> list[str]:
    """Return the firewalls among the devices of a walk at which something was decided."""
    known = verdicts.sweep.site.policies.of
    deciding = ("rule", "translation", "interface", "answers")
    return list(dict.fromkeys(s.device for s in walk.steps if s.device in known and stage_of(s) in deciding))


@dataclass(frozen=True)
class PacketView:
    """One packet that a person tried."""

    source: str
    target: str
    service: str
    outcome: Outcome
    layer: Layer | None
    reason: str
    decided_by: list[str]
    levels: list[str]
    firewalls: list[str]
    there: Profile
    back: Profile | None


def packet_view(verdicts: Verdicts, source: str, target: str, service: str) -> PacketView:
    """Walk a packet between two places in words. Raises UnknownPlace where a word names nothing."""
    site = verdicts.sweep.site
    ends = find_place(site, source), find_place(site, target)
    concrete = one_service(site, service, ends[0].families & ends[1].families)
    one, two = choose_ends(*ends, concrete)
    went = walk(site, one, two, concrete)
    back = profile(went.way_back) if went.way_back else None
    head = (str(one.address), str(two.address), service_text(concrete), went.outcome, went.layer, went.reason)
    return PacketView(*head, list(went.decided_by), list(LEVELS), _firewalls(verdicts, went), profile(went), back)
