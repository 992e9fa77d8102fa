"""One sentence, and a word or two, for every step of a packet."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import assert_never

from anabasis.facts import (
    Arrives,
    Changed,
    FollowsRoute,
    KnowsSession,
    MeetsFilter,
    OverCable,
    Permits,
    Receives,
    Restores,
    Sends,
    SendsFrame,
    StepStage,
    Stops,
    TakesFrame,
    TraceStep,
    Translates,
    height_of,
    stage_of,
)
from anabasis.wording.causes import say


@dataclass(frozen=True)
class Told:
    """A step as a person reads it, and a program that asks for the walk (docs/command-line.md, `hops`)."""

    device: str
    stage: StepStage
    layer: str
    """How high the step is on the climb; of a stop the layer that is to blame."""
    text: str
    pointer: str
    label: str
    """The text in a word or two."""
    stopped: bool
    zones: tuple[str, str] | None
    """At a rule, or a default: the zones it decided between."""


def tell(step: TraceStep) -> Told:
    """Return what is said of a step."""
    text, label = _said(step)
    zones = step.zones if isinstance(step, Permits | Stops) else None
    stopped = isinstance(step, Stops)
    return Told(step.device, stage_of(step), str(height_of(step)), text, step.pointer, label, stopped, zones)


def _said(step: TraceStep) -> tuple[str, str]:
    match step:
        case Sends():
            return _sends(step), step.source
        case OverCable():
            return f"over the {step.over} from {step.near} to {step.far}", step.far
        case TakesFrame():
            return _takes(step)
        case SendsFrame():
            return f"{step.port} sends the frame out", step.port
        case Receives():
            zone = f" (zone {step.zone})" if step.zone else ""
            return f"{step.interface} receives it{zone}", step.name
        case Translates():
            done = changes(step.changes) or "changes nothing"
            return f"{step.device}: translation '{step.entry}': {done}", step.entry
        case Restores():
            return f"{step.device} changes the reply back: {changes(step.changes)}", "changed back"
        case FollowsRoute():
            first = "the policy route to " if step.steers else ""
            return first + _follows(step), step.to
        case Permits():
            between = " to ".join(step.zones)
            if step.rule is None:
                return f"{step.device}: no rule matches {between}; the default permits it", "default"
            return f"{step.device}: rule '{step.rule}' ({between}) permits it", step.rule
        case MeetsFilter():
            if step.tunnel:
                return f"{step.device}: {step.entry} carries it", step.entry
            return f"{step.device}: the filter's entry '{step.entry}' lets it pass", step.entry
        case KnowsSession():
            return f"{step.device} knows the session and lets the reply pass", "session"
        case Arrives():
            return arrival(step), step.outcome
        case Stops():
            return say(step.cause), "stops"
        case _:
            assert_never(step)


def arrival(step: Arrives) -> str:
    """Return how a packet arrived."""
    if step.how == "behind":
        return f"{step.address} is behind {step.place}"
    if step.how == "own-address":
        return f"{step.device} answers on {step.address} ({step.place})"
    return f"{step.address} in {step.place} receives it"


def changes(changed: Iterable[Changed]) -> str:
    """Return what becomes of what."""
    return ", ".join(f"{c.field} {c.before} becomes {c.after}" for c in changed)


def _sends(step: Sends) -> str:
    if step.how == "own-address":
        return f"{step.sender} sends from its own address {step.source}"
    if step.how == "from-behind":
        return f"{step.source} sends from behind {step.sender}"
    if step.how == "on-link":
        return f"{step.destination} is on the link of {step.source}: sent straight to it"
    assumed = ", assumed: nothing says so, and it is the only one there" if step.assumed else ""
    sender = f"{step.sender} ({step.source})"
    return f"{step.destination} is elsewhere: {sender} sends to its gateway {step.gateway}{assumed}"


def _takes(step: TakesFrame) -> tuple[str, str]:
    wire = "" if step.tag is None else f" with tag {step.tag}" if step.tag else " without a tag"
    wire = wire if step.vni is None else f" with VNI {step.vni}"
    inside = f" into VLAN {step.vlan}" if step.vlan is not None else ""
    known = f"VLAN {step.vlan}" if step.vlan is not None else "inline" if step.inline else wire.strip() or "frame"
    return f"{step.port} takes the frame{wire}{inside}", known


def _follows(step: FollowsRoute) -> str:
    match step.leads:
        case "nowhere":
            return f"{step.to} is discarded"
        case "to-vrf":
            return f"{step.to} leads to VRF {step.vrf}"
        case "behind":
            return f"{step.to} is {step.device}'s own"
        case "on-link":
            return f"{step.to} is on the link of {step.interface}"
        case "into":
            return f"{step.to} goes into {step.interface}{_shared(step)}"
    through = f" (through {step.hop})" if step.hop != step.via else ""
    return f"{step.to} goes to next hop {step.via}{through} by {step.interface}{_shared(step)}"


def _shared(step: FollowsRoute) -> str:
    return f", one of {step.equal} equal-cost routes" if step.equal > 1 else ""
