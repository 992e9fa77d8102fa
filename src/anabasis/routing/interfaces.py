"""Layer-3 interfaces of every box: their addresses, VRF and zone, and whether they are up, or why not."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict, dataclass, field, replace
from ipaddress import IPv6Interface, IPv6Network

from anabasis.design.devices import Box, BridgingBox, Device, Endpoint, Firewall, Outside, Router, RoutingBox, Switch
from anabasis.design.filters import filter_key, tunnel_key
from anabasis.design.notation import Address, Interface, parse_address, parse_interface, pointer
from anabasis.design.overlay import OverlayEnd, overlay_ends
from anabasis.design.ports import Lag, Layer3, Membership, RedundantGateway, VlanInterface
from anabasis.design.references import mode_of, unit_names
from anabasis.fabric import (
    ALL_WELL,
    Attachment,
    Conditions,
    Fabric,
    LinkPort,
    bridges_frames,
    carrying_units,
    forwarding_units,
    groups_of,
    is_edge,
    link_items,
)
from anabasis.facts import Cause, Layer, Values, Wrong, because
from anabasis.wording import Reasoned, say


@dataclass(frozen=True, eq=False)
class L3Interface(Reasoned):
    """One layer-3 interface of a device, as carried by its forwarding unit."""

    device: str
    name: str
    kind: str
    """`port`, `bundle`, `subinterface`, `vlan interface`, `loopback`, `tunnel`, `remote access` or `overlay`."""
    cause: Cause | None
    """What takes it down; None while it is up."""
    because: tuple[Cause, ...]
    """Every reason there is, where several things together take it down (`follows_ports`); else that one."""
    addresses: tuple[Interface, ...]
    vrf: str
    zone: str | None
    answers: str | None
    pointer: str
    attachment: Attachment | None
    vrrp: tuple[RedundantGateway, ...] = ()
    standing: tuple[Address, ...] = ()
    """The virtual addresses it answers for, as the elected router of its number (RFC 9568)."""
    accepted: tuple[Address, ...] = ()
    """Those of them that it takes packets to as its own."""
    units: tuple[Address, ...] = ()
    """Addresses of the units' own in its subnet that answer: their unit lives and is cabled there."""
    units_all: tuple[Address, ...] = ()
    """All of them, also those of units that are down: no host has one."""
    management: bool = False
    """An address for the box itself, nobody's gateway."""
    filters_in: tuple[str, ...] = ()
    """What crossings call the stateless filters that packets pass that come in here; of who dials in, what they send."""
    filters_out: tuple[str, ...] = ()
    """And those that packets pass that leave here; of a tunnel, what it carries."""
    announced: tuple[IPv6Network, ...] = ()
    """The prefixes it tells hosts to be on its link, by which they form addresses (RFC 4861 section 4.6.2, RFC 4862)."""
    routed_to_others: bool = False
    """On a box closed between its networks: routed to the other interfaces that say so."""
    waits: bool = False
    """Nothing is plugged in that would hold it up; for reach it counts as up, since hosts may stand there."""

    @property
    def label(self) -> str:
        """Return `device interface`."""
        return f"{self.device} {self.name}"

    def holds(self, address: Address) -> bool:
        """Tell whether it answers for an address: its own, or a virtual one it is elected for."""
        return any(a.ip == address for a in self.addresses) or address in self.standing or address in self.units

    @property
    def virtual(self) -> tuple[Address, ...]:
        """Return every virtual address it stands by for, elected or not."""
        return tuple(parse_address(a) for v in self.vrrp for a in v.addresses)

    def subnet_of(self, address: Address) -> Interface | None:
        """Return the interface address in whose subnet an address lies."""
        return next((a for a in self.addresses if a.version == address.version and address in a.network), None)


def routes_packets(device: Device) -> bool:
    """Tell whether a device forwards at layer 3 (docs/semantics.md, "Links")."""
    return isinstance(device, Router | Firewall | Outside) or (isinstance(device, Switch) and device.routing)


def kept_apart(device: Device, one: L3Interface, two: L3Interface) -> bool:
    """Tell whether a box is closed between two of its networks."""
    closed = isinstance(device, RoutingBox) and device.between_networks == "closed"
    return closed and one is not two and not (one.routed_to_others and two.routed_to_others)


