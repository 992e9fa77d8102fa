"""The routing table of every (device, VRF): local, connected and static routes, each active or not and why (concepts, section 4)."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict, dataclass
from ipaddress import ip_network

from anabasis.design.devices import BridgingBox, Device, Outside
from anabasis.design.notation import Address, Network, parse_address, parse_prefix, pointer
from anabasis.design.routes import Route
from anabasis.fabric import Segments
from anabasis.routing.interfaces import L3Interface


@dataclass(frozen=True)
class TableRoute:
    """One route of a table."""

    device: str
    vrf: str
    to: Network
    origin: str
    """`local` (an address of the box), `connected`, `static`, or `behind` (what an outside holds itself)."""
    via: Address | None
    interface: str | None
    """The egress interface, once resolved."""
    next_vrf: str | None
    discard: bool
    preference: int
    metric: int
    active: bool
    reason: str
    """Why it is inactive; empty while it is active."""
    layer: str
    """The layer that makes it inactive: `link`, `vlan` or `route`."""
    blame: str
    pointer: str

    def as_dict(self) -> dict[str, object]:
        """Return the row for JSON (command-line promise, `routes`)."""
        row = asdict(self)
        row["to"], row["via"] = str(self.to), str(self.via) if self.via else None
        return row

    @property
    def goes_to(self) -> str:
        """Return where it leads, in words."""
        if self.discard:
            return "discarded"
        return str(self.via) if self.via else f"VRF {self.next_vrf}" if self.next_vrf else ""

    @property
    def rank(self) -> tuple[int, int, int]:
        """Return what decides between routes to one prefix; lower wins."""
        order = {"local": 0, "connected": 1, "static": 2, "behind": 3}[self.origin]
        return (self.preference, self.metric, order)


@dataclass(frozen=True)
class Table:
    """All routes of one VRF of one device, sorted by prefix."""

    device: str
    vrf: str
    routes: tuple[TableRoute, ...]


def build_tables(segments: Segments, interfaces: list[L3Interface]) -> dict[tuple[str, str], Table]:
    """Return (device, VRF) -> table, for every device with layer-3 interfaces; a switch that does not route uses its own for what it sends itself."""
    tables: dict[tuple[str, str], Table] = {}
    for d, device in enumerate(segments.fabric.design.devices):
        if not isinstance(device, BridgingBox | Outside):
            continue
        own = [i for i in interfaces if i.device == device.name]
        vrfs = [v.name for v in getattr(device, "vrfs", [])]
        for vrf in dict.fromkeys(["main", *vrfs, *(i.vrf for i in own)]):
            inside = [i for i in own if i.vrf == vrf]
            routes = [r for i in inside for r in _of_interface(i, segments)]
            routes += [_static(device, vrf, route, at, own, inside, routes) for route, at in _written(device, d, vrf)]
            if isinstance(device, Outside) and vrf == "main":
                routes += list(_behind(device, d))
            routes.sort(key=lambda r: (r.to.version, int(r.to.network_address), r.to.prefixlen, not r.active, r.rank))
            tables[device.name, vrf] = Table(device.name, vrf, tuple(routes))
    return tables


def _of_interface(i: L3Interface, segments: Segments) -> Iterator[TableRoute]:
    def route(to: Network, origin: str) -> TableRoute:
        return TableRoute(
            i.device, i.vrf, to, origin, None, i.name, None, False, 0, 0, i.up, i.reason, i.layer, i.blame, i.pointer
        )

    for address in i.addresses:
        yield route(ip_network(address.ip), "local")
        if address.network.prefixlen < address.max_prefixlen:
            yield route(address.network, "connected")
    if not i.addresses and i.tap is not None and i.tap.kind == "outside":
        # An outside without an address of its own stands in the subnets of its segment (docs/semantics.md).
        for subnet in segments.all[segments.of(i.tap)].subnets:
            yield route(parse_prefix(subnet), "connected")


def _written(device: Device, d: int, vrf: str) -> Iterator[tuple[Route, str]]:
    if isinstance(device, Outside) and vrf == "main":
        for i, route in enumerate(device.routes):
            yield route, pointer("devices", d, "routes", i)
    for v, entry in enumerate(getattr(device, "vrfs", [])):
        if entry.name == vrf:
            for i, route in enumerate(entry.routes):
                yield route, pointer("devices", d, "vrfs", v, "routes", i)


def _static(
    device: Device,
    vrf: str,
    route: Route,
    at: str,
    own: list[L3Interface],
    inside: list[L3Interface],
    connected: list[TableRoute],
) -> TableRoute:
    via = parse_address(route.via) if route.via else None
    interface, state = _resolve(route, via, own, inside, connected, at)
    reason, layer, blame = state
    metric = route.metric
    return TableRoute(
        device.name,
        vrf,
        parse_prefix(route.to),
        "static",
        via,
        interface,
        route.vrf,
        route.discard,
        route.preference,
        metric,
        not reason,
        reason,
        layer,
        blame or at,
        at,
    )


def _resolve(
    route: Route,
    via: Address | None,
    own: list[L3Interface],
    inside: list[L3Interface],
    connected: list[TableRoute],
    at: str,
) -> tuple[str | None, tuple[str, str, str]]:
    """Return (egress interface, (why inactive, layer, blame)); an empty reason = active."""
    if not route.enabled:
        return None, ("switched off", "route", at + "/enabled")
    if route.discard or route.vrf:
        return None, ("", "", "")
    if via is None:
        return _through(route.interface, own, at)
    if via.is_unspecified:
        return None, ("its next hop is all zeros", "route", at + "/via")
    if any(i.holds(via) for i in own):
        return None, ("its next hop is an address of the box itself", "route", at + "/via")
    candidates = [r for r in connected if r.origin == "connected" and r.to.version == via.version and via in r.to]
    if route.interface:
        name, state = _through(route.interface, own, at)
        if state[0] or any(r.interface == route.interface for r in candidates):
            return name, state
        return name, (f"next hop {via} lies outside every subnet of {route.interface}", "route", at + "/via")
    if not candidates:
        where = inside[0].vrf if inside else "this VRF"
        return None, (f"next hop {via} lies outside every connected subnet of {where}", "route", at + "/via")
    best = max(candidates, key=lambda r: (r.active, r.to.prefixlen))
    if best.active:
        return best.interface, ("", "", "")
    return best.interface, (
        f"next hop {via} is behind {best.interface}, which is down: {best.reason}",
        best.layer,
        best.blame,
    )


def _through(name: str | None, own: list[L3Interface], at: str) -> tuple[str | None, tuple[str, str, str]]:
    interface = next((i for i in own if i.name == name), None)
    if interface is None:
        return None, (f"{name} is no layer-3 interface", "route", at + "/interface")
    if not interface.up:
        return name, (f"{name} is down: {interface.reason}", interface.layer, interface.blame)
    return name, ("", "", "")


def _behind(device: Outside, d: int) -> Iterator[TableRoute]:
    for i, prefix in enumerate(device.prefixes):
        yield TableRoute(
            device.name,
            "main",
            parse_prefix(prefix),
            "behind",
            None,
            None,
            None,
            False,
            255,
            0,
            True,
            "",
            "",
            "",
            pointer("devices", d, "prefixes", i),
        )
