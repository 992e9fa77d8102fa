"""Layer 3 as a person reads it: interfaces, the table of every VRF, and which route wins for an address."""

from __future__ import annotations

from dataclasses import dataclass, field
from ipaddress import ip_address
from typing import Literal

from anabasis.design.devices import BridgingBox
from anabasis.design.notation import Address, pointer
from anabasis.errors import Problem, UnknownPlace, nearest
from anabasis.routing import L3Interface, Network3, Origin, Table, TableRoute, look_up, routes_packets
from anabasis.wording import looks_at, say

RouteState = Literal["in force", "shares", "stands by", "waits", "inactive"]


@dataclass(frozen=True)
class RouteRow:
    """One route."""

    to: str
    goes_to: str
    """Next hop, interface, VRF or `discarded`, in words."""
    interface: str | None
    origin: Origin
    learnt: str | None
    """Of a learnt route: how, by the words of its protocol."""
    preference: int
    metric: int
    active: bool
    state: RouteState
    """`in force`, `shares` (with equal ones), `stands by` (a better one is in force) or `inactive`."""
    reason: str
    pointer: str
    blame: str
    next_vrf: str | None
    looks_at: str
    """Of a policy route: what it looks at beside the destination, in words; it is tried before the table. Else empty."""


@dataclass(frozen=True)
class VrfTable:
    """One VRF of a device."""

    name: str
    pointer: str | None
    routes: list[RouteRow]
    leaks: list[str]
    """What it hands to other VRFs, in words: only a route leads from one to another."""


@dataclass(frozen=True)
class InterfaceView:
    """One layer-3 interface."""

    name: str
    kind: str
    up: bool
    reason: str
    reasons: list[str]
    addresses: list[str]
    vrf: str
    zone: str | None
    answers: str | None
    segment: str | None
    pointer: str
    virtual: list[str] = field(default_factory=list)
    """Virtual addresses, with what it is for each: `10.64.130.254 elected`, `… stands by`."""


@dataclass(frozen=True)
class DeviceRouting:
    """Layer 3 of one device."""

    name: str
    kind: str
    pointer: str
    routes: bool
    """Whether it forwards at layer 3; a switch that does not uses its table for itself only."""
    interfaces: list[InterfaceView]
    vrfs: list[VrfTable]


def routing_overview(net: Network3) -> list[DeviceRouting]:
    """Return layer 3 of every device that has any, firewalls first, then in document order."""
    out = []
    for d, device in enumerate(net.segments.fabric.design.devices):
        own = [i for i in net.interfaces if i.device == device.name]
        tables = [t for (name, _), t in net.tables.items() if name == device.name]
        if not own:
            continue
        places = {v.name: pointer("devices", d, "vrfs", k) for k, v in enumerate(getattr(device, "vrfs", []))}
        vrfs = [_vrf(t, places.get(t.vrf), conditions(net)) for t in tables if t.routes or t.vrf in places]
        views = [_interface(net, i) for i in own]
        out.append(DeviceRouting(device.name, device.kind, pointer("devices", d), routes_packets(device), views, vrfs))
    return sorted(
        out, key=lambda v: (v.kind != "firewall", not isinstance(net.devices[v.name], BridgingBox), not v.routes)
    )


def _interface(net: Network3, i: L3Interface) -> InterfaceView:
    at = net.segments.of_attachment.get(i.attachment.index) if i.attachment is not None else None
    virtual = [f"{a} {'elected' if a in i.standing else 'stands by'}" for a in i.virtual]
    addresses = [str(a) for a in i.addresses]
    name = net.segments.all[at].name if at is not None else None
    return InterfaceView(
        i.name,
        i.kind,
        i.up and not i.waits,
        i.reason,
        [say(c) for c in i.because],
        addresses,
        i.vrf,
        i.zone,
        i.answers,
        name,
        i.pointer,
        virtual,
    )


def conditions(net: Network3) -> dict[str, str]:
    """Return by its pointer what each policy route looks at beside the destination, in words."""
    out: dict[str, str] = {}
    for d, device in enumerate(net.segments.fabric.design.devices):
        for v, vrf in enumerate(getattr(device, "vrfs", [])):
            for k, route in enumerate(vrf.routes):
                if route.steers:
                    at = pointer("devices", d, "vrfs", v, "routes", k)
                    out[at] = looks_at(route.sources, route.services, route.entered)
    return out


def _vrf(table: Table, place: str | None, told: dict[str, str]) -> VrfTable:
    rows = [_row(table, r, told.get(r.pointer, "")) for r in (*table.steering, *table.routes)]
    leaks = [f"{r.to} is looked up in VRF {r.next_vrf}" for r in table.routes if r.next_vrf and r.active]
    return VrfTable(table.vrf, place, rows, leaks)


