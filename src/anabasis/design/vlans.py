"""The site-wide VLAN plan, and named sets of addresses and services."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, Field

from anabasis.design.base import AddressRef, Name, Part, PrefixText, ServiceRef, VlanId
from anabasis.design.notation import looks_like_address

Purpose = Literal["inside", "visitors", "switched", "transit", "management", "voice"]


class Vlan(Part):
    """One VLAN of the plan. No subnets = switched only, on purpose."""

    id: VlanId
    name: Name
    subnets: list[PrefixText] = Field(default_factory=list)
    purpose: Purpose | None = Field(
        default=None, description="What it is for; visitors are kept from all that is inside."
    )
    local: bool = Field(default=False, description="A number that each switched island uses for itself.")
    leases: Literal["none"] | None = Field(
        default=None, description="none = its hosts have addresses of their own, on purpose."
    )


def _no_address(text: str) -> str:
    if looks_like_address(text):
        raise ValueError("a name that does not begin as an address does")
    return text


def _no_service(text: str) -> str:
    if "/" in text:
        raise ValueError("a name without '/', which stands between a protocol and a port")
    return text


class AddressSet(Part):
    """A named set of addresses; members may name other sets."""

    name: Annotated[Name, AfterValidator(_no_address)]
    members: list[AddressRef]


class ServiceSet(Part):
    """A named set of services; members may name other sets or IANA services."""

    name: Annotated[Name, AfterValidator(_no_service)]
    members: list[ServiceRef]
