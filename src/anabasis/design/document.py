"""The design document as a whole."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from anabasis.design.base import MOST, AddressTerm, EndText, Name, Part, Ref, ServiceRef
from anabasis.design.devices import Device
from anabasis.design.vlans import AddressSet, ServiceSet, Vlan

FORMAT = 1
MOST_VLANS = 4094
MOST_DEVICES = 5_000


OperatorEnd = Annotated[Name | AddressTerm, Ref("end", known=False)]
"""As an end of an expectation; a design goes on without it."""
ExpectationEnd = Annotated[Name | AddressTerm, Ref("end", "owner", known=False)]
"""A segment, zone, address set, prefix or outside."""
CableEnd = Annotated[EndText, Ref("cable-end", "owner")]


class Expectation(Part):
    """What must be open, or must stay closed."""

    name: Name
    from_: ExpectationEnd = Field(alias="from", description="A segment, zone, address set, prefix or outside.")
    to: ExpectationEnd
    services: list[ServiceRef] = Field(default_factory=lambda: ["any"])
    expect: Literal["open", "closed", "only"] = Field(description="only = these services open, all others closed.")
    through: Annotated[Name, Ref("device", "owner", known=False)] | None = None


class Design(Part):
    """One design. Everything else is derived from it and never stored inside it."""

    anabasis: Literal[1] = Field(description="Version of this format.")
    name: Name
    vlans: list[Vlan] = Field(default_factory=list, max_length=MOST_VLANS)
    addresses: list[AddressSet] = Field(default_factory=list, max_length=MOST)
    services: list[ServiceSet] = Field(default_factory=list, max_length=MOST)
    devices: list[Device] = Field(default_factory=list, max_length=MOST_DEVICES)
    cables: list[Annotated[list[CableEnd], Field(min_length=2, max_length=2)]] = Field(
        default_factory=list, max_length=MOST
    )
    operator: OperatorEnd | None = Field(
        default=None, description="Where whoever runs the boxes sits: a segment, zone, address set, prefix or endpoint."
    )
    expectations: list[Expectation] = Field(default_factory=list, max_length=MOST)
