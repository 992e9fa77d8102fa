"""New boxes, ports, cables, bundles and inline pairs, each as one edit."""

from __future__ import annotations

import copy
from collections.abc import Iterator
from dataclasses import dataclass
from ipaddress import ip_interface, ip_network
from typing import Any, Literal

from anabasis.design.devices import DEFAULT_MODE
from anabasis.design.edits import Patch, Tree, difference
from anabasis.design.making.patterns import port_names_of
from anabasis.design.new_vlan import into_table
from anabasis.design.notation import end_asked, parse_end
from anabasis.design.ports import Protocol
from anabasis.design.whereabouts import device_entry, port_entry, port_names
from anabasis.errors import InputRefused, Problem, UnknownPlace, nearest

Kind = Literal["switch", "router", "firewall", "hub", "access-point", "endpoint", "outside"]
SILENT = ("name", "note", "speed_mbps", "duplex", "mtu", "tag_protocol", "enabled")
"""What a port may say and still says nothing of VLANs and layers."""


@dataclass(frozen=True)
class NewDevice:
    """What a person decides about a new box."""

    kind: Kind
    name: str
    ports: str = ""
    """How its ports are called: `1-24`, `1/0/1-24`, `a-d`; left out = one for a host or an outside, none else."""
    routing: bool = False
    """A switch that routes."""


@dataclass(frozen=True)
class NewPorts:
    """More ports of a box."""

    device: str
    ports: str


@dataclass(frozen=True)
class NewHost:
    """A host at a free port."""

    name: str
    at: str
    """box:port"""
    vlan: int | None = None
    """The VLAN it stands in; the port then takes and sends it untagged."""
    address: str | None = None
    """Left out = it asks for a lease."""


@dataclass(frozen=True)
class NewCables:
    """One cable, or several side by side."""

    one: str
    """box:ports, as `hall-sw:21-24`."""
    two: str


@dataclass(frozen=True)
class BundlePorts:
    """Ports that become one bundle."""

    device: str
    ports: str
    name: str
    protocol: Protocol = "lacp-active"
    far: bool = True
    """The ports at the far ends of their cables are bundled as well, where they are of one box and bundled nowhere."""


@dataclass(frozen=True)
class InlinePair:
    """Two ports of a firewall that become an inline pair."""

    device: str
    ports: str
    name: str


def new_device(raw: Tree, wanted: NewDevice) -> Patch:
    """Return the edit that adds a box. The document is checked when the edit is applied."""
    tree: Tree = copy.deepcopy(raw)
    names = port_names_of(wanted.ports)
    device: Tree = {"name": wanted.name, "kind": wanted.kind}
    if wanted.kind == "switch" and wanted.routing:
        device["routing"] = True
    if wanted.kind == "outside":
        device["prefixes"] = ["0.0.0.0/0"]
    if wanted.kind == "endpoint" and not names:
        device["dhcp"] = True
    if names:
        device["ports"] = [{"name": n} for n in names]
    tree.setdefault("devices", []).append(device)
    return difference(raw, tree)


def new_ports(raw: Tree, wanted: NewPorts) -> Patch:
    """Return the edit that adds ports to a box. Raises InputRefused where none is named."""
    tree: Tree = copy.deepcopy(raw)
    _, device = device_entry(tree, wanted.device)
    names = port_names_of(wanted.ports)
    if not names:
        raise InputRefused([Problem("/ports", "names no port", repr(wanted.ports), "names such as 1-24 or 1/0/1-4")])
    device.setdefault("ports", []).extend({"name": n} for n in names)
    return difference(raw, tree)


def new_host(raw: Tree, wanted: NewHost) -> Patch:
    """Return the edit that puts a host at a free port: the host, its cable, and the port untagged in its VLAN."""
    tree: Tree = copy.deepcopy(raw)
    box, port = end_asked(wanted.at)
    owner = owner_of(tree, box)
    host: Tree = {"name": wanted.name, "kind": "endpoint"}
    host |= {"addresses": [wanted.address]} if wanted.address else {"dhcp": True}
    tree.setdefault("devices", []).append(host)
    tree.setdefault("cables", []).append([f"{box}:{port}", f"{wanted.name}:1"])
    if wanted.vlan is not None:
        _, entry = port_entry(tree, owner["name"], port)
        entry |= {"pvid": wanted.vlan, "untagged": [wanted.vlan]}
        if owner["kind"] == "firewall":
            entry["mode"] = "bridged"
        into_table(tree, owner["name"], wanted.vlan)
    return difference(raw, tree)


