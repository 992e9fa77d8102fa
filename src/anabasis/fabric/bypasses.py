"""Ways around a filtering point: frames that leave one side of an inline pair or a transparent boundary and come to its other side unfiltered."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from anabasis.fabric.bundles import LinkPort
from anabasis.fabric.flow import Attachment, Fabric, Wire, crossing_between, wire_carries
from anabasis.fabric.frames import UNTAGGED, egress, member_vlans


@dataclass(frozen=True)
class Bypass:
    """One way around."""

    device: str
    left: str
    """The port frames leave by, `box:port`."""
    entered: str
    """The port at which they come back, on the other side of the filter."""
    pointers: tuple[str, ...]


def bypasses(fabric: Fabric) -> list[Bypass]:
    """Return every pair of sides that a cable path joins around their filter, once. Cost: ports of firewalls x steps of a frame."""
    found: dict[frozenset[str], Bypass] = {}
    for port, form, vlan in _outgoing(fabric):
        for spot, _ in _unfiltered(fabric, port, form):
            other = fabric.ports[spot]
            if other.device == port.device and _divided(fabric, port, other, form, vlan):
                found.setdefault(
                    frozenset((port.label, other.label)),
                    Bypass(port.device, port.label, other.label, (port.pointer, other.pointer)),
                )
    return list(found.values())


def _outgoing(fabric: Fabric) -> Iterator[tuple[LinkPort, int, int | None]]:
    """Yield (port, form, VLAN) for every frame a firewall may send at layer 2."""
    for port in fabric.ports.values():
        if port.kind != "firewall" or not port.forwarding or not port.up:
            continue
        if port.spot in fabric.inline_pairs:
            forms = {UNTAGGED, *(v.id for v in fabric.design.vlans)}
            yield from ((port, f, None) for f in sorted(forms) if wire_carries(fabric.inline_pairs[port.spot][1], f))
        elif port.bridges:
            for vlan in sorted(member_vlans(port.settings)):
                form = egress(port.settings, vlan)
                if form is not None:
                    yield port, form, vlan


def _divided(fabric: Fabric, port: LinkPort, other: LinkPort, form: int, vlan: int | None) -> bool:
    if port.spot in fabric.inline_pairs:
        return fabric.inline_pairs[port.spot][0] is other
    if vlan is None or not other.bridges or other is port:
        return False
    back, _ = fabric.classify((other.spot, form))
    return back == vlan and crossing_between(fabric.devices[port.box], port, other, vlan) is not None


def _unfiltered(fabric: Fabric, port: LinkPort, form: int) -> set[Wire]:
    """Return the wire states a frame that leaves a port gets to without crossing any filter."""
    seen: set[Wire] = set()
    todo = [step for step in fabric.leave(port, form) if not isinstance(step, Attachment)]
    while todo:
        node = todo.pop()
        if node not in seen:
            seen.add(node)
            todo += [s for s, crossing in fabric.next(node) if crossing is None and not isinstance(s, Attachment)]
    return seen
