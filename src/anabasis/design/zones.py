"""Zones, and which services the box itself answers."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from anabasis.design.base import AddressRef, Name, Part, ServiceRef


class Zone(Part):
    """A policy label for interfaces of one kind."""

    name: Name
    kind: Literal["routed", "bridged", "inline"] = "routed"
    filter_inside: bool = False


class Answers(Part):
    """A named list of services the box itself answers, and to whom."""

    name: Name
    services: list[ServiceRef]
    sources: list[AddressRef] = Field(default_factory=lambda: ["any"])