def new_cables(raw: Tree, wanted: NewCables) -> Patch:
    """Return the edit that adds cables side by side. A new uplink between ports that say nothing carries, tagged, what both boxes know.

    Raises InputRefused where the two ends name different numbers of ports; the document is checked when the edit is applied.
    """
    tree: Tree = copy.deepcopy(raw)
    ends = [_ports_at(tree, text, f"/{key}") for key, text in (("one", wanted.one), ("two", wanted.two))]
    if len(ends[0][1]) != len(ends[1][1]):
        said = f"{len(ends[0][1])} ports at one end, {len(ends[1][1])} at the other"
        raise InputRefused([Problem("/two", "both ends name as many ports", said)])
    for near, far in zip(*(names for _, names in ends), strict=True):
        tree.setdefault("cables", []).append([f"{ends[0][0]}:{near}", f"{ends[1][0]}:{far}"])
        _carry(tree, (ends[0][0], near), (ends[1][0], far))
    return difference(raw, tree)


def _ports_at(tree: Tree, text: str, where: str) -> tuple[str, list[str]]:
    box, colon, ports = text.strip().partition(":")
    if not colon:
        known = sorted(boxes_of(tree))
        raise InputRefused(
            [Problem(where, "an end is box:ports", repr(text), "such as hall-sw:21-24", nearest(box, known))]
        )
    return box, port_names_of(ports, where, port_names(owner_of(tree, box)))


def _carry(tree: Tree, one: tuple[str, str], two: tuple[str, str]) -> None:
    """Let both ends of a new uplink carry what both boxes know, where they say nothing yet, in place."""
    sides = [(owner_of(tree, box), _port(owner_of(tree, box), port)) for box, port in (one, two)]
    for device, port in sides:
        bridged = port is not None and port.get("mode", DEFAULT_MODE[device["kind"]]) == "bridged"
        if not bridged or device["kind"] in ("hub", "endpoint", "outside") or set(port or {}) - set(SILENT):
            return
    plan = [v["id"] for v in tree.get("vlans", [])]
    both = [v for v in plan if all(v in device.get("vlans", plan) for device, _ in sides)]
    for _, port in sides:
        if both and port is not None:
            port["tagged"] = list(both)


def _port(device: Tree, name: str) -> Tree | None:
    return next((p for p in device.get("ports", []) if p["name"] == name), None)


def boxes_of(tree: Tree) -> dict[str, Tree]:
    """Return the devices of a plain document by the boxes that cables go to: units, or themselves."""
    return {u["name"]: d for d in tree.get("devices", []) for u in d.get("units") or [d]}


def owner_of(tree: Tree, box: str) -> Tree:
    """Return the device a box is, or is a unit of. Raises UnknownPlace."""
    boxes = boxes_of(tree)
    if box in boxes:
        return boxes[box]
    named = next((d for d in tree.get("devices", []) if d["name"] == box), None)
    hint = named["units"][0]["name"] if named else nearest(box, list(boxes))
    said = "a firewall's cables go to its units" if named else "there is no box of this name"
    raise UnknownPlace([Problem("", said, repr(box), ", ".join(list(boxes)[:12]), hint)])


def bundle_ports(raw: Tree, wanted: BundlePorts) -> Patch:
    """Return the edit that makes ports one bundle, with the settings of the first; and the ports at the far ends another."""
    tree: Tree = copy.deepcopy(raw)
    _, device = device_entry(tree, wanted.device)
    names = port_names_of(wanted.ports, known=port_names(device))
    if not names:
        raise InputRefused([Problem("/ports", "a bundle has members", repr(wanted.ports), "names such as 21-24")])
    _bundle(tree, device, names, wanted.name, wanted.protocol)
    if wanted.far:
        for far, ports in _far_ends(tree, device, names):
            taken = {x["name"] for key in ("ports", "lags") for x in far.get(key, [])}
            name = next(n for n in (f"to-{wanted.device}", *(f"to-{wanted.device}-{k}" for k in range(2, 99))) if n not in taken)  # fmt: skip
            _bundle(tree, far, ports, name, wanted.protocol)
    return difference(raw, tree)


