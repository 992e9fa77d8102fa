"""Ordered rules and translations."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from anabasis.design.base import (
    AddressRef,
    InterfaceTerm,
    Name,
    Part,
    Ref,
    ServiceRef,
    ServiceTerm,
    SpanText,
    ZoneTerm,
)
from anabasis.design.schedules import Schedule

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
    when: Schedule | None = Field(default=None, description="Its hours; left out = at any time.")
    log: bool = False

    @property
    def stands(self) -> bool:
        """Tell whether it is in force at some time: one that permits by the hour is, one that drops by the hour is out of its way then."""
        return self.enabled and (self.when is None or self.action == "permit")


class Translating(Part):
    """What all translations share: of the source, of the destination, or of both."""

    name: Name
    from_: list[str] = Field(alias="from", default_factory=_any)
    to: list[str] = Field(default_factory=_any)
    sources: list[AddressRef] = Field(default_factory=_any)
    destinations: list[AddressRef] = Field(default_factory=_any)
    services: list[ServiceRef] = Field(default_factory=_any)
    source_to: Literal["interface"] | SpanText | None = None
    one_to_one: bool = False
    destination_to: SpanText | None = None
    service_to: Annotated[ServiceTerm, Ref("services", "owner")] | None = None
    enabled: bool = True


class Nat(Translating):
    """One translation of a firewall: of the source, of the destination, or of both."""

    from_: list[ZoneTerm] = Field(alias="from", default_factory=_any, description="Ingress zones, or any.")
    to: list[ZoneTerm] = Field(default_factory=_any, description="Egress zones, or any.")


class InterfaceNat(Translating):
    """One translation of a box without zones: between interfaces."""

    from_: list[InterfaceTerm] = Field(alias="from", default_factory=_any, description="Ingress interfaces, or any.")
    to: list[InterfaceTerm] = Field(default_factory=_any, description="Egress interfaces, or any.")