def _row(table: Table, r: TableRoute, condition: str) -> RouteRow:
    stands = table.state_of(r)
    state: RouteState = "stands by" if stands == "standby" else stands
    goes = r.goes_to or (f"on the link of {r.interface}" if r.origin == "connected" else "the box itself")
    if r.origin == "behind":
        goes = "behind it"
    if r.origin == "static" and not r.goes_to:
        goes = f"by {r.interface}"
    if r.hop and r.via and r.hop != r.via:
        goes += f" through {r.hop}"
    return RouteRow(
        str(r.to),
        goes,
        r.interface,
        r.origin,
        r.learnt,
        r.preference,
        r.metric,
        r.active,
        state,
        r.reason,
        r.pointer,
        r.blame,
        r.next_vrf,
        condition,
    )


@dataclass(frozen=True)
class LookupRow:
    """One route that holds the address, and what became of it."""

    to: str
    goes_to: str
    vrf: str
    wins: bool
    why: str
    pointer: str


@dataclass(frozen=True)
class LookupView:
    """Which route wins for an address, with the losers, VRF after VRF where one leads to another."""

    address: str
    outcome: str
    rows: list[LookupRow]


def lookup_view(net: Network3, device: str, vrf: str, text: str) -> LookupView:
    """Look an address up. Raises UnknownPlace for a table that is none and text that is no address."""
    devices = list(dict.fromkeys(d for d, _ in net.tables))
    if device not in devices:
        said = "there is no device of this name that has a table"
        raise UnknownPlace([Problem("", said, repr(device), ", ".join(devices), nearest(device, devices))])
    known = [v for d, v in net.tables if d == device]
    if vrf not in known:
        raise UnknownPlace(
            [Problem("", f"{device} has no VRF of this name", repr(vrf), ", ".join(known), nearest(vrf, known))]
        )
    try:
        address = ip_address(text.strip())
    except ValueError:
        raise UnknownPlace([Problem("", "this is no address", repr(text), "an IPv4 or IPv6 address")]) from None
    rows: list[LookupRow] = []
    seen: list[str] = []
    told = conditions(net)
    rows += [_first(r, told[r.pointer]) for r in net.tables[device, vrf].steering if r.to.version == address.version and address in r.to]  # fmt: skip
    while True:
        seen.append(vrf)
        found = look_up(net.tables[device, vrf], address)
        rows += [_winner(r, len(found.shared), vrf) for r in found.shared]
        rows += [_loser(r, found.winner, vrf) for r in found.losers]
        if found.winner is None or not found.winner.next_vrf or found.winner.next_vrf in seen:
            break
        vrf = found.winner.next_vrf
    return LookupView(str(address), _outcome(net, device, found.winner, address), rows)


def _outcome(net: Network3, device: str, winner: TableRoute | None, address: Address) -> str:
    if winner is None:
        return f"{device} has no route to {address}"
    if winner.origin == "local":
        return f"{address} is {device}'s own, on {winner.interface}"
    if winner.discard:
        return f"{device} discards it"
    if winner.next_vrf:
        return f"the VRFs of {device} lead to each other"
    if winner.origin == "behind":
        return f"it is behind {device}"
    zone = net.by_name[device, winner.interface or ""].zone
    out = f"leaves by {winner.interface}" + (f" (zone {zone})" if zone else "")
    return out + (f" to {winner.hop}" if winner.hop else ", straight to it on the link")


def _first(r: TableRoute, condition: str) -> LookupRow:
    """A policy route: an address alone does not tell whether it takes a packet."""
    why = f"before the table: {condition}" if r.active else f"inactive: {r.reason}"
    return LookupRow(str(r.to), r.goes_to or f"on {r.interface}", r.vrf, False, why, r.pointer)


def _winner(r: TableRoute, count: int, vrf: str) -> LookupRow:
    why = f"wins, and shares the traffic with {count - 1} more" if count > 1 else "wins: the longest prefix in force"
    return LookupRow(str(r.to), r.goes_to or f"on {r.interface}", vrf, True, why, r.pointer)


def _loser(r: TableRoute, winner: TableRoute | None, vrf: str) -> LookupRow:
    if not r.active:
        why = f"inactive: {r.reason}"
    elif winner is not None and r.to.prefixlen < winner.to.prefixlen:
        why = f"shorter than {winner.to}"
    else:
        why = f"preference {r.preference}, metric {r.metric}: the winner's are better"
    return LookupRow(str(r.to), r.goes_to or f"on {r.interface}", vrf, False, why, r.pointer)
