"""What a design is built of on a Linux host: one network namespace a box that has addresses, cables as veth pairs, bridges in user space between them.

Everything here is worked out from the document alone. What a document cannot say by itself, or what no kernel here can do, is `Given`.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, field
from ipaddress import ip_address, ip_interface, ip_network
from typing import Any

from anabasis.design import Design
from anabasis.design.devices import DEFAULT_MODE, AccessPoint, BridgingBox, Endpoint, Firewall, Hub, Outside, Switch
from anabasis.design.notation import parse_end
from anabasis.design.ports import Lag, Layer3, Port, association
from anabasis.packets.meaning import UnseenFilter, Words
from anabasis.packets.wire import TAG_TYPES, Bridge, BridgePort, InlinePair, RoutedPort
from anabasis.packets.wire import Hub as Repeater

Element = Bridge | Repeater | InlinePair | RoutedPort


@dataclass(frozen=True)
class Given:
    """What is taken as it was computed, and so is not proved."""

    active: dict[str, str] = field(default_factory=dict)
    """Pair -> the unit that forwards."""
    blocked: frozenset[tuple[str, str]] = frozenset()
    """(box, port) that the spanning tree keeps from forwarding."""
    hosts: dict[str, tuple[tuple[str, ...], tuple[str, ...]]] = field(default_factory=dict)
    """Endpoint -> (addresses with their lengths, gateways)."""
    learnt: tuple[tuple[str, str, str, str, str], ...] = ()
    """(box, VRF, prefix, next hop or "", interface) learnt by OSPF."""
    behind: dict[str, tuple[str, ...]] = field(default_factory=dict)
    """Outside -> addresses that answer there."""
    failed: frozenset[str] = frozenset()
    """Boxes, units, `box:port`, or cables `a:1--b:2`."""


@dataclass(frozen=True)
class Interface:
    """A layer-3 interface of a box that is up."""

    device: str
    name: str
    settings: Layer3
    addresses: tuple[str, ...]
    dev: str
    """What it is called in its namespace."""
    tap: str
    """What its other end is called, among the wires; empty for a loopback."""

    @property
    def vrf(self) -> str:
        """Return its VRF."""
        return self.settings.vrf or "main"

    def first(self, version: int) -> str | None:
        """Return its first address of a family, without its length."""
        return next((bare(a) for a in self.addresses if ip_interface(a).version == version), None)


@dataclass
class Lab:
    """All of it."""

    design: Design
    words: Words
    interfaces: list[Interface] = field(default_factory=list)
    elements: list[Element] = field(default_factory=list)
    at: dict[str, tuple[int, str]] = field(default_factory=dict)
    """A device among the wires -> (the element, the port of it) that hears what comes out of it."""
    leaves: dict[tuple[int, str], str] = field(default_factory=dict)
    """(element, port) -> the device that a frame leaves by."""
    cables: list[tuple[str, str]] = field(default_factory=list)
    given: Given = Given()

    def of(self, device: str) -> list[Interface]:
        """Return the interfaces of a box."""
        return [i for i in self.interfaces if i.device == device]

    @property
    def boxes(self) -> list[str]:
        """Return the boxes that have a namespace."""
        return list(dict.fromkeys(i.device for i in self.interfaces))


def lab_of(design: Design, given: Given) -> Lab:
    """Return what a design is built of."""
    lab = Lab(design, Words(design), given=given)
    lines = _Lines(design, given)
    lab.cables = lines.cables
    for device in design.devices:
        if not lines.dead(device.name):
            _Box(lab, lines, device).build()
    return lab


class _Lines:
    """Cables that are whole, and by which devices each port and bundle is reached."""

    def __init__(self, design: Design, given: Given) -> None:
        self.given = given
        self.owner: dict[str, str] = {}
        self.devices = {d.name: d for d in design.devices}
        for device in design.devices:
            units = [u.name for u in device.units] if isinstance(device, Firewall) else []
            active = given.active.get(device.name, max(device.units, key=lambda u: u.priority).name if units else "")  # type: ignore[union-attr]
            for name in units or [device.name]:
                if not units or name == active:
                    self.owner[name] = device.name
        self.ports = {(d.name, p.name): p for d in design.devices for p in _ports(d)}
        self.lags = {(d.name, g.name): g for d in design.devices for g in getattr(d, "lags", [])}
        self.cables: list[tuple[str, str]] = []
        self.cabled = {(self.owner.get(box, box), port) for c in design.cables for box, port in map(parse_end, c)}
        self.ends: dict[tuple[str, str], list[tuple[str, tuple[str, str]]]] = {}
        """(box, port) -> (its device among the wires, the line at the other end)."""
        for k, cable in enumerate(design.cables):
            self._lay(k, [parse_end(e) for e in cable])

    def dead(self, device: str) -> bool:
        """Tell whether a box is not there: itself failed, or every unit of it."""
        return device not in self.owner.values()

    def _lay(self, number: int, ends: list[tuple[str, str]]) -> None:
        failed = self.given.failed
        name = "--".join(f"{box}:{port}" for box, port in sorted(ends))
        if name in failed or any(box in failed or f"{box}:{port}" in failed for box, port in ends):
            return
        if not all(box in self.owner for box, _ in ends):
            return
        there = [(self.owner[box], port) for box, port in ends]
        speeds = {p.speed_mbps for p in map(self.ports.get, there) if p is not None and p.speed_mbps}
        if len(speeds) > 1 or not all(self._alive(*end) for end in there):
            return
        devices = f"c{number}a", f"c{number}b"
        self.cables.append(devices)
        lines = [self.line(*end) for end in there]
        for k in (0, 1):
            self.ends.setdefault(there[k], []).append((devices[k], lines[1 - k]))

    def _alive(self, device: str, port: str) -> bool:
        entry = self.ports.get((device, port))
        if entry is None:
            return isinstance(self.devices[device], AccessPoint)
        mode = entry.mode or DEFAULT_MODE[self.devices[device].kind]
        return entry.enabled and mode not in ("off", "heartbeat")

    def line(self, device: str, port: str) -> tuple[str, str]:
        """Return the bundle that a port is a member of, else the port itself."""
        entry = self.ports.get((device, port))
        return device, entry.lag if entry is not None and entry.lag else port

    def free(self, device: str, line: Port | Lag) -> bool:
        """Tell whether a port is switched on and nothing is plugged in."""
        return line.enabled and isinstance(line, Port) and (device, line.name) not in self.cabled

    def devices_of(self, device: str, line: Port | Lag) -> list[str]:
        """Return the devices a line is reached by: those of a bundle that lead to one and the same bundle, the others stay out (IEEE 802.1AX)."""
        if not line.enabled:
            return []
        if not isinstance(line, Lag):
            found = self.ends.get((device, line.name), [])
            return [dev for dev, far in found if far not in self.lags]
        members = [p for (d, _), p in self.ports.items() if d == device and p.lag == line.name]
        found = [end for p in members for end in self.ends.get((device, p.name), [])]
        if not found:
            return []
        peer = Counter(far for _, far in found).most_common(1)[0][0]
        kept = [dev for dev, far in found if far == peer]
        other = self.lags.get(peer)
        if other is None or not other.enabled or not _bundles(line.protocol, other.protocol):
            return []
        return kept if len(kept) >= max(line.min_links, other.min_links) else []


def _bundles(mine: str, theirs: str) -> bool:
    """Tell whether two ends become a bundle: both without a protocol, or one at least that begins to speak (IEEE 802.1AX-2020, clause 6.4.1)."""
    return mine == theirs == "static" or ("static" not in (mine, theirs) and "lacp-active" in (mine, theirs))


def _ports(device: Any) -> list[Port]:
    """Return the ports of a device; a host that names none has one, called 1."""
    return device.ports or ([Port(name="1")] if isinstance(device, Endpoint | Outside) else [])


class _Box:
    """One device, put among the wires."""

    def __init__(self, lab: Lab, lines: _Lines, device: Any) -> None:
        self.lab, self.lines, self.device = lab, lines, device

    def build(self) -> None:
        """Add its interfaces and elements."""
        device = self.device
        if isinstance(device, Hub):
            ports = [p.name for p in device.ports if self.lines.devices_of(device.name, p)]
            self._element(Repeater(ports), {p.name: p for p in device.ports})
            return
        lines: list[Port | Lag] = [*getattr(device, "lags", []), *(p for p in _ports(device) if not p.lag)]
        bridged = [x for x in lines if self._mode(x) == "bridged"]
        air = self._air() if isinstance(device, AccessPoint) else []
        inside = self._inside([*bridged, *air]) if isinstance(device, BridgingBox) else []
        if bridged or inside or air:
            self._bridge([*bridged, *air], inside)
        for line in lines:
            if self._mode(line) == "routed" or isinstance(device, Endpoint | Outside):
                self._routed(line)
        for wire in getattr(device, "wires", []):
            self._wire(wire)
        for loop in getattr(device, "loopbacks", []):
            self.lab.interfaces.append(Interface(device.name, loop.name, loop, tuple(loop.addresses), "lo", ""))

    def _mode(self, line: Port | Lag) -> str:
        return line.mode or (
            "bridged" if isinstance(line, Lag) and self.device.kind == "switch" else DEFAULT_MODE[self.device.kind]
        )

    def _air(self) -> list[Port]:
        """Return the ports that clients of wireless networks have joined by, and the cables that stand for it."""
        out = []
        for ssid in self.device.ssids:
            for k, (dev, far) in enumerate(self.lines.ends.get((self.device.name, ssid.name), [])):
                port = ssid.as_port(far[0] if far[0] else str(k))
                out.append(port)
                self.lines.ends[self.device.name, association(ssid.name, far[0] if far[0] else str(k))] = [(dev, far)]
        return out

    def _inside(self, lines: list[Any]) -> list[tuple[int, Interface]]:
        """Return the VLAN interfaces that are up, each with its VLAN."""
        return [
            (v.vlan, self._interface(f"vlan{v.vlan}", v, tuple(v.addresses)))
            for v in self.device.vlan_interfaces
            if v.enabled and self._held_up(v.vlan, lines)
        ]

    def _held_up(self, vlan: int, lines: list[Any]) -> bool:
        """Tell whether a VLAN is known to the box, and, where its interfaces follow ports, some port of it is up or waits for a host."""
        device = self.device
        if device.vlans is not None and vlan not in device.vlans:
            return False
        carrying = [x for x in lines if vlan in (*x.tagged, *x.untagged)]
        return not device.follows_ports or any(
            self.lines.devices_of(device.name, x) or self.lines.free(device.name, x) for x in carrying
        )

    def _interface(self, name: str, settings: Layer3, addresses: tuple[str, ...]) -> Interface:
        k = len(self.lab.interfaces)
        made = Interface(self.device.name, name, settings, addresses, f"i{k}", f"t{k}")
        self.lab.interfaces.append(made)
        return made

    def _element(self, element: Element, lines: dict[str, Any]) -> None:
        number = len(self.lab.elements)
        self.lab.elements.append(element)
        for name, line in lines.items():
            devices = [line.tap] if isinstance(line, Interface) else self.lines.devices_of(self.device.name, line)
            for dev in devices:
                self.lab.at[dev] = number, name
            if devices:
                self.lab.leaves[number, name] = devices[0]

    def _bridge(self, lines: list[Any], inside: list[tuple[int, Interface]]) -> None:
        device = self.device
        plan = [v.id for v in self.lab.design.vlans]
        vlans = getattr(device, "vlans", None)
        ports = [self._port(line) for line in lines]
        ports += [BridgePort(i.name, v, frozenset({v}), accept="untagged", inside=True) for v, i in inside]
        crossing = UnseenFilter(self.lab.words, device, "bridged") if isinstance(device, Firewall) else None
        table = frozenset(plan if vlans is None else vlans)
        if isinstance(device, AccessPoint):
            table |= {v for p in ports for v in p.untagged | p.tagged}
        self._element(Bridge(table, ports, crossing), {x.name: x for x in lines} | {i.name: i for _, i in inside})

    def _port(self, line: Any) -> BridgePort:
        pvid, untagged = line.pvid, frozenset(line.untagged)
        default = getattr(self.device, "default_vlan", None)
        if default is not None and pvid is None and not line.member_of:
            pvid, untagged = default, frozenset({default})
        access = len(untagged) == 1 and not line.tagged
        zones: dict[int | None, str] = {None: line.zone} if line.zone else {}
        zones |= {s.tag: s.zone for s in line.subinterfaces if s.zone and s.enabled}
        return BridgePort(
            line.name,
            pvid,
            untagged,
            frozenset(line.tagged),
            line.accept or ("untagged" if access else "all"),
            line.ingress_check,
            line.isolated,
            dict(line.translate),
            zones,
            TAG_TYPES[getattr(line, "tag_protocol", None) or "8100"],
            (self.device.name, line.name) in self.lab.given.blocked,
        )

    def _routed(self, line: Port | Lag) -> None:
        device = self.device
        if not self.lines.devices_of(device.name, line):
            return
        by_tag: dict[int | None, str] = {}
        taps: dict[str, Any] = {line.name: line}
        own = self._addresses(line)
        if own or not line.subinterfaces or isinstance(device, Outside):
            made = self._interface(line.name, line, own)
            by_tag[None] = made.dev
            taps[made.dev] = made
        for sub in (s for s in line.subinterfaces if s.enabled):
            addresses = self._given() if isinstance(device, Endpoint) else tuple(sub.addresses)
            made = self._interface(f"{line.name}.{sub.tag}", sub, addresses)
            by_tag[sub.tag] = made.dev
            taps[made.dev] = made
        tag_type = TAG_TYPES[getattr(line, "tag_protocol", None) or "8100"]
        self._element(RoutedPort(line.name, by_tag, tag_type), taps)

    def _addresses(self, line: Port | Lag) -> tuple[str, ...]:
        if isinstance(self.device, Endpoint):
            return self._given() if not line.subinterfaces else ()
        return tuple(line.addresses)

    def _given(self) -> tuple[str, ...]:
        held = self.lab.given.hosts.get(self.device.name)
        return held[0] if held is not None else tuple(self.device.addresses)

    def _wire(self, wire: Any) -> None:
        device = self.device
        ends = {p.name: p for p in (*device.ports, *device.lags) if p.name in wire.ends}
        if len(ends) != 2:
            return
        up = [bool(self.lines.devices_of(device.name, p)) for p in ends.values()]
        if not all(up):
            return
        tags = None if wire.tags == "any" else frozenset(None if t == "untagged" else t for t in wire.tags)
        zones = ends[wire.ends[0]].zone, ends[wire.ends[1]].zone
        crossing = UnseenFilter(self.lab.words, device, "inline")
        self._element(InlinePair((wire.ends[0], wire.ends[1]), tags, zones, crossing), dict(ends))


def unproved(design: Design) -> dict[str, list[str]]:
    """Return what of a design is not built here: the feature, and the boxes that have it. Packets that meet such a box there are not counted."""
    out: dict[str, list[str]] = {}

    def add(feature: str, device: str) -> None:
        out.setdefault(feature, []).append(device)

    for device in design.devices:
        if isinstance(device, Switch) and device.mac_vrfs:
            add("overlay", device.name)
        if isinstance(device, BridgingBox):
            if device.tunnels or device.remote_access:
                add("tunnels", device.name)
            if any(v.on_overlay for v in device.vrfs):
                add("overlay", device.name)
            if any(i.vrrp for i in _layer3(device)):
                add("redundant-gateways", device.name)
        if isinstance(device, Firewall) and device.failover and device.failover.mode == "shared":
            add("shared-pairs", device.name)
    return out


def _layer3(device: BridgingBox) -> Iterable[Layer3]:
    yield from device.vlan_interfaces
    for line in (*device.ports, *device.lags):
        yield line
        yield from line.subinterfaces


def bare(address: str) -> str:
    """Return an address without its length."""
    return str(ip_interface(address).ip)


def network_of(address: str) -> Any:
    """Return the subnet an address with its length lies in."""
    return ip_interface(address).network


def holds(network: str, address: str) -> bool:
    """Tell whether an address lies in a subnet."""
    net, one = ip_network(network), ip_address(address)
    return net.version == one.version and one in net
