"""The site as its cables make it: boxes in tiers from outside to endpoints, bundles and cables between them, and the state of each line."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from anabasis.design.notation import pointer
from anabasis.design.ports import Lag, OverlayPort, TablePort, association
from anabasis.design.references import port_names, ssid_names, unit_names
from anabasis.fabric import ALL_WELL, Conditions, Fabric, LinkPort, PhysicalPort, bridged_zone, label
from anabasis.wording import say

TIERS = {"outside": 0, "router": 1, "firewall": 2, "switch": 3, "hub": 4, "access-point": 4, "endpoint": 5}


@dataclass(frozen=True)
class Jack:
    """One port of a box as one sees it from the front."""

    name: str
    mode: str
    bundle: str | None
    free: bool
    """No cable is plugged in."""
    up: bool
    reason: str
    pointer: str
    note: str | None


@dataclass(frozen=True)
class CabledBox:
    """One box: a unit of a pair, or a device."""

    name: str
    device: str
    kind: str
    tier: int
    standby: bool
    failed: bool
    pointer: str
    jacks: list[Jack]


@dataclass(frozen=True)
class CarriedVlan:
    """One VLAN at one end of a line, as the settings there have it, whatever the far end says."""

    vlan: int
    tagged: bool
    """It leaves with a tag; False = without (IEEE 802.1Q clause 8.8.2)."""
    pvid: bool
    """Frames that come in without a tag belong to it."""
    zone: str | None


@dataclass(frozen=True)
class CarriedEnd:
    """What one end of a line carries: VLANs by number, and the zone of what is routed or bridged without a VLAN."""

    vlans: list[CarriedVlan]
    zone: str | None
    routed: bool


@dataclass(frozen=True)
class CableLine:
    """One line of the drawing: a cable, or all cables of one bundle."""

    ends: list[str]
    """The two boxes."""
    ports: list[list[str]]
    """The ports at each end, in the order of the cables."""
    carried: list[CarriedEnd]
    """What each of the two ends carries."""
    kind: str
    """`data`, `inline` (an end of an inline pair), `wireless` (a client of an SSID), `tunnel`, `overlay` or `heartbeat`, whatever its state."""
    bundle: str | None
    """What a bundle is called at its ends, or None for a single cable."""
    state: str
    """`up`, `down`, `part` (a bundle with members missing), `blocked` (by the spanning tree), `standby`, `inline` or `heartbeat`."""
    reason: str
    pointers: list[str]
    """The cables, as JSON Pointers."""
    names: list[str]
    """The cables by their ends, `a:1--b:2`, as failures name them."""
    failed: list[str]
    """Those of them that have failed."""


@dataclass(frozen=True)
class Cabling:
    """The whole drawing, without positions."""

    boxes: list[CabledBox]
    lines: list[CableLine]


def cabling(fabric: Fabric, conditions: Conditions = ALL_WELL) -> Cabling:
    """Return what is to be drawn. `conditions` are those the fabric was built under."""
    physical = {m.spot: (m, p) for p in fabric.ports.values() for m in p.members}
    boxes = []
    for d, device in enumerate(fabric.design.devices):
        for box in unit_names(device):
            mine = [(m, p) for (owner, _), (m, p) in physical.items() if owner == box]
            order = [*(p.name for p in device.ports), *ssid_names(device)]
            mine.sort(key=lambda entry: order.index(entry[0].port.name) if entry[0].port.name in order else len(order))
            standby = bool(mine) and not mine[0][1].forwarding
            jacks = [_jack(m, p) for m, p in mine if not p.virtual]
            tier, at, dead = TIERS[device.kind], pointer("devices", d), bool({box, device.name} & conditions.failed)
            boxes.append(CabledBox(box, device.name, device.kind, tier, standby and not dead, dead, at, jacks))
    return Cabling(boxes, _lines(fabric, {spot: p for spot, (_, p) in physical.items()}, physical, conditions))


def _jack(member: PhysicalPort, port: LinkPort) -> Jack:
    bundle = port.settings.name if isinstance(port.settings, Lag) else None
    reason = "" if member.up else member.reason
    return Jack(
        member.port.name, member.mode, bundle, member.far is None, member.up, reason, member.pointer, member.port.note
    )


def _lines(
    fabric: Fabric,
    owner: dict[tuple[str, str], LinkPort],
    physical: dict[tuple[str, str], tuple[PhysicalPort, LinkPort]],
    conditions: Conditions,
) -> list[CableLine]:
    groups: dict[tuple[tuple[str, str], tuple[str, str]], list[tuple[PhysicalPort, PhysicalPort]]] = {}
    for spot, (member, _) in physical.items():
        if member.far and spot < member.far and member.far in physical:
            far = physical[member.far][0]
            ends = owner[spot].spot, owner[member.far].spot
            if isinstance(
                member.port, OverlayPort | TablePort
            ):  # two boxes of an overlay are joined by one line, whatever goes over it
                ends = (ends[0][0], ""), (ends[1][0], "")
            groups.setdefault(ends, []).append((member, far))
    cabled = [
        _line(fabric, owner[a[0].spot], owner[a[1].spot], pairs, conditions)
        for pairs in groups.values()
        for a in pairs[:1]
    ]
    return cabled + list(_taken_outside(fabric, conditions))


def _taken_outside(fabric: Fabric, conditions: Conditions) -> Iterator[CableLine]:
    """Yield the tunnels that somebody else's network takes: they have no other end that could be drawn as a port."""
    for state in conditions.tunnels:
        leads = state.peer or state.meant
        spot = next((p.spot for p in fabric.ports.values() if (p.device, p.settings.name) == (state.device, state.name)), None)  # fmt: skip
        if leads is None or spot is None or not getattr(fabric.ports[spot].settings, "beyond", None):
            continue
        mine, nothing = fabric.ports[spot], CarriedEnd([], None, True)
        up, reason = state.cause is None, say(state.cause) if state.cause is not None else ""
        ends, ports, name = [mine.box, leads[0]], [[state.name], [leads[1]]], f"{label(spot)}--{leads[0]}:{leads[1]}"
        told = [_carried(mine), nothing]
        yield CableLine(ends, ports, told, "tunnel", None, "up" if up else "down", reason, [mine.pointer], [name], [])