def _bundle(tree: Tree, device: Tree, names: list[str], name: str, protocol: str) -> None:
    members = [port_entry(tree, device["name"], n)[1] for n in names]
    first = members[0]
    kept = {k: v for k, v in first.items() if k not in (*SILENT, "lag")}
    if kept.get("mode") == "lag":
        said = f"{device['name']}:{names[0]} is a member of {first.get('lag')} already"
        raise InputRefused([Problem("/ports", said, repr(names[0]))])
    mode = {"mode": "routed"} if device["kind"] == "firewall" and "mode" not in kept else {}
    device.setdefault("lags", []).append({"name": name, "protocol": protocol, **mode, **kept})
    for member in members:
        for key in [k for k in member if k not in SILENT]:
            del member[key]
        member |= {"mode": "lag", "lag": name}


def _far_ends(tree: Tree, device: Tree, names: list[str]) -> Iterator[tuple[Tree, list[str]]]:
    """Yield the boxes at the far ends with their ports, where all of one box's are bundled nowhere and none of them is a host."""
    mine = {u["name"] for u in device.get("units") or [device]}
    found: dict[str, list[str]] = {}
    for cable in tree.get("cables", []):
        ends = [parse_end(e) for e in cable]
        for near, far in (ends, ends[::-1]):
            if near[0] in mine and near[1] in names:
                found.setdefault(far[0], []).append(far[1])
    for box, ports in found.items():
        far_device = owner_of(tree, box)
        settings = [_port(far_device, p) or {} for p in ports]
        able = far_device["kind"] in ("switch", "router", "firewall")
        if able and len(ports) == len(names) and all(s.get("mode") != "lag" for s in settings):
            yield far_device, ports


def inline_pair(raw: Tree, wanted: InlinePair) -> Patch:
    """Return the edit that makes two ports of a firewall an inline pair. Raises InputRefused where they are not two."""
    tree: Tree = copy.deepcopy(raw)
    _, device = device_entry(tree, wanted.device)
    names = port_names_of(wanted.ports, known=port_names(device))
    if len(names) != 2:
        raise InputRefused([Problem("/ports", "an inline pair has two ends", repr(wanted.ports), "two ports, as 5, 6")])
    zones = {z["name"]: z for z in device.get("zones", [])}
    for name in names:
        _, port = port_entry(tree, wanted.device, name)
        for key in [k for k in port if k not in SILENT and k != "zone"]:
            del port[key]
        port["mode"] = "inline"
        if zones.get(port.get("zone", ""), {"kind": "inline"})["kind"] != "inline":
            del port["zone"]
    device.setdefault("wires", []).append({"name": wanted.name, "ends": names})
    return difference(raw, tree)


def next_address(tree: Tree, subnet: str, from_top: bool = False) -> str | None:
    """Return the next address of a subnet that nobody in the document has, with its length; None where there is none left."""
    net = ip_network(subnet)
    taken = {a.ip for a in map(ip_interface, addresses_in(tree)) if a.version == net.version}
    hosts: Any = net.hosts() if net.version == 4 else (net[k] for k in range(1, 4096))
    order = reversed(list(hosts)) if from_top and net.num_addresses < 70_000 else hosts
    free = next((a for a in order if a not in taken), None)
    return f"{free}/{net.prefixlen}" if free is not None else None


def addresses_in(node: Any, key: str = "") -> Iterator[str]:
    """Yield every address with its length that interfaces in a part of a document have."""
    if isinstance(node, dict):
        for name, value in node.items():
            yield from addresses_in(value, name)
    elif isinstance(node, list):
        for value in node:
            if isinstance(value, str) and key == "addresses" and "/" in value:
                yield value
            elif isinstance(value, dict):
                yield from addresses_in(value)