def l3_interfaces(fabric: Fabric, conditions: Conditions = ALL_WELL) -> list[L3Interface]:
    """Return all layer-3 interfaces of all devices but endpoints, in document order."""
    devices = {d.name: d for d in fabric.design.devices}
    return [_with_units(fabric, devices[i.device], i, conditions) for i in _all_interfaces(fabric, conditions)]


def _with_units(fabric: Fabric, device: Device, interface: L3Interface, conditions: Conditions) -> L3Interface:
    """Add the addresses of units: those in the subnet of an interface, of units that live and whose line there is up."""
    if not isinstance(device, Firewall) or not any(u.address for u in device.units):
        return interface
    base = interface.name.partition(".")[0]
    held: list[Address] = []
    known: list[Address] = []
    for unit in device.units:
        own = parse_interface(unit.address) if unit.address else None
        line = fabric.ports.get((unit.name, base))
        failed = {unit.name, device.name} & conditions.failed
        if own is None or not interface.subnet_of(own.ip):
            continue
        known.append(own.ip)
        if not failed and (line is None or line.up):
            held.append(own.ip)
    return replace(interface, units=tuple(held), units_all=tuple(known))


def _all_interfaces(fabric: Fabric, conditions: Conditions) -> list[L3Interface]:
    out: list[L3Interface] = []
    overlay = overlay_ends(fabric.design)
    for d, device in enumerate(fabric.design.devices):
        boxes = forwarding_units(device, conditions)
        carrying = {g: (carrying_units(device, conditions, g) or unit_names(device))[0] for g in (1, 2)}
        box = carrying[1]
        if isinstance(device, BridgingBox | Outside):
            out += _routed(fabric, device, d, carrying)
        if isinstance(device, BridgingBox):
            out += _vlan_interfaces(fabric, device, d, box)
            out += _loopbacks(device, d, box, boxes)
            out += _tunnels(fabric, device, d, box)
            out += [
                _to_vrf(fabric, device, box, end) for end in overlay.get(device.name, ()) if end.port.mode == "routed"
            ]
    return out


def _make(
    device: Box,
    name: str,
    kind: str,
    cause: Cause | None,
    settings: Layer3,
    at: str,
    attachment: Attachment | None,
    because: tuple[Cause, ...] = (),
    waits: bool = False,
) -> L3Interface:
    addresses = tuple(parse_interface(a) for a in settings.addresses)
    return L3Interface(
        device.name,
        name,
        kind,
        cause,
        because or ((cause,) if cause else ()),
        addresses,
        settings.vrf or "main",
        settings.zone,
        settings.answers,
        at,
        attachment,
        tuple(settings.vrrp),
        filters_in=(filter_key(device.name, settings.filter_in),) if settings.filter_in else (),
        filters_out=(filter_key(device.name, settings.filter_out),) if settings.filter_out else (),
        announced=_announced(device, settings, addresses),
        routed_to_others=settings.routed_to_others,
        management=isinstance(settings, VlanInterface) and settings.management,
        waits=waits,
    )


def _announced(device: Box, settings: Layer3, addresses: tuple[Interface, ...]) -> tuple[IPv6Network, ...]:
    """A box that routes announces, where it does, its prefixes of 64 bits: hosts form their addresses by no other (RFC 4862 section 5.5.3)."""
    if not settings.announce or not routes_packets(device):  # type: ignore[arg-type]
        return ()
    return tuple(a.network for a in addresses if isinstance(a, IPv6Interface) and a.network.prefixlen == 64)


def _is_routed(settings: Membership, device: Device) -> bool:
    """A port that is off and says what a routed one says is a routed one that is down."""
    mode = mode_of(settings, device)
    return mode == "routed" or (
        mode == "off" and bool(settings.addresses or any(s.addresses for s in settings.subinterfaces))
    )


