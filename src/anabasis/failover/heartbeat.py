"""Heartbeats: the lines by which the units of a pair hear each other, and where they lead (docs/semantics.md, "Failover pairs")."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.design.devices import Firewall
from anabasis.fabric import PhysicalPort, Spot


@dataclass(frozen=True)
class Heartbeat:
    """One heartbeat port, as cabled from the first unit."""

    port: str
    leads: str
    """`peer` (straight to the same port or another heartbeat of the peer), `switch`, `elsewhere` or `nowhere`."""
    up: bool
    reason: str


def heartbeats(device: Firewall, physical: dict[Spot, PhysicalPort]) -> list[Heartbeat]:
    """Return the heartbeats of a pair, seen from its first unit."""
    one, two = (u.name for u in device.units)
    out: list[Heartbeat] = []
    for name in device.failover.heartbeats if device.failover else ():
        port = physical.get((one, name))
        far = port.far if port else None
        if far is None:
            leads = "nowhere"
        elif far[0] == two:
            leads = "peer" if device.failover and far[1] in device.failover.heartbeats else "elsewhere"
        else:
            bridged = physical[far].mode == "bridged" if far in physical else False
            leads = "switch" if bridged and _behind(physical, far, two, device) else "elsewhere"
        up = port is not None and port.up and leads in ("peer", "switch")
        out.append(Heartbeat(name, leads, up, "" if up or port is None else port.reason))
    return out


def _behind(physical: dict[Spot, PhysicalPort], far: Spot, peer: str, device: Firewall) -> bool:
    """Tell whether the box at the far end leads on to a heartbeat of the peer."""
    beats = device.failover.heartbeats if device.failover else []
    return any(
        p.box == far[0] and p.far is not None and p.far[0] == peer and p.far[1] in beats for p in physical.values()
    )
