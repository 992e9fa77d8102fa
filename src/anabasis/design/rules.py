"""Ordered rules and translations."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from anabasis.design.base import AddressRef, Name, Part, Ref, ServiceRef, ServiceTerm, SpanText, ZoneTerm

Action = Literal["permit", "drop", "refuse"]


def _any() -> list[str]:
    return ["any"]


class Rule(Part):
    """One line of the policy; the first that matches decides."""

    name: Name
    from_: list[ZoneTerm] = Field(alias="from", description="Ingress zones, or any.")
    to: list[ZoneTerm] = Field(description="Egress zones, or any.")
    sources: list[AddressRef] = Field(default_factory=_any)
    destinations: list[AddressRef] = Field(default_factory=_any)
    services: list[ServiceRef] = Field(default_factory=_any)
    action: Action
    enabled: bool = True
    log: bool = False


class Nat(Part):
    """One translation: of the source, of the destination, or of both."""

    name: Name
    from_: list[ZoneTerm] = Field(alias="from", default_factory=_any)
    to: list[ZoneTerm] = Field(default_factory=_any)
    sources: list[AddressRef] = Field(default_factory=_any)
    destinations: list[AddressRef] = Field(default_factory=_any)
    services: list[ServiceRef] = Field(default_factory=_any)
    source_to: Literal["interface"] | SpanText | None = None
    one_to_one: bool = False
    destination_to: SpanText | None = None
    service_to: Annotated[ServiceTerm, Ref("services", "owner")] | None = None
    enabled: bool = True
