"""The directed flow of frames through the whole site.

A **tap** is a place where a host or a layer-3 interface stands: a form on an edge port, a routed port, a subinterface, a VLAN
interface, an endpoint. A **wire state** is a frame in some form about to enter a port. Frames go from tap to wire state to
wire state to tap; each step obeys IEEE 802.1Q at that port, "never back out of the ingress port", and `isolated`. Nothing is assumed
symmetric.
"""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property

from anabasis.design.devices import BridgingBox, Device
from anabasis.design.document import Design
from anabasis.design.notation import pointer
from anabasis.design.ports import Lag, Layer3
from anabasis.design.references import unit_names
from anabasis.fabric.bundles import LinkPort, link_ports
from anabasis.fabric.conditions import ALL_WELL, Conditions, forwarding_units
from anabasis.fabric.frames import UNTAGGED, edge_forms, egress, ingress, member_vlans
from anabasis.fabric.links import Spot


@dataclass(frozen=True, eq=False)
class Tap:
    """A place where a host or a layer-3 interface stands. Each is one object in its fabric; compared by identity."""

    index: int
    kind: str
    """`edge` for a switch port a host may use, `interface` for a layer-3 interface, `endpoint`, `outside`."""
    box: str
    device: str
    name: str
    """Interface or port name: `1`, `trunk.110`, `vlan110`."""
    port: str | None
    """The port or bundle it uses; None for a VLAN interface."""
    form: int
    """Form of its frames on the wire; for a VLAN interface, the VLAN."""
    pointer: str
    settings: Layer3 | None

    @property
    def label(self) -> str:
        """Return `box:name`."""
        return f"{self.box}:{self.name}"


Wire = tuple[Spot, int]
"""A wire state: (the port the frame is about to enter, its form)."""


@dataclass(frozen=True)
class Fabric:
    """Layer 1 and 2 of a site under given conditions."""

    design: Design
    ports: dict[Spot, LinkPort]
    taps: tuple[Tap, ...]
    tables: dict[str, frozenset[int] | None]
    """VLAN table by box; None for a hub, which has none."""
    devices: dict[str, Device] = field(repr=False)
    """Device by box."""
    at_port: dict[tuple[Spot, int], Tap] = field(repr=False)
    at_vlan: dict[tuple[str, int], Tap] = field(repr=False)

    @cached_property
    def members(self) -> dict[tuple[str, int], list[tuple[LinkPort, int]]]:
        """Return (box, VLAN) -> its member ports that may send now, each with the form it sends."""
        out: dict[tuple[str, int], list[tuple[LinkPort, int]]] = defaultdict(list)
        for port in self.ports.values():
            if (
                port.bridges
                and port.forwarding
                and self.tables[port.box] is not None
                and (port.up or is_edge(port, self))
            ):
                for vlan in member_vlans(port.settings):
                    form = egress(port.settings, vlan)
                    if form is not None and self.carries(port.box, vlan):
                        out[port.box, vlan].append((port, form))
        return out

    def carries(self, box: str, vlan: int) -> bool:
        """Tell whether a box has a VLAN in its table."""
        table = self.tables[box]
        return table is None or vlan in table

    def classify(self, wire: Wire) -> tuple[int | None, str]:
        """Return the VLAN of a frame about to enter a bridged port, or None and why it is dropped."""
        port = self.ports[wire[0]]
        if self.tables[port.box] is None:
            return wire[1], ""
        return ingress(port.settings, wire[1], self.tables[port.box])

    def leave(self, port: LinkPort, form: int) -> Iterator[Tap | Wire]:
        """Yield where a frame goes that leaves a port in a form."""
        if (port.spot, form) in self.at_port and self.at_port[port.spot, form].kind == "edge":
            yield self.at_port[port.spot, form]
        if port.up and port.peer:
            yield port.peer, form

    def flood(self, box: str, vlan: int, source: LinkPort | None) -> Iterator[Tap | Wire]:
        """Yield where a frame of a VLAN inside a box goes next (IEEE 802.1Q clause 8.6: never back out of the ingress port)."""
        if (box, vlan) in self.at_vlan and source is not None and self.tables[box] is not None:
            yield self.at_vlan[box, vlan]
        for port, form in self._outlets(box, vlan):
            if source is not None and (port.spot == source.spot or not may_exchange(source, port, vlan)):
                continue
            yield from self.leave(port, form)

    def _outlets(self, box: str, vlan: int) -> list[tuple[LinkPort, int]]:
        if self.tables[box] is None:  # a hub repeats every frame in the form it came in
            return [(p, vlan) for p in self.ports.values() if p.box == box and (p.up or is_edge(p, self))]
        return self.members.get((box, vlan), [])

    def next(self, node: Tap | Wire) -> Iterator[Tap | Wire]:
        """Yield the next nodes of a frame: from a tap what it sends, from a wire state what the port makes of it."""
        if isinstance(node, Tap):
            if node.port is None:
                yield from self.flood(node.box, node.form, None)
            elif node.kind == "edge":
                yield (node.box, node.port), node.form
            else:
                yield from self.leave(self.ports[node.box, node.port], node.form)
            return
        port = self.ports[node[0]]
        if not port.forwarding:
            return
        if not port.bridges:
            if node in self.at_port:
                yield self.at_port[node]
            return
        vlan, _ = self.classify(node)
        if vlan is not None:
            yield from self.flood(port.box, vlan, port)

    def heard(self, tap: Tap) -> frozenset[Tap]:
        """Return the taps that a frame sent by a tap gets to. Computed once a tap."""
        if tap.index not in self._heard:
            self._heard[tap.index] = self._listeners(tap)
        return self._heard[tap.index]

    def delivers(self, start: Tap, goal: Tap) -> bool:
        """Tell whether frames get from one tap to another; a tap hears itself."""
        return start is goal or goal in self.heard(start)

    @cached_property
    def _heard(self) -> dict[int, frozenset[Tap]]:
        return {}

    def _listeners(self, start: Tap) -> frozenset[Tap]:
        taps: set[Tap] = set()
        seen: set[Wire] = set()
        todo: list[Tap | Wire] = [start]
        while todo:
            for step in self.next(todo.pop()):
                if isinstance(step, Tap):
                    taps.add(step)
                elif step not in seen:
                    seen.add(step)
                    todo.append(step)
        return frozenset(taps - {start})

    def path(self, start: Tap, goal: Tap) -> list[Wire] | None:
        """Return the wire states a frame passes from one tap straight to another, or None if it never gets there."""
        before: dict[Wire, Wire | None] = {}
        todo: deque[Tap | Wire] = deque([start])
        while todo:
            node = todo.popleft()
            for step in self.next(node):
                if isinstance(step, Tap):
                    if step == goal:
                        return _unwind(None if isinstance(node, Tap) else node, before)
                elif step not in before:
                    before[step] = None if isinstance(node, Tap) else node
                    todo.append(step)
        return None


