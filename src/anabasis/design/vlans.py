"""The site-wide VLAN plan, and named sets of addresses and services."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from anabasis.design.base import AddressTerm, Name, Part, PrefixText, ServiceTerm, VlanId

Purpose = Literal["inside", "visitors", "switched", "transit"]


class Vlan(Part):
    """One VLAN of the plan. No subnets = switched only, on purpose."""

    id: VlanId
    name: Name
    subnets: list[PrefixText] = Field(default_factory=list)
    purpose: Purpose | None = Field(
        default=None, description="What it is for; visitors are kept from all that is inside."
    )


class AddressSet(Part):
    """A named set of addresses; members may name other sets."""

    name: Name
    members: list[AddressTerm]


class ServiceSet(Part):
    """A named set of services; members may name other sets or IANA services."""

    name: Name
    members: list[ServiceTerm]
