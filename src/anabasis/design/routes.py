"""VRFs, static routes and leases (DHCP)."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from anabasis.design.base import (
    AddressRef,
    AddressText,
    AreaText,
    EnteredBy,
    InterfaceOf,
    Name,
    Part,
    PrefixText,
    Ref,
    RouterId,
    RouteTo,
    ServiceRef,
    SpanText,
    TargetText,
)
from anabasis.design.tenants import Vni


class Learned(Part):
    """How a route was learnt that is typed in: a protocol that is not computed here, or not by this design."""

    by: str = Field(min_length=1, max_length=80, description="ospf, or what else brought it.")
    type: Literal["intra-area", "inter-area", "external-1", "external-2"] | None = None


class Route(Part):
    """A static route; one of `via`, `via` with `interface`, `interface`, `vrf` or `discard`."""

    to: RouteTo = Field(description="A prefix, or an address set: one route for each of its members.")
    via: AddressText | None = None
    interface: InterfaceOf | None = None
    vrf: Annotated[Name, Ref("vrf", "owner")] | None = None
    discard: bool = False
    recursive: bool = Field(default=False, description="Its next hop may itself be reached by another static route.")
    preference: int | None = Field(default=None, ge=0, le=255, description="Left out = the device's for static routes.")
    metric: int = Field(default=0, ge=0, le=2**32 - 1)
    enabled: bool = True
    learned: Learned | None = Field(
        default=None, description="It is learnt, not static: with the trust its origin has."
    )
    sources: list[AddressRef] = Field(
        default_factory=list, description="Of packets from these alone: the route is tried before the table."
    )
    services: list[ServiceRef] = Field(
        default_factory=list, description="Of these services alone: the route is tried before the table."
    )
    entered: list[EnteredBy] = Field(
        default_factory=list,
        description="Of packets that came in by these interfaces alone: the route is tried before the table.",
    )

    @property
    def steers(self) -> bool:
        """Tell whether it is a policy route: it looks at more than the destination, and is tried before the table."""
        return bool(self.sources or self.services or self.entered)


class Preferences(Part):
    """How much a device trusts each origin of routes; lower wins, and connected wins on a tie."""

    connected: int = Field(default=0, ge=0, le=255)
    static: int = Field(default=10, ge=0, le=255)
    ospf: int = Field(default=30, ge=0, le=255)
    overlay: int = Field(default=40, ge=0, le=255)
    learned: int = Field(default=50, ge=0, le=255)


Seconds = Annotated[int, Field(ge=1, le=65_535)]


class OspfInterface(Part):
    """An interface that takes part in OSPF (RFC 2328 section 9; appendix C.3)."""

    interface: InterfaceOf
    area: AreaText = Field(default="0", description="A number, or four with dots; 0 is the backbone.")
    cost: int = Field(default=10, ge=1, le=65_535, description="Of leaving by this interface.")
    passive: bool = Field(default=False, description="Its subnet is announced, and nothing is said or heard there.")
    network: Literal["broadcast", "point-to-point"] = "broadcast"
    hello_s: Seconds = 10
    dead_s: Seconds = 40
    priority: int = Field(default=1, ge=0, le=255, description="0 = it never becomes the designated router.")
    auth: Literal["none", "own"] = Field(default="none", description="own = a secret that both sides share.")


class Redistribute(Part):
    """What a router brings into OSPF from elsewhere (RFC 2328 section 12.4.4)."""

    from_: Literal["connected", "static"] = Field(alias="from")
    metric: int = Field(default=20, ge=0, le=0xFFFFFF)
    type: Literal[1, 2] = Field(default=2, description="1 = the way there counts as well; 2 = the metric alone.")


class StubArea(Part):
    """An area into which no route from outside is told; its borders announce a default route instead (RFC 2328 section 3.6)."""

    area: AreaText
    default_cost: int = Field(default=1, ge=1, le=0xFFFFFF)


class Ospf(Part):
    """OSPF in one VRF (RFC 2328; RFC 5340 for IPv6)."""

    router_id: RouterId | None = Field(
        default=None, description="Left out = the highest IPv4 address of a loopback, else of any interface."
    )
    interfaces: list[OspfInterface] = Field(default_factory=list)
    redistribute: list[Redistribute] = Field(default_factory=list)
    announce_default: Literal["never", "when-known", "always"] = "never"
    stub: list[StubArea] = Field(default_factory=list)


class Vrf(Part):
    """One routing table of a device."""

    name: Name
    routes: list[Route] = Field(default_factory=list)
    ospf: Ospf | None = None
    rd: TargetText | None = Field(
        default=None, description="Its distinguisher on the overlay, unlike any other of the box."
    )
    import_: list[TargetText] = Field(
        default_factory=list,
        alias="import",
        description="It takes the routes that are told under one of these route targets.",
    )
    export: list[TargetText] = Field(default_factory=list)
    vni: Vni | None = Field(default=None, description="What packets for it carry on the overlay (RFC 9135 section 4).")
    advertise: Literal["connected"] | list[PrefixText] = Field(
        default_factory=list,
        description="Prefixes it tells the others (RFC 9136): a list, or those it is connected to.",
    )
    irb_mode: Literal["symmetric", "asymmetric"] | None = Field(
        default=None,
        description="symmetric = hosts are told one by one as well; left out = symmetric where it has a VNI.",
    )
    source: InterfaceOf | None = Field(
        default=None, description="The loopback its packets come from; left out = that of the MAC-VRFs of the box."
    )

    @property
    def on_overlay(self) -> bool:
        """Tell whether it tells or takes routes on the overlay."""
        return bool(self.import_ or self.export)


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
    probes: bool = Field(
        default=True,
        description="Whether it asks, before it offers an address, if somebody has it (RFC 2131 section 3.1).",
    )
    reservations: list[Reservation] = Field(default_factory=list)
    gateway: AddressText | None = None
    dns: list[AddressText] = Field(default_factory=list)
    ntp: list[AddressText] = Field(default_factory=list)
    boot_server: str | None = None
    boot_file: str | None = None
    options: dict[str, str] = Field(default_factory=dict)
    lease_s: int | None = Field(default=None, ge=60)
    servers: list[AddressText] = Field(default_factory=list)