def _routed(
    fabric: Fabric, device: Switch | Router | Firewall | Outside, d: int, carrying: dict[int, str]
) -> Iterator[L3Interface]:
    """`carrying`: the box by group."""
    lags = device.lags if isinstance(device, BridgingBox) else []
    for kind, key, members in (("port", "ports", device.ports), ("bundle", "lags", lags)):
        for i, settings in enumerate(members):
            if not _is_routed(settings, device):
                continue
            at = pointer("devices", d, key, i)
            groups = groups_of(device)
            port = fabric.ports[carrying[settings.group if settings.group in groups else 1], settings.name]
            if settings.addresses or settings.zone or not settings.subinterfaces or isinstance(device, Outside):
                yield _make(device, settings.name, kind, port.cause, settings, at, fabric.at_port.get((port.spot, 0)))
            for k, sub in enumerate(settings.subinterfaces):
                there = f"{at}/subinterfaces/{k}"
                name = f"{settings.name}.{sub.tag}"
                port = fabric.ports[carrying[sub.group if sub.group in groups else 1], settings.name]
                cause = port.cause
                if not sub.enabled:
                    cause = because(Layer.LINK, Wrong.DISABLED, f"{there}/enabled", port=f"{device.name} {name}")
                yield _make(device, name, "subinterface", cause, sub, there, fabric.at_port.get((port.spot, sub.tag)))
    if isinstance(device, Outside) and not device.ports:
        port = fabric.ports[carrying[1], "1"]
        yield _make(
            device, "1", "port", port.cause, Layer3(), pointer("devices", d), fabric.at_port.get((port.spot, 0))
        )


def _vlan_interfaces(fabric: Fabric, device: BridgingBox, d: int, box: str) -> Iterator[L3Interface]:
    for i, vlan_interface in enumerate(device.vlan_interfaces):
        at = pointer("devices", d, "vlan_interfaces", i)
        vlan, name = vlan_interface.vlan, f"vlan{vlan_interface.vlan}"
        cause, several, waits = None, tuple[Cause, ...](), False
        if not vlan_interface.enabled:
            cause = because(Layer.LINK, Wrong.DISABLED, f"{at}/enabled", port=f"{device.name} {name}")
        elif not fabric.carries(box, vlan):
            place = pointer("devices", d, "vlans")
            cause = because(Layer.VLAN, Wrong.NOT_IN_TABLE, place, vlan=vlan, device=device.name)
        elif device.follows_ports:
            cause, several, waits = _following(fabric, device, box, vlan, at, vlan_interface)
        attachment = fabric.at_vlan.get((box, vlan))
        yield _make(device, name, "vlan interface", cause, vlan_interface, at, attachment, several, waits)


def _should_carry(fabric: Fabric, box: str, vlan: int, settings: Layer3) -> list[str]:
    """Return the links of a box at whose far end a VLAN is carried, or a host of its subnet stands: they should carry it here as well."""
    nets = [parse_interface(a).network for a in settings.addresses]
    out: list[str] = []
    for port in fabric.ports.values():
        far = fabric.ports.get(port.peer) if port.box == box and bridges_frames(port) and port.peer else None
        if far is None:
            continue
        held = fabric.devices[far.box]
        hosts = [parse_interface(a).ip for a in held.addresses] if isinstance(held, Endpoint) else []
        if (far.bridges and vlan in far.settings.member_of) or any(h in n for h in hosts for n in nets):
            out += link_items(fabric, port)
    return out


def _following(
    fabric: Fabric, device: BridgingBox, box: str, vlan: int, at: str, settings: Layer3
) -> tuple[Cause | None, tuple[Cause, ...], bool]:
    """A VLAN interface is up while some port that carries its VLAN on this device is up (docs/semantics.md, "Interfaces").

    Returns what takes it down, that of every port that could hold it up and does not, and whether it waits for somebody to plug in.
    """
    carrying = [
        p
        for p in fabric.ports.values()
        if p.box == box and bridges_frames(p) and vlan in (*p.settings.tagged, *p.settings.untagged)
    ]
    if any(p.up for p in carrying):
        return None, (), False
    if any(is_edge(p, fabric) for p in carrying):
        return None, (), True
    if not carrying:
        wanted = _should_carry(fabric, box, vlan, settings)
        return because(Layer.VLAN, Wrong.NO_PORT_CARRIES, *wanted, at, device=device.name, vlan=vlan), (), False
    several = tuple(p.cause for p in carrying if p.cause is not None)
    told = "; ".join(say(c) for c in several[:3]) + (f"; and {len(several) - 3} more" if len(several) > 3 else "")
    first = next((p for p in carrying if p.peer), carrying[0]).cause
    guilty = first.pointers if first is not None else ()
    values: Values = {"device": device.name, "vlan": vlan, "told": told}
    return because(Layer.LINK, Wrong.PORTS_DOWN, *guilty, values=values), several, False


