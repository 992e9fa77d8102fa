"""Ordered rules and translations."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from anabasis.design.base import AddressTerm, Name, Part, ServiceTerm, SpanText

Action = Literal["permit", "drop", "refuse"]


def _any() -> list[str]:
    return ["any"]


class Rule(Part):
    """One line of the policy; the first that matches decides."""

    name: Name
    from_: list[Name] = Field(alias="from", description="Ingress zones, or any.")
    to: list[Name] = Field(description="Egress zones, or any.")
    sources: list[AddressTerm] = Field(default_factory=_any)
    destinations: list[AddressTerm] = Field(default_factory=_any)
    services: list[ServiceTerm] = Field(default_factory=_any)
    action: Action
    enabled: bool = True
    log: bool = False


class Nat(Part):
    """One translation: of the source, of the destination, or of both."""

    name: Name
    from_: list[Name] = Field(alias="from", default_factory=_any)
    to: list[Name] = Field(default_factory=_any)
    sources: list[AddressTerm] = Field(default_factory=_any)
    destinations: list[AddressTerm] = Field(default_factory=_any)
    services: list[ServiceTerm] = Field(default_factory=_any)
    source_to: Literal["interface"] | SpanText | None = None
    one_to_one: bool = False
    destination_to: SpanText | None = None
    service_to: ServiceTerm | None = None
    enabled: bool = True
