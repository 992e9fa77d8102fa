"""What a box listens to because tunnels end on it: their own packets, from whoever may be at the other end."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from anabasis.design import Design
from anabasis.design.devices import BridgingBox
from anabasis.design.notation import PROTOCOLS, Address, parse_address, parse_service
from anabasis.design.overlay import sides
from anabasis.policy.terms import Service
from anabasis.routing import L3Interface

IKE, IKE_BEHIND_NAT, ESP = (PROTOCOLS["udp"], 500), (PROTOCOLS["udp"], 4500), (PROTOCOLS["esp"], 0)
VXLAN = (PROTOCOLS["udp"], 4789)
"""RFC 7348 section 5."""
PPTP, GRE = (PROTOCOLS["tcp"], 1723), (PROTOCOLS["gre"], 0)


def outer_services(protocol: str, translated: bool) -> list[Service]:
    """Return what a tunnel sends outside, in order: of IPsec by UDP where a translation lies on the way (RFC 7296 section 2.23, RFC 3948)."""
    if protocol in ("ipsec", "l2tp-ipsec"):
        return [IKE, IKE_BEHIND_NAT if translated else ESP]
    if protocol == "pptp":  # RFC 2637 section 1.4
        return [PPTP, GRE]
    if protocol == "gre":
        return [GRE]
    number, low, _ = parse_service(protocol)
    return [(number, low)]


@dataclass(frozen=True)
class Listener:
    """What one tunnel, or one way to dial in, is spoken to by."""

    local: str
    """An own address of the box, or the name of the interface whose addresses it is."""
    services: frozenset[Service]
    peer: Address | None
    """None = anybody."""

    def hears(self, own: L3Interface, destination: Address, source: Address, service: Service) -> bool:
        """Tell whether a packet to an address of an interface is for it."""
        here = self.local in (own.name, str(destination))
        return here and service in self.services and self.peer in (None, source)


def listeners(design: Design) -> dict[str, list[Listener]]:
    """Return by box what it listens to."""
    out: dict[str, list[Listener]] = {}
    for device in design.devices:
        if isinstance(device, BridgingBox) and (device.tunnels or device.remote_access):
            out[device.name] = list(_of(device))
    for side in sides(design):
        out.setdefault(side.device, []).append(Listener(side.source, frozenset((VXLAN,)), None))
    return out


def _of(device: BridgingBox) -> Iterator[Listener]:
    for tunnel in (t for t in device.tunnels if t.enabled):
        peer = None if tunnel.peer == "any" else parse_address(tunnel.peer)
        yield Listener(tunnel.local, _every(tunnel.protocol), peer)
    for access in (a for a in device.remote_access if a.enabled):
        yield Listener(access.interface, _every(access.protocol), None)


def _every(protocol: str) -> frozenset[Service]:
    return frozenset(s for translated in (False, True) for s in outer_services(protocol, translated))