def _loopbacks(device: BridgingBox, d: int, box: str, alive: list[str]) -> Iterator[L3Interface]:
    for i, loopback in enumerate(device.loopbacks):
        at = pointer("devices", d, "loopbacks", i)
        cause = None if alive else because(Layer.LINK, Wrong.BOX_FAILED, pointer("devices", d), box=box)
        yield _make(device, loopback.name, "loopback", cause, loopback, at, None)


def _tunnels(fabric: Fabric, device: BridgingBox, d: int, box: str) -> Iterator[L3Interface]:
    """Of a tunnel what leaves is held against what it carries; of hosts that dial in, what they send into it."""
    for i, tunnel in enumerate(device.tunnels):
        port = fabric.ports[box, tunnel.name]
        at = pointer("devices", d, "tunnels", i)
        made = _make(device, tunnel.name, "tunnel", port.cause, tunnel, at, fabric.at_port.get((port.spot, 0)))
        yield replace(made, filters_out=(*made.filters_out, tunnel_key(device.name, tunnel.name)))
    for i, access in enumerate(device.remote_access):
        port = fabric.ports[box, access.name]
        at, settings = pointer("devices", d, "remote_access", i), access.as_port()
        made = _make(device, access.name, "remote access", port.cause, settings, at, fabric.at_port.get((port.spot, 0)))
        yield replace(made, filters_in=(tunnel_key(device.name, access.name),))


def _to_vrf(fabric: Fabric, device: BridgingBox, box: str, end: OverlayEnd) -> L3Interface:
    """Return the interface by which a VRF leads to one of another box on the overlay."""
    port = fabric.ports[box, end.port.name]
    return _make(device, end.port.name, "overlay", port.cause, end.port, end.at, fabric.at_port.get((port.spot, 0)))


@dataclass(frozen=True)
class PortState:
    """One row of the list of interfaces: any port, bundle or layer-3 interface of a device."""

    device: str
    interface: str
    kind: str
    mode: str
    up: bool
    reason: str
    addresses: list[str]
    vrf: str | None
    zone: str | None
    pointer: str
    reasons: list[str] = field(default_factory=list)
    """Every reason it is down: of a VLAN interface, one a port that could hold it up."""

    def as_dict(self) -> dict[str, object]:
        """Return the row for JSON (command-line promise, `interfaces`)."""
        return asdict(self)


def interface_rows(fabric: Fabric, interfaces: list[L3Interface], conditions: Conditions = ALL_WELL) -> list[PortState]:
    """Return every port, bundle and layer-3 interface of every device, once a device, in document order.

    A pair's rows are those of its forwarding unit.
    """
    by_place = {(i.device, i.name): i for i in interfaces}
    rows: list[PortState] = []
    for d, device in enumerate(fabric.design.devices):
        box = (forwarding_units(device, conditions) or unit_names(device))[0]
        for port in (p for p in fabric.ports.values() if p.box == box and not p.virtual):
            l3 = by_place.get((device.name, port.settings.name))
            rows.append(_port_row(device, port, l3, pointer("devices", d)))
            rows += [
                _member_row(device, m.port.name, m.up, m.reason, m.pointer) for m in port.members if m.mode == "lag"
            ]
        rows += [_l3_row(i) for i in interfaces if i.device == device.name and i.kind not in ("port", "bundle")]
    return rows


def _port_row(device: Device, port: LinkPort, l3: L3Interface | None, at: str) -> PortState:
    settings = port.settings
    addresses = list(device.addresses) if isinstance(device, Endpoint) else list(settings.addresses)
    kind = "bundle" if isinstance(settings, Lag) else "port"
    return PortState(
        device.name,
        settings.name,
        kind,
        port.mode,
        port.up,
        port.reason,
        addresses,
        l3.vrf if l3 else None,
        settings.zone,
        port.pointer or at,
        [port.reason] if port.reason else [],
    )


def _member_row(device: Device, name: str, up: bool, reason: str, at: str) -> PortState:
    return PortState(device.name, name, "port", "lag", up, reason, [], None, None, at, [reason] if reason else [])


def _l3_row(i: L3Interface) -> PortState:
    addresses = [str(a) for a in i.addresses]
    return PortState(
        i.device,
        i.name,
        i.kind,
        "routed",
        i.up and not i.waits,
        i.reason,
        addresses,
        i.vrf,
        i.zone,
        i.pointer,
        [say(c) for c in i.because],
    )
