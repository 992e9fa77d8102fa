"""Ports, bundles (LAGs), subinterfaces, VLAN interfaces, loopbacks and inline wires."""

from __future__ import annotations

from functools import cached_property
from typing import Annotated, Literal

from pydantic import BeforeValidator, Field

from anabasis.design.base import (
    AddressText,
    AnswersRef,
    FilterRef,
    InterfaceText,
    LagRef,
    Name,
    Part,
    PortOf,
    VlanOf,
    VlanRef,
    VrfRef,
    ZoneRef,
)

Mode = Literal["bridged", "routed", "inline", "heartbeat", "lag", "off"]
Accept = Literal["all", "tagged", "untagged"]
Protocol = Literal["static", "lacp-active", "lacp-passive"]


def _numbered(value: object) -> object:
    """JSON writes the keys of `translate` as strings; read them as numbers."""
    if isinstance(value, dict):
        return {int(k) if isinstance(k, str) and k.isascii() and k.isdigit() else k: v for k, v in value.items()}
    return value


class RedundantGateway(Part):
    """A redundant gateway (VRRP, RFC 9568): its addresses are answered by the interface elected among those of one number on one link."""

    id: int = Field(ge=1, le=255, description="VRID, RFC 9568 section 5.2.3.")
    addresses: list[AddressText]
    priority: int = Field(default=100, ge=1, le=254, description="Higher wins; the owner of the addresses has 255.")
    accept_mode: bool = Field(
        default=False, description="The elected one answers pings to them even where it owns none."
    )


class Layer3(Part):
    """What any layer-3 interface may carry."""

    addresses: list[InterfaceText] = Field(default_factory=list)
    vrf: VrfRef | None = Field(default=None, description="Left out = main.")
    zone: ZoneRef | None = None
    answers: AnswersRef | None = Field(default=None, description="Which services the box itself answers here.")
    filter_in: FilterRef | None = Field(
        default=None, description="The stateless filter that packets pass that come in here."
    )
    filter_out: FilterRef | None = Field(
        default=None, description="The stateless filter that packets pass that leave here."
    )
    vrrp: list[RedundantGateway] = Field(default_factory=list)
    announce: bool = Field(
        default=True,
        description="Whether a box that routes announces its IPv6 /64 prefixes here, and itself as the gateway (RFC 4861 section 6.2).",
    )
    routed_to_others: bool = Field(
        default=False, description="On a box closed between its networks: routed to the other interfaces that say so."
    )
    group: Literal[1, 2] = Field(
        default=1, description="In a pair that shares its gateways: which of the two groups this one goes with."
    )


class Subinterface(Layer3):
    """One 802.1Q tag of a routed port (L3), or the zone of one VLAN on a bridged port of a firewall (L2)."""

    tag: VlanOf
    enabled: bool = True


class VlanInterface(Layer3):
    """The layer-3 interface of a bridged VLAN."""

    vlan: VlanOf
    enabled: bool = True
    management: bool = Field(default=False, description="An address for the box itself; nobody's gateway.")


class Loopback(Layer3):
    """An interface that is always up."""

    name: Name


class Membership(Layer3):
    """What ports and bundles share: VLAN membership (IEEE 802.1Q clause 8.8), or a layer-3 side."""

    name: Name
    mode: Mode | None = Field(
        default=None, description="Left out = bridged on switches and hubs, off on firewalls, routed elsewhere."
    )
    enabled: bool = True
    pvid: VlanRef | None = Field(default=None, description="VLAN of untagged frames on the way in; none = dropped.")
    untagged: list[VlanRef] = Field(default_factory=list)
    tagged: list[VlanRef] = Field(default_factory=list)
    accept: Accept | None = Field(default=None, description="Left out = untagged on an access port, else all.")
    ingress_check: bool = True
    isolated: bool = False
    translate: Annotated[dict[VlanRef, VlanRef], BeforeValidator(_numbered)] = Field(default_factory=dict)
    subinterfaces: list[Subinterface] = Field(default_factory=list)

    @cached_property
    def member_of(self) -> frozenset[int]:
        """Return the VLANs whose member set holds this port (clause 8.8.10)."""
        return frozenset(self.untagged) | frozenset(self.tagged)


class Port(Membership):
    """One port."""

    lag: LagRef | None = Field(default=None, description="The bundle this port is a member of (mode: lag).")
    speed_mbps: int | None = Field(default=None, ge=1, le=1_600_000)
    duplex: Literal["full", "half"] | None = Field(default=None, description="Left out = negotiated.")
    mtu: int | None = Field(default=None, ge=68, le=65_535, description="Left out = 1500 bytes.")
    tag_protocol: Literal["8100", "88a8"] | None = Field(
        default=None, description="The EtherType of its tags; left out = 8100 (IEEE 802.1Q-2022 table 9-1)."
    )


class VirtualPort(Port):
    """The port that stands for a tunnel, or for who dials in; no cable goes to it."""

    alone: bool = Field(default=False, description="Hosts dial in to it, and it has no other end.")
    beyond: list[str] = Field(default_factory=list, description="Of a tunnel to somebody else: the prefixes there.")


class OverlayPort(VirtualPort):
    """The port of a box towards another on an overlay: what came in by one leaves by none (split horizon, RFC 7432 section 8.3 and RFC 8365)."""


class TablePort(VirtualPort):
    """The port by which a VRF leads to one of another box on an overlay."""


class AirPort(Port):
    """The port that the bridge of an access point has for a wireless network, or for one client of it."""


class Ssid(Part):
    """A wireless network of an access point: whoever joins it stands, untagged, in its VLAN (IEEE 802.11-2020 section 4.3)."""

    name: Name
    vlan: VlanOf
    isolated: bool = Field(default=False, description="Its clients exchange no frames with each other.")
    security: Literal["open", "own"] = Field(default="own", description="open = anybody in range joins it.")

    def as_port(self, client: str | None = None) -> AirPort:
        """Return the port that the bridge of the access point has for it: one for who is not there yet, one for each client."""
        name = self.name if client is None else association(self.name, client)
        membership = {"pvid": self.vlan, "untagged": [self.vlan], "accept": "untagged", "isolated": self.isolated}
        return AirPort(name=name, note=self.note, **membership)  # type: ignore[arg-type]


def association(ssid: str, client: str) -> str:
    """Return what the port is called by which a client has joined an SSID (IEEE 802.11-2020 section 4.5.3: an association)."""
    return f"{ssid} to {client}"


class Lag(Membership):
    """A bundle of ports (IEEE 802.1AX)."""

    protocol: Protocol = "lacp-active"
    min_links: int = Field(default=1, ge=1, le=64)


class Wire(Part):
    """An inline pair (virtual wire): what enters one end leaves the other, if the policy lets it."""

    name: Name
    ends: Annotated[list[PortOf], Field(min_length=2, max_length=2)]
    tags: Literal["any"] | list[VlanRef | Literal["untagged"]] = "any"
    follow_link: bool = False
