"""What lines of a test sheet ask for, and what is seen."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Literal

ShownKind = Literal["answer", "none", "address", "up", "down"]


class Do(StrEnum):
    """What one does where one stands."""

    LINK = "link"
    LEASE = "lease"
    PING = "ping"
    CONNECT = "connect"
    LOOK = "look"
    """Look at what a box shows of itself."""


class Looks(StrEnum):
    """What of a box is looked at."""

    PORT = "port"
    INTERFACE = "interface"
    ROUTE = "route"
    ACTIVE = "active"


@dataclass(frozen=True)
class Shown:
    """What a test shows: two that are equal cannot be told apart by it."""

    kind: ShownKind
    network: str = ""
    """Of an address: the subnet it is of."""
    gateway: str = ""
    detail: str = ""
    """Of a bundle: how many of its members carry; of a pair: who is active; of a lease: its server."""


NOTHING_SHOWN = Shown("none")


class AimKind(StrEnum):
    """What a test is for."""

    VLAN = "vlan"
    ZONES = "zones"
    EXPECTATION = "expectation"
    FAULTS = "faults"


@dataclass(frozen=True)
class Aim:
    """One thing that a test is for."""

    kind: AimKind
    name: str


@dataclass(frozen=True)
class SheetTest:
    """One line of a test sheet."""

    id: str
    at: str
    """Where to stand: `device:port`, an endpoint, or the box that is looked at."""
    tag: int | None
    do: Do
    target: str
    """An address, or what of the box is looked at."""
    service: str
    expect: Shown
    aims: tuple[Aim, ...]
    segment: str
    """The segment one stands in; empty where a box is looked at."""
    to: str
    """The segment, or the box, that is asked; empty where there is none."""
    host: str = ""
    """The endpoint, or the second laptop, that has the address."""
    looks: Looks | None = None
    range: str = ""
    """Of a lease: the addresses it may be of."""
    rule: str = ""
    """The rule that counts it, as `box rule`."""
    translated: str = ""
    """What its source becomes on the way."""
    cause: object = None
    """Why nothing is to be expected: a Cause."""
