"""Stateless filters of boxes: ordered entries that look at every packet by itself (RFC 8519)."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from anabasis.design.base import MOST, AddressRef, Name, Part, ServiceRef


def _any() -> list[str]:
    return ["any"]


class FilterEntry(Part):
    """One entry of a filter; the first that matches decides, and what none matches is dropped."""

    sources: list[AddressRef] = Field(default_factory=_any)
    destinations: list[AddressRef] = Field(default_factory=_any)
    services: list[ServiceRef] = Field(default_factory=_any)
    established: bool = Field(
        default=False,
        description="It speaks of replies of TCP alone, whatever their ports (RFC 8519, flag ACK or RST).",
    )
    action: Literal["permit", "drop"]
    enabled: bool = True


class Filter(Part):
    """A named filter; interfaces say where it stands."""

    name: Name
    entries: list[FilterEntry] = Field(default_factory=list, max_length=MOST)


def filter_key(device: str, name: str) -> str:
    """Return what crossings call a filter; no box is called so."""
    return f"{device}:filter:{name}"


def tunnel_key(device: str, name: str) -> str:
    """Return what crossings call the selectors of a tunnel."""
    return f"{device}:tunnel:{name}"


def is_stateless(owner: str) -> bool:
    """Tell whether a crossing is that of a stateless filter, not of a firewall."""
    return ":" in owner


def is_tunnel(owner: str) -> bool:
    """Tell whether a crossing is what a tunnel carries."""
    return ":tunnel:" in owner


def named(owner: str) -> str:
    """Return the name of the filter, or of the tunnel, that a crossing is of."""
    return owner.split(":", 2)[2]
