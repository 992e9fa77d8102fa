"""Tunnels: cables of layer 3, from one box to another or to hosts that dial in."""

from __future__ import annotations

from ipaddress import ip_interface, ip_network
from typing import Annotated, Literal

from pydantic import AfterValidator, Field

from anabasis.design import notation
from anabasis.design.base import AddressText, InterfaceOf, Name, Part, PrefixText, Ref, VrfRef, ZoneRef
from anabasis.design.ports import Layer3, VirtualPort

KNOWN_PROTOCOLS = ("ipsec", "gre", "l2tp-ipsec", "pptp")
OVERHEAD = {"ipsec": 73, "gre": 24, "l2tp-ipsec": 89, "pptp": 41}
"""Bytes that a protocol adds to every packet over IPv4, at most (RFC 4303 section 2 with its padding and UDP, RFC 2784, RFC 2661, RFC 2637)."""


def _protocol(text: str) -> str:
    if text in KNOWN_PROTOCOLS:
        return text
    if "/" not in text:
        raise ValueError(f"not {', '.join(KNOWN_PROTOCOLS)}, or a transport and port such as udp/1194")
    notation.parse_service(text)
    return text


def _local(text: str) -> str:
    return text if notation.looks_like_address(text) and notation.parse_address(text) else notation.parse_name(text)


def _peer(text: str) -> str:
    if text != "any":
        notation.parse_address(text)
    return text


TunnelProtocol = Annotated[str, AfterValidator(_protocol)]
"""`ipsec`, `gre`, `l2tp-ipsec`, `pptp`, or one of one's own: transport and port."""
Secret = Literal["own", "default"]


class Tunnel(Layer3):
    """One end of a tunnel: an interface like any other, and where its packets go outside."""

    name: Name
    protocol: TunnelProtocol = "ipsec"
    local: Annotated[str, AfterValidator(_local), Ref("interface", "owner", known=False)] = Field(
        description="An own address, or the interface whose address it is."
    )
    peer: Annotated[str, AfterValidator(_peer)] = Field(
        description="The other end's address as seen from here, or any: then it only answers."
    )
    secret: Secret = Field(default="own", description="own = a secret that both ends share; never the secret itself.")
    here: list[PrefixText] = Field(default_factory=list, description="What may be sent from here; left out = anything.")
    there: list[PrefixText] = Field(default_factory=list, description="What may be sent to; left out = anything.")
    mtu: int | None = Field(default=None, ge=68, le=65_535, description="Left out = what the protocol leaves of 1500.")
    enabled: bool = True

    def as_port(self) -> VirtualPort:
        """Return the port that stands for it, where layer 3 is concerned."""
        shared = {k: getattr(self, k) for k in Layer3.model_fields if k in self.model_fields_set and k != "note"}
        return VirtualPort.model_validate({**shared, "name": self.name, "mode": "routed", "enabled": self.enabled})


class Offer(Part):
    """A tunnel that somebody else's network takes, and what lies behind it there: a box of the site is its client."""

    name: Name
    protocol: TunnelProtocol = "ipsec"
    prefixes: list[PrefixText] = Field(min_length=1, max_length=64, description="What the tunnel leads to.")


class RemoteAccess(Part):
    """Where hosts dial in: they get an address of the pool and stand in a segment of their own, whatever network they are in."""

    name: Name
    protocol: TunnelProtocol = "ipsec"
    interface: InterfaceOf = Field(description="Where it listens.")
    pool: PrefixText
    zone: ZoneRef | None = None
    vrf: VrfRef | None = Field(default=None, description="Left out = main.")
    routes: Literal["all"] | list[PrefixText] = Field(
        default="all", description="What they send into the tunnel; the rest goes out where they are."
    )
    dns: list[AddressText] = Field(default_factory=list)
    secret: Secret = "own"
    enabled: bool = True

    @property
    def address(self) -> str:
        """Return the address of the box in the pool, by which it is the gateway of those who dial in: the first."""
        net = ip_network(self.pool)
        return str(ip_interface((int(net.network_address) + (net.prefixlen < net.max_prefixlen - 1), net.prefixlen)))

    def as_port(self) -> VirtualPort:
        """Return the port that stands for it, where layer 3 is concerned."""
        said = {"addresses": [self.address], "zone": self.zone, "vrf": self.vrf}
        return VirtualPort.model_validate(
            {**said, "alone": True, "name": self.name, "mode": "routed", "enabled": self.enabled}
        )
