"""What a client is handed by whoever leases addresses: worked out in `leases`, and stood on by the site."""

from __future__ import annotations

from dataclasses import dataclass, field

from anabasis.facts import Cause
from anabasis.policy import LeaseServer
from anabasis.routing import Leased


@dataclass(frozen=True)
class Handed:
    """What became of one client's request."""

    leased: Leased | None
    cause: Cause | None
    """What keeps it from a lease."""
    server: LeaseServer | None = None
    several: tuple[str, ...] = ()
    """Every server that answers, where more than one does: which is first is luck."""
    options: dict[str, str] = field(default_factory=dict)
    asks: str | None = None
    """The server a relay asks for it."""
