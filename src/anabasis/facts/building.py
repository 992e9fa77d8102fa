"""What steps of a build sheet say: what is done at which box, what is looked at afterwards, how long one waits."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Any, Literal

from anabasis.facts.causes import Cause

ChangeSign = Literal["add", "change", "remove"]


class Subject(StrEnum):
    """What a step is about, in the order in which each needs the ones before it."""

    PLAN = "plan"
    SETS = "sets"
    EXPECTATION = "expectation"
    BOX = "box"
    CABLE = "cable"
    SETTINGS = "settings"
    BUNDLE = "bundle"
    VLANS = "vlans"
    MEMBERSHIP = "membership"
    WIRELESS = "wireless"
    ZONE = "zone"
    VRF = "vrf"
    ANSWERS = "answers"
    FILTER = "filter"
    WIRE = "wire"
    INTERFACE = "interface"
    HOST = "host"
    TUNNEL = "tunnel"
    ROUTE = "route"
    RULE = "rule"
    TRANSLATION = "translation"
    LEASE = "lease"
    PAIR = "pair"
    ACTIVE = "active"
    SAVE = "save"


ON_PAPER = (Subject.PLAN, Subject.SETS, Subject.EXPECTATION)
"""What no box has to be touched for, or every box that uses it."""


class Waits(StrEnum):
    """Why one waits after a step."""

    FORWARDING = "forwarding"
    """A bridge listens and learns before it forwards on a port that came up (IEEE 802.1D-2004 clause 17.14)."""
    BUNDLE = "bundle"
    LEASE = "lease"
    NEIGHBOUR = "neighbour"
    ELECTION = "election"
    UNITS = "units"


class WayBack(StrEnum):
    """How one comes back to a box that a step cuts off."""

    CONSOLE = "console"
    TIMED = "timed"
    """The box itself takes the step back after a while, unless somebody says that it holds."""


@dataclass(frozen=True)
class BuildLine:
    """One thing that a step sets up, changes or takes out."""

    sign: ChangeSign
    kind: str
    """The list of the document that it stands in, or a setting of the box."""
    name: str
    before: Any
    after: Any


@dataclass(frozen=True)
class StateSeen:
    """What a box shows after a step."""

    kind: Literal["port", "interface", "route"]
    device: str
    name: str
    up: bool
    cause: Cause | None = None


@dataclass(frozen=True)
class Wait:
    """How long waiting is normal, and why."""

    why: Waits
    seconds: int
