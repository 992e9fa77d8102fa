"""Units that refuse each other: of unlike traits, not joined by heartbeats, or not in the same segments (docs/semantics.md, "Failover pairs")."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design import Design
from anabasis.design.devices import Firewall
from anabasis.fabric import ALL_WELL, LinkPort, Spot, link_ports, physical_ports
from anabasis.facts import Refusal
from anabasis.failover.heartbeat import heartbeats


def unlike_traits(device: Firewall) -> list[str]:
    """Return the traits in which the units of a pair differ; one that a unit says nothing of is not told apart."""
    known = dict.fromkeys(t for u in device.units for t in u.traits)
    return [t for t in known if len({u.traits[t] for u in device.units if t in u.traits}) > 1]


def refusals(design: Design, device: Firewall) -> list[Refusal]:
    """Return why the units of a pair refuse each other, as it is cabled and with nothing failed; empty where they do not."""
    physical = physical_ports(design, ALL_WELL)
    out = [Refusal("traits-unlike", tuple(unlike))] if (unlike := unlike_traits(device)) else []
    found = heartbeats(device, physical)
    if all(h.leads == "nowhere" for h in found):
        out.append(Refusal("no-heartbeat"))
    astray = [h.port for h in found if h.leads == "elsewhere"]
    if astray:
        out.append(Refusal("heartbeat-astray", tuple(astray)))
    apart = [one.settings.name for one, _ in elsewhere(device, link_ports(design, ALL_WELL, physical))]
    if apart:
        out.append(Refusal("ports-apart", tuple(apart)))
    return out


def elsewhere(device: Firewall, ports: dict[Spot, LinkPort]) -> Iterator[tuple[LinkPort, LinkPort]]:
    """Yield the ports and bundles that are cabled on both units, each into other VLANs: the first unit's, and the other's."""
    one, two = (u.name for u in device.units)
    beats = device.failover.heartbeats if device.failover else []
    for here in [p for p in ports.values() if p.box == one and p.settings.name not in beats]:
        there = ports[two, here.settings.name]
        if here.peer and there.peer and _vlans(ports[here.peer]) != _vlans(ports[there.peer]):
            yield here, there


def _vlans(port: LinkPort) -> object:
    """Return what a far end puts a cable into: VLANs of a bridged port, else only its mode."""
    return (port.settings.member_of, port.settings.pvid) if port.bridges and port.settings.member_of else port.mode
