"""What may fail: units, devices, cables and ports, folded where two failures come to the same at the wall."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.design import Design
from anabasis.design.devices import Endpoint
from anabasis.design.notation import parse_end
from anabasis.design.references import unit_names
from anabasis.fabric import Conditions, Fabric, PhysicalPort, Spot, cable_name, physical_ports


@dataclass(frozen=True)
class Part:
    """One thing that may fail, and what else would come to the same."""

    name: str
    kind: str
    """`unit`, `device`, `cable` or `port`."""
    alike: tuple[str, ...]


def breakable(design: Design) -> list[Part]:
    """Return every part that may fail, in document order; ports that are cabled stand with their cable, endpoints likewise."""
    names: list[tuple[str, str]] = []
    for device in design.devices:
        boxes = unit_names(device)
        names += [
            (box, "unit" if box != device.name else "device") for box in boxes if not isinstance(device, Endpoint)
        ]
    cabled = [(parse_end(a), parse_end(b)) for a, b in design.cables]
    names += [(cable_name(ends), "cable") for ends in cabled]
    names += [(f"{box}:{port}", "port") for ends in cabled for box, port in ends]
    names += [(d.name, "device") for d in design.devices if isinstance(d, Endpoint)]
    well = physical_ports(design, Conditions())
    dead = {name: _down(design, name, well) for name, _ in names}
    found: dict[frozenset[object], list[tuple[str, str]]] = {}
    for name, kind in names:
        key = dead[name] | ({name} if kind != "port" and kind != "cable" and len(dead[name]) > 2 else set())
        found.setdefault(key, []).append((name, kind))
    return [Part(*group[0], tuple(n for n, _ in group[1:])) for group in found.values()]


def _down(design: Design, name: str, well: dict[Spot, PhysicalPort]) -> frozenset[object]:
    """Return the ports that a failure takes down."""
    ill = physical_ports(design, Conditions(frozenset({name})))
    return frozenset(spot for spot, port in well.items() if port.up and not ill[spot].up)


def state_key(fabric: Fabric, conditions: Conditions) -> frozenset[object]:
    """Return what frames see of a state: two states with one key carry the same.

    The ports that are up and forward, those that the spanning tree blocks, and its loops; a port that leads to one that does not
    forward is left out where nothing on its box is held up by it. How many members of a bundle work moves the spanning tree and nothing else.
    """
    design, ports = fabric.design, fabric.ports
    holding = {d.name for d in design.devices if getattr(d, "vlan_interfaces", [])}
    out: set[object] = set(conditions.active)
    for spot, port in ports.items():
        if not port.up or not port.forwarding:
            continue
        peer = ports.get(port.peer) if port.peer else None
        if peer is not None and not peer.forwarding and port.device not in holding:
            continue
        out.add(spot)
    return (
        frozenset(out)
        | {("blocks", s) for s in fabric.tree.blocked}
        | {("loop", x) for x in fabric.tree.loops}
        | {("dead", f) for f in conditions.failed if "--" not in f and ":" not in f and _stands_alone(design, f)}
    )


def _stands_alone(design: Design, name: str) -> bool:
    """Tell whether a device that fails takes more with it than its ports: loopbacks, or an address of its own."""
    device = next((d for d in design.devices if d.name == name), None)
    return device is not None and (bool(getattr(device, "loopbacks", [])) or isinstance(device, Endpoint))
