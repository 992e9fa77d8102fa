"""What a packet does, step by step, as facts: a tagged union. What is said of a step is made in `wording/steps.py`.

`pointer` is the item of the design behind a step.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from anabasis.facts.causes import Cause, Layer

Outcome = Literal["delivered", "answered", "stopped"]
"""`delivered` to a host, `answered` by a box itself, or `stopped`."""
StepStage = Literal["host", "cable", "frame", "interface", "translation", "route", "rule", "answers", "delivered"]
"""What a step of a packet is at."""
Height = Literal["link", "vlan", "gateway", "zone", "route", "rule", "nat", "answers"]
"""How high a step is on the climb."""


SendsHow = Literal["own-address", "from-behind", "on-link", "to-gateway"]
"""To whom a packet is handed first."""


@dataclass(frozen=True)
class Sends:
    """A host, a box or somebody behind an outside sends the packet, and to whom first."""

    kind: Literal["sends"]
    device: str
    pointer: str
    how: SendsHow
    sender: str
    source: str
    destination: str
    gateway: str = ""
    assumed: bool = False
    """Nothing names the gateway: it is the only one there."""


VNI_FORM = 4096
"""The form of a frame on an overlay is its VNI, counted from here: no tag of IEEE 802.1Q is as high."""


@dataclass(frozen=True)
class OverCable:
    """The frame, or the packet, comes over a cable, or over what stands for one."""

    kind: Literal["cable"]
    device: str
    pointer: str
    near: str
    far: str
    over: Literal["cable", "tunnel", "overlay"] = "cable"


@dataclass(frozen=True)
class TakesFrame:
    """A port takes the frame in (IEEE 802.1Q-2022, clause 6.9)."""

    kind: Literal["frame-in"]
    device: str
    pointer: str
    port: str
    tag: int | None
    """0 = untagged; None = as it comes."""
    vlan: int | None
    """None = the box knows no VLANs, or the port is inline."""
    inline: bool = False
    vni: int | None = None
    """On an overlay, in place of a tag."""


@dataclass(frozen=True)
class SendsFrame:
    """An edge port sends the frame out."""

    kind: Literal["frame-out"]
    device: str
    pointer: str
    port: str


@dataclass(frozen=True)
class Receives:
    """An interface of a box takes the packet."""

    kind: Literal["received"]
    device: str
    pointer: str
    interface: str
    name: str
    """The interface's name inside its box."""
    zone: str | None
    filters: bool
    """The box has zones and rules."""


@dataclass(frozen=True)
class Changed:
    """One field of a header that a translation changes."""

    field: Literal["source", "destination", "port"]
    before: str
    after: str


@dataclass(frozen=True)
class Translates:
    """A translation changes the header."""

    kind: Literal["translation"]
    device: str
    pointer: str
    entry: str
    changes: tuple[Changed, ...]


@dataclass(frozen=True)
class Restores:
    """A session changes a reply back."""

    kind: Literal["changed-back"]
    device: str
    pointer: str
    changes: tuple[Changed, ...]


@dataclass(frozen=True)
class FollowsRoute:
    """A route is followed."""

    kind: Literal["route"]
    device: str
    pointer: str
    to: str
    leads: Literal["nowhere", "to-vrf", "behind", "on-link", "into", "to-hop"]
    interface: str = ""
    vrf: str = ""
    """The VRF it leads to."""
    via: str = ""
    """The next hop as written."""
    hop: str = ""
    """The next hop in the end, where others lead to it."""
    equal: int = 1
    """How many equal-cost routes there are, this one among them."""
    steers: bool = False
    """A policy route, tried before the table."""


@dataclass(frozen=True)
class Permits:
    """A rule, or the default, permits it."""

    kind: Literal["permit"]
    device: str
    pointer: str
    rule: str | None
    """None = no rule matches, the default decides."""
    zones: tuple[str, str]


@dataclass(frozen=True)
class MeetsFilter:
    """A stateless filter, or what a tunnel carries, lets the packet pass."""

    kind: Literal["filter"]
    device: str
    pointer: str
    entry: str
    """The entry that lets it pass; of a tunnel its name."""
    tunnel: bool
    crossing: tuple[str, str, str]
    """What decided, as all pairs call it."""


@dataclass(frozen=True)
class KnowsSession:
    """A firewall knows the session, and lets the reply pass."""

    kind: Literal["session"]
    device: str
    pointer: str


@dataclass(frozen=True)
class Arrives:
    """The packet is where it was to go."""

    kind: Literal["arrives"]
    device: str
    pointer: str
    outcome: Outcome
    how: Literal["in-segment", "behind", "own-address"]
    address: str
    place: str
    """The segment, the outside, or the interface."""


@dataclass(frozen=True)
class Stops:
    """The packet gets no further."""

    kind: Literal["stops"]
    device: str
    pointer: str
    stage: StepStage
    cause: Cause
    zones: tuple[str, str] | None = None
    """At a rule, or a default: the zones it decided between."""
    crossing: tuple[str, str, str] | None = None
    """At a stateless filter: what decided, as all pairs call it."""


TraceStep = (
    Sends
    | OverCable
    | TakesFrame
    | SendsFrame
    | Receives
    | Translates
    | Restores
    | FollowsRoute
    | Permits
    | MeetsFilter
    | KnowsSession
    | Arrives
    | Stops
)

_STAGES: dict[str, StepStage] = {
    "sends": "host",
    "cable": "cable",
    "frame-in": "frame",
    "frame-out": "frame",
    "received": "interface",
    "translation": "translation",
    "changed-back": "translation",
    "route": "route",
    "permit": "rule",
    "filter": "rule",
    "session": "rule",
}
_HEIGHTS: dict[StepStage, Height] = {
    "host": "gateway",
    "cable": "link",
    "frame": "vlan",
    "translation": "nat",
    "route": "route",
    "rule": "rule",
    "answers": "answers",
    "delivered": "link",
}


def stage_of(step: TraceStep) -> StepStage:
    """Return what a step is at."""
    if isinstance(step, Stops):
        return step.stage
    if isinstance(step, Arrives):
        return "delivered" if step.outcome == "delivered" else "answers"
    return _STAGES[step.kind]


def height_of(step: TraceStep) -> Height | Layer:
    """Return how high a step is on the climb; of a stop the layer that is to blame."""
    if isinstance(step, Stops):
        return step.cause.layer
    if isinstance(step, Receives):
        return "zone" if step.filters else "gateway"
    return _HEIGHTS[stage_of(step)]
