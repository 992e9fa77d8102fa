"""What an edit that is proposed would do, as a fact, and what a request for an address got."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Does = Literal[
    "permits-just-this",
    "drops-just-this",
    "adds-service",
    "takes-service",
    "switches-rule-off",
    "closes-between-networks",
    "switches-route-off",
    "takes-idle-rule-out",
    "routes-back",
]
"""What an edit does. Each has one sentence in `wording/edits.py`."""


@dataclass(frozen=True)
class EditDoes:
    """What one edit does, and to what."""

    does: Does
    box: str = ""
    name: str = ""
    """The rule, interface or prefix it is about."""
    above: str = ""
    """Of a rule: the one it comes above; empty = at the end."""
    service: str = ""
    more: int = 0
    """So many further edits on the way."""


@dataclass(frozen=True)
class HandedOut:
    """What somebody who asks for an address got, and from whom."""

    server: str
    relay: str | None
    """Through whom it was asked."""
    address: str
    assumed: bool
    """What is handed out stands in no design: a relay's server is somebody else's."""
    servers: int
    """How many answer."""
    gateway: bool
    """A gateway is handed out as well."""
