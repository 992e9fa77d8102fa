"""The kinds of device: switch, router, firewall, hub, access point, endpoint, outside."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import AliasChoices, BeforeValidator, Field, model_validator

from anabasis.design.base import (
    MOST,
    MOST_PORTS,
    AddressText,
    BoxName,
    HardwareText,
    InterfaceText,
    Part,
    PrefixText,
    VlanRef,
)
from anabasis.design.filters import Filter
from anabasis.design.pairs import Failover, Unit
from anabasis.design.ports import Lag, Loopback, Port, Ssid, VlanInterface, Wire
from anabasis.design.routes import Dhcp, Preferences, Route, Vrf
from anabasis.design.rules import InterfaceNat, Nat, Rule
from anabasis.design.tenants import MacVrf
from anabasis.design.tunnels import Offer, RemoteAccess, Tunnel
from anabasis.design.zones import Answers, Zone


class Box(Part):
    """What every device has."""

    name: BoxName
    ports: list[Port] = Field(default_factory=list, max_length=MOST_PORTS)


class Limits(Part):
    """What a device can hold."""

    vlans: int | None = Field(default=None, ge=1, le=4094, description="How many VLANs its table may have.")
    networks: int | None = Field(
        default=None, ge=0, description="How many routed VLANs: VLAN interfaces and subinterfaces."
    )
    loopbacks: int | None = Field(default=None, ge=0)
    zones: int | None = Field(default=None, ge=0)
    routes: int | None = Field(default=None, ge=0, description="How many static routes, in all VRFs.")
    rules: int | None = Field(default=None, ge=0)
    always_untagged: VlanRef | None = Field(default=None, description="A VLAN that no port can be taken out of.")
    one_untagged: bool = Field(default=False, description="A port can be untagged in one VLAN only.")
    dedicated_is_no_trunk: bool = Field(
        default=False, description="A port with subinterfaces has no address of its own."
    )


def _across(value: object) -> object:
    """Older documents say true or false."""
    return {True: "rules", False: "never"}.get(value, value) if isinstance(value, bool) else value


class BridgingBox(Box):
    """A device that may bridge and route."""

    running: Literal["edited", "active", "saved", "unknown"] | None = Field(
        default=None,
        description="What the box itself has of this: an edit not in force yet, in force, saved over a restart as well, or nobody knows.",
    )

    @model_validator(mode="before")
    @classmethod
    def _one_word(cls, said: Any) -> Any:
        """Older documents say `autostate`; both words at once could contradict each other."""
        if isinstance(said, dict) and {"autostate", "follows_ports"} <= said.keys():
            raise ValueError("autostate is an older word for follows_ports; keep follows_ports")
        return said

    limits: Limits | None = None

    vlans: list[VlanRef] | None = Field(default=None, description="Its VLAN table; left out = every VLAN of the plan.")
    default_vlan: VlanRef | None = Field(
        default=None,
        description="What a bridged port that says nothing of VLANs carries untagged, with that PVID; left out = nothing.",
    )
    new_vlan: Literal["nowhere", "tagged_everywhere"] = Field(
        default="nowhere",
        description="What a VLAN that is added does to the other ports of the box: nothing, or it is tagged on all of them.",
    )
    lags: list[Lag] = Field(default_factory=list, max_length=MOST_PORTS)
    vlan_interfaces: list[VlanInterface] = Field(default_factory=list, max_length=MOST_PORTS)
    loopbacks: list[Loopback] = Field(default_factory=list)
    vrfs: list[Vrf] = Field(default_factory=list)
    preferences: Preferences = Field(default_factory=Preferences)
    dhcp: list[Dhcp] = Field(default_factory=list)
    follows_ports: bool = Field(
        default=True,
        validation_alias=AliasChoices("follows_ports", "autostate"),
        description="Whether a VLAN interface is up only while some port that carries its VLAN is.",
    )
    answers: list[Answers] = Field(
        default_factory=list,
        description="Lists of services the box itself answers. An interface without one answers nothing on a firewall, and everything on any other box.",
    )
    filters: list[Filter] = Field(default_factory=list, description="Stateless filters; interfaces name them.")
    tunnels: list[Tunnel] = Field(default_factory=list, max_length=MOST_PORTS)
    remote_access: list[RemoteAccess] = Field(default_factory=list)
    answers_across: Annotated[Literal["rules", "always", "never"], BeforeValidator(_across)] = Field(
        default="rules",
        description="Whether it answers on the address of another own interface: where rules permit it, always, or not at all.",
    )


class RoutingBox(BridgingBox):
    """A router, or a switch that may be one: it has no zones, but may translate, and be closed between its networks."""

    nat: list[InterfaceNat] = Field(default_factory=list, max_length=MOST)
    between_networks: Literal["open", "closed"] = Field(
        default="open",
        description="closed = it routes between two of its interfaces only where both say `routed_to_others`.",
    )


class Switch(RoutingBox):
    """Bridges; with `routing: true` a multilayer switch."""

    kind: Literal["switch"]
    routing: bool = False
    spanning_tree: bool = True
    stp_priority: int = Field(default=32768, ge=0, le=61440)
    mac_vrfs: list[MacVrf] = Field(
        default_factory=list, description="Tenants' VLANs that leave it by the overlay as well."
    )


class Router(RoutingBox):
    """Routes, and has no zones and rules."""

    kind: Literal["router"]


class Firewall(BridgingBox):
    """Routes, bridges and filters."""

    kind: Literal["firewall"]
    units: list[Unit] = Field(default_factory=list, max_length=2)
    failover: Failover | None = None
    zones: list[Zone] = Field(default_factory=list)
    wires: list[Wire] = Field(default_factory=list)
    rules: list[Rule] = Field(default_factory=list, max_length=MOST)
    nat: list[Nat] = Field(default_factory=list, max_length=MOST)
    same_zone: Literal["permit", "drop"] = "permit"
    between_zones: Literal["permit", "drop"] = "drop"


class Hub(Box):
    """Repeats every frame out of every other port; has no settings."""

    kind: Literal["hub"]


class AccessPoint(Box):
    """Bridges between cables and wireless networks; its ports are like a switch's."""

    kind: Literal["access-point"]
    ssids: list[Ssid] = Field(default_factory=list, max_length=MOST_PORTS)


