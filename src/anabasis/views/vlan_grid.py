"""The VLAN grid: VLANs of the plan down, ports across, each cell what the port is to the VLAN; and the computed segments beside it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from anabasis.design.devices import AccessPoint, BridgingBox, Firewall
from anabasis.design.notation import pointer
from anabasis.design.ports import Lag
from anabasis.fabric import LinkPort, Segments

ColumnKind = Literal["port", "bundle", "routed"]
Member = Literal["untagged", "tagged", "leaves", "enters", "routed", ""]
VlanState = Literal["whole", "islands", "merged", "empty", "switched"]


@dataclass(frozen=True)
class GridPort:
    """One column: a port or bundle that carries VLANs."""

    name: str
    kind: ColumnKind
    """`port`, `bundle`, or `routed` for one whose VLANs are subinterfaces."""
    members: list[str]
    far: str | None
    """What the cable leads to, as box:port."""
    up: bool
    reason: str
    pointer: str
    note: str | None


@dataclass(frozen=True)
class GridDevice:
    """Columns of one device."""

    name: str
    kind: str
    pointer: str
    ports: list[GridPort]


@dataclass(frozen=True)
class GridRow:
    """One VLAN: a cell for every column, and what has become of it."""

    vlan: int
    name: str
    note: str | None
    subnets: list[str]
    pointer: str
    cells: list[Member]
    """`untagged` (with PVID), `tagged`, `leaves` (sent untagged, not the PVID), `enters` (PVID, not a member), `routed` (a subinterface), or ``."""
    segments: list[str]
    state: VlanState
    """`whole`, `islands`, `merged`, `empty`, or `switched` for one without a subnet."""


@dataclass(frozen=True)
class Grid:
    """The whole grid."""

    devices: list[GridDevice]
    rows: list[GridRow]


def vlan_grid(segments: Segments) -> Grid:
    """Return the grid of a site, devices with a cable between them next to each other."""
    fabric = segments.fabric
    index = {d.name: n for n, d in enumerate(fabric.design.devices)}
    order = _order(segments)
    columns = [(name, _columns(segments, name, order[: order.index(name)])) for name in order]
    columns = [(name, ports) for name, ports in columns if ports]
    devices = [
        GridDevice(
            name, fabric.design.devices[index[name]].kind, pointer("devices", index[name]), [_port(p) for p in ports]
        )
        for name, ports in columns
    ]
    flat = [p for _, ports in columns for p in ports]
    known = {v.id for v in fabric.design.vlans}
    loose = sorted({v for _, v in segments.of_vlan} - known)
    rows = [
        _row(segments, v.id, v.name, v.note, list(v.subnets), pointer("vlans", n), flat)
        for n, v in enumerate(fabric.design.vlans)
    ]
    rows += [_row(segments, v, f"vlan{v}", "Not in the plan", [], "/vlans", flat) for v in loose]
    return Grid(devices, rows)


def _order(segments: Segments) -> list[str]:
    """Walk from device to device along the cables, the firewall first, so that neighbours stand side by side."""
    fabric = segments.fabric
    index = {d.name: n for n, d in enumerate(fabric.design.devices)}
    bridging = [d.name for d in fabric.design.devices if isinstance(d, BridgingBox | AccessPoint)]
    near: dict[str, set[str]] = {name: set() for name in bridging}
    for port in fabric.ports.values():
        far = fabric.devices[port.peer[0]].name if port.peer else None
        if port.device in near and far in near and far != port.device:
            near[port.device].add(far)
    firewalls = [d.name for d in fabric.design.devices if isinstance(d, Firewall)]
    out: list[str] = []
    todo = list(reversed([*firewalls, *bridging]))
    while todo:
        name = todo.pop()
        if name not in out:
            out.append(name)
            todo += sorted(
                near[name] - set(out), key=lambda n: (len(segments.fabric.design.devices[index[n]].ports), n)
            )
    return out


def _columns(segments: Segments, device: str, before: list[str]) -> list[LinkPort]:
    """Return a device's columns: what leads to devices on the left, the ports, what leads to devices on the right."""
    fabric = segments.fabric
    mine = [p for p in fabric.ports.values() if p.device == device and p.forwarding]
    shown = [p for p in mine if p.bridges or p.settings.subinterfaces]

    def side(port: LinkPort) -> int:
        far = fabric.devices[port.peer[0]] if port.peer else None
        if not isinstance(far, BridgingBox | AccessPoint):
            return 1
        return 0 if far.name in before else 2

    return sorted(shown, key=side)


def _port(port: LinkPort) -> GridPort:
    kind: ColumnKind = "routed" if not port.bridges else "bundle" if isinstance(port.settings, Lag) else "port"
    members = [m.port.name for m in port.members] if isinstance(port.settings, Lag) else []
    far = ":".join(port.peer) if port.peer else None
    return GridPort(port.settings.name, kind, members, far, port.up, port.reason, port.pointer, port.settings.note)


def _cell(port: LinkPort, vlan: int) -> Member:
    settings = port.settings
    if not port.bridges:
        return "routed" if any(s.tag == vlan for s in settings.subinterfaces) else ""
    if vlan in settings.untagged:
        return "untagged" if settings.pvid == vlan else "leaves"
    if vlan in settings.tagged:
        return "tagged"
    return "enters" if settings.pvid == vlan else ""


def _row(
    segments: Segments, vlan: int, name: str, note: str | None, subnets: list[str], at: str, ports: list[LinkPort]
) -> GridRow:
    inside = [s for s in segments.all if vlan in s.vlan_ids]
    state: VlanState
    if any(s.island for s in inside) and len(inside) > 1:
        state = "islands"
    elif any(len(s.vlan_ids) > 1 for s in inside):
        state = "merged"
    elif not any(s.attachments for s in inside):
        state = "empty"
    else:
        state = "whole" if any(s.subnets for s in inside) else "switched"
    return GridRow(
        vlan, name, note, subnets, at, [_cell(p, vlan) for p in ports], [s.name for s in inside if s.attachments], state
    )
