"""VRFs, static routes and leases (DHCP)."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from anabasis.design.base import AddressText, InterfaceOf, Name, Part, PrefixText, Ref, SpanText


class Route(Part):
    """A static route; one of `via`, `via` with `interface`, `interface`, `vrf` or `discard`."""

    to: PrefixText
    via: AddressText | None = None
    interface: InterfaceOf | None = None
    vrf: Annotated[Name, Ref("vrf", "owner")] | None = None
    discard: bool = False
    recursive: bool = Field(default=False, description="Its next hop may itself be reached by another static route.")
    preference: int | None = Field(default=None, ge=0, le=255, description="Left out = the device's for static routes.")
    metric: int = Field(default=0, ge=0, le=2**32 - 1)
    enabled: bool = True


class Preferences(Part):
    """How much a device trusts each origin of routes; lower wins, and connected wins on a tie."""

    connected: int = Field(default=0, ge=0, le=255)
    static: int = Field(default=10, ge=0, le=255)
    ospf: int = Field(default=30, ge=0, le=255)
    learned: int = Field(default=50, ge=0, le=255)


class Vrf(Part):
    """One routing table of a device."""

    name: Name
    routes: list[Route] = Field(default_factory=list)


class Reservation(Part):
    """An address kept for one host."""

    name: Name
    address: AddressText
    hardware: str | None = None


class Dhcp(Part):
    """A DHCP server or relay on an interface (RFC 2131)."""

    interface: InterfaceOf
    mode: Literal["server", "relay", "yield", "off"] = "server"
    ranges: list[SpanText] = Field(default_factory=list)
    exclude: list[SpanText] = Field(default_factory=list)
    reservations: list[Reservation] = Field(default_factory=list)
    gateway: AddressText | None = None
    dns: list[AddressText] = Field(default_factory=list)
    ntp: list[AddressText] = Field(default_factory=list)
    boot_server: str | None = None
    boot_file: str | None = None
    options: dict[str, str] = Field(default_factory=dict)
    lease_s: int | None = Field(default=None, ge=60)
    servers: list[AddressText] = Field(default_factory=list)