class Endpoint(Box):
    """One host."""

    kind: Literal["endpoint"]
    addresses: list[InterfaceText] = Field(default_factory=list)
    dhcp: bool = False
    gateway: AddressText | list[AddressText] | Literal["none"] | None = Field(
        default=None, description="Its own setting, one a family; none = it has no gateway; left out = what it learns."
    )
    hardware: HardwareText | None = Field(default=None, description="Its hardware address; reservations match it.")
    dns: list[AddressText] = Field(
        default_factory=list, description="The name servers it was told of by hand; a lease tells it of others."
    )


class Outside(Box):
    """A network someone else runs; everything behind it is one segment."""

    kind: Literal["outside"]
    prefixes: list[PrefixText]
    accepts_private: bool = False
    offers: list[Offer] = Field(
        default_factory=list, max_length=64, description="Tunnels it takes: those whose peer is one of its addresses."
    )
    routes: list[Route] = Field(default_factory=list)
    vrfs: list[Vrf] = Field(default_factory=list)


Device = Annotated[Switch | Router | Firewall | Hub | AccessPoint | Endpoint | Outside, Field(discriminator="kind")]
KINDS = ("switch", "router", "firewall", "hub", "access-point", "endpoint", "outside")
DEFAULT_MODE = {
    "switch": "bridged",
    "hub": "bridged",
    "access-point": "bridged",
    "firewall": "off",
    "router": "routed",
    "endpoint": "routed",
    "outside": "routed",
}