def _unwind(last: Wire | None, before: dict[Wire, Wire | None]) -> list[Wire]:
    path = []
    while last is not None:
        path.append(last)
        last = before[last]
    return path[::-1]


def may_exchange(source: LinkPort, target: LinkPort, vlan: int) -> bool:
    """Tell whether two ports of one box exchange frames: not both isolated, and on a firewall of one zone in that VLAN."""
    if source.settings.isolated and target.settings.isolated:
        return False
    return source.kind != "firewall" or _bridged_zone(source, vlan) == _bridged_zone(target, vlan)


def _bridged_zone(port: LinkPort, vlan: int) -> str | None:
    own = next((s.zone for s in port.settings.subinterfaces if s.tag == vlan), None)
    return own or port.settings.zone


def is_edge(port: LinkPort, fabric: Fabric) -> bool:
    """Tell whether hosts may stand on a bridged port: it is enabled and leads to an endpoint, or nowhere yet."""
    if not port.bridges or not port.settings.enabled or not port.forwarding:
        return False
    if port.peer is None:
        return any(m.free for m in port.members) and not isinstance(port.settings, Lag)
    return port.up and fabric.devices[port.peer[0]].kind == "endpoint"


def _free_forms(port: LinkPort, fabric: Fabric) -> list[int]:
    """Return the forms of an edge port in which no endpoint stands yet."""
    forms = edge_forms(port.settings) if fabric.tables[port.box] is not None else [UNTAGGED]
    if port.peer is None:
        return forms
    far = fabric.ports[port.peer].settings
    return [f for f in forms if f not in {UNTAGGED, *(s.tag for s in far.subinterfaces)}]


def build_fabric(design: Design, conditions: Conditions = ALL_WELL) -> Fabric:
    """Compute layers 1 and 2 of a checked design."""
    plan = frozenset(v.id for v in design.vlans)
    devices = {box: device for device in design.devices for box in unit_names(device)}
    tables: dict[str, frozenset[int] | None] = {}
    for box, device in devices.items():
        own = device.vlans if isinstance(device, BridgingBox) else None
        tables[box] = None if device.kind == "hub" else plan | _used(device) if own is None else frozenset(own)
    ports = link_ports(design, conditions)
    fabric = Fabric(design, ports, (), tables, devices, {}, {})
    taps = tuple(Tap(i, *rest) for i, rest in enumerate(_taps(fabric, conditions)))
    at_port = {((t.box, t.port), t.form): t for t in taps if t.port is not None}
    at_vlan = {(t.box, t.form): t for t in taps if t.port is None}
    return Fabric(design, ports, taps, tables, devices, at_port, at_vlan)


def _used(device: Device) -> frozenset[int]:
    """A device without a table of its own knows the plan and whatever its own ports name."""
    ports = [*device.ports, *getattr(device, "lags", [])]
    used = {v for p in ports for v in (*p.untagged, *p.tagged, p.pvid) if v is not None}
    return frozenset(used | {v.vlan for v in getattr(device, "vlan_interfaces", [])})


def _taps(
    fabric: Fabric, conditions: Conditions
) -> Iterator[tuple[str, str, str, str, str | None, int, str, Layer3 | None]]:
    for port in fabric.ports.values():
        if not port.forwarding:
            continue
        settings, name = port.settings, port.settings.name
        if is_edge(port, fabric):
            for form in _free_forms(port, fabric):
                yield "edge", port.box, port.device, name, name, form, port.pointer, None
        elif port.mode == "routed":
            kind = {"endpoint": "endpoint", "outside": "outside"}.get(port.kind, "interface")
            if settings.addresses or not settings.subinterfaces or kind != "interface":
                yield kind, port.box, port.device, name, name, UNTAGGED, port.pointer, settings
            for i, sub in enumerate(settings.subinterfaces):
                at = f"{port.pointer}/subinterfaces/{i}"
                if sub.enabled:
                    yield kind, port.box, port.device, f"{name}.{sub.tag}", name, sub.tag, at, sub
    for d, device in enumerate(fabric.design.devices):
        for box in forwarding_units(device, conditions):
            for i, vlan_interface in enumerate(getattr(device, "vlan_interfaces", [])):
                at = pointer("devices", d, "vlan_interfaces", i)
                if vlan_interface.enabled and fabric.carries(box, vlan_interface.vlan):
                    name = f"vlan{vlan_interface.vlan}"
                    yield "interface", box, device.name, name, None, vlan_interface.vlan, at, vlan_interface


__all__ = ["Fabric", "Tap", "Wire", "build_fabric", "is_edge", "may_exchange"]