def _line(
    fabric: Fabric,
    one: LinkPort,
    two: LinkPort,
    pairs: list[tuple[PhysicalPort, PhysicalPort]],
    conditions: Conditions,
) -> CableLine:
    names = [a.line for a, _ in pairs]
    bundled = [p.settings.name for p in (one, two) if isinstance(p.settings, Lag)]
    state, reason = _state(fabric, one, two, pairs)
    kind = _kind(fabric, one, two)
    ports = [[_called(fabric, a) for a, _ in pairs], [_called(fabric, b) for _, b in pairs]]
    return CableLine(
        [one.box, two.box],
        ports if kind != "overlay" else [[], []],
        [_carried(one), _carried(two)],
        kind,
        " — ".join(dict.fromkeys(bundled)) or None,
        state,
        reason,
        [a.cable for a, _ in pairs if a.cable],
        names,
        [n for n in names if n in conditions.failed],
    )


def _kind(fabric: Fabric, one: LinkPort, two: LinkPort) -> str:
    for port in (one, two):
        if port.virtual:
            return "overlay" if isinstance(port.settings, OverlayPort | TablePort) else "tunnel"
        if port.mode in ("heartbeat", "inline"):
            return port.mode
        if port.kind == "access-point" and port.settings.name not in port_names(fabric.devices[port.box]):
            return "wireless"
    return "data"


def _called(fabric: Fabric, port: PhysicalPort) -> str:
    """Return the port of one end of a line; of a client's association the SSID it joined."""
    client = port.far[0] if port.far else ""
    ssids = ssid_names(fabric.devices[port.box])
    return next((s for s in ssids if association(s, client) == port.port.name), port.port.name)


def _carried(port: LinkPort) -> CarriedEnd:
    settings = port.settings
    if port.mode == "routed":
        own = [CarriedVlan(s.tag, True, False, s.zone) for s in settings.subinterfaces if s.enabled]
        return CarriedEnd(sorted(own, key=lambda c: c.vlan), settings.zone, True)
    if not port.bridges:
        return CarriedEnd([], settings.zone, False)
    numbers = sorted({*settings.tagged, *settings.untagged, *([settings.pvid] if settings.pvid else [])})
    vlans = [
        CarriedVlan(n, n in settings.tagged and n not in settings.untagged, n == settings.pvid, bridged_zone(port, n))
        for n in numbers
    ]
    return CarriedEnd(vlans, settings.zone, False)


def _state(
    fabric: Fabric, one: LinkPort, two: LinkPort, pairs: list[tuple[PhysicalPort, PhysicalPort]]
) -> tuple[str, str]:
    for port in (one, two):
        if not port.up:
            return "down", port.reason
        if port.spot in fabric.tree.blocked:
            return "blocked", say(fabric.tree.blocked[port.spot])
    missing = next((m for a, b in pairs for m in (a, b) if not m.up), None)
    if missing:
        return "part", missing.reason
    if "heartbeat" in (one.mode, two.mode):
        return "heartbeat", ""
    if not (one.forwarding and two.forwarding):
        return "standby", "leads to the unit that stands by"
    return ("inline" if "inline" in (one.mode, two.mode) else "up"), ""
