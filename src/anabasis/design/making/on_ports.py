"""Whole jobs on ports that are chosen: theirs alone, for a phone and a desk, or spare ones joined to a routed one; each as one edit."""

from __future__ import annotations

import copy
from dataclasses import dataclass
from ipaddress import ip_interface
from typing import Protocol

from anabasis.design.devices import DEFAULT_MODE
from anabasis.design.edits import Patch, Tree, difference
from anabasis.design.making.devices import SILENT
from anabasis.design.making.fresh import fresh
from anabasis.design.making.patterns import port_names_of
from anabasis.design.mentions import mentions
from anabasis.design.new_vlan import into_table
from anabasis.design.ports import Layer3
from anabasis.design.removal import Removal, remove_all
from anabasis.design.renaming import rename_all
from anabasis.design.whereabouts import device_entry, port_entry, port_names
from anabasis.errors import InputRefused, Problem

LAYER3 = tuple(Layer3.__annotations__)
"""What an interface says of layer 3; it goes with the addresses."""


@dataclass(frozen=True)
class OnlyTheirs:
    """Ports that leave every VLAN but the one of their hosts."""

    device: str
    ports: str


@dataclass(frozen=True)
class PhoneAndDesk:
    """Ports where a telephone stands, and a desk behind it: the desk's VLAN without tags, the telephone's with its tag."""

    device: str
    ports: str
    desk: int | None = None
    """Left out = the VLAN the port has now."""
    phone: int | None = None
    """Left out = the VLAN for voice."""


@dataclass(frozen=True)
class JoinRouted:
    """Spare ports joined to a routed port: its addresses move to the VLAN interface of a VLAN that all of them bridge."""

    device: str
    routed: str
    ports: str
    name: str
    """Of the VLAN, where the plan has none with this subnet."""


@dataclass(frozen=True)
class RenamePorts:
    """Ports that get other names, one after the other; whatever names them names them so."""

    device: str
    ports: str
    names: str
    """As many as there are ports: `1/0/1-24`."""


@dataclass(frozen=True)
class RemovePorts:
    """Ports that are taken out, with their cables and whatever leans on them."""

    device: str
    ports: str


def rename_ports(raw: Tree, wanted: RenamePorts) -> Patch:
    """Return the edit. Raises InputRefused where there are not as many names as ports, or a name is another port's."""
    old, new = (
        _some(raw, wanted),
        port_names_of(wanted.names, "/names", port_names(device_entry(raw, wanted.device)[1])),
    )
    if len(old) != len(new):
        raise InputRefused([Problem("/names", "not one name a port", f"{len(new)} names", f"{len(old)} names")])
    _, device = device_entry(raw, wanted.device)
    kept = {p["name"] for p in device.get("ports", [])} - set(old)
    if taken := [n for n in new if n in kept]:
        raise InputRefused([Problem("/names", "another port is called so", repr(taken[0]), "names that are free")])
    at = {n: port_entry(raw, wanted.device, n)[0] for n in old}
    return rename_all(raw, {at[a]: b for a, b in zip(old, new, strict=True) if a != b})


def remove_ports(raw: Tree, wanted: RemovePorts) -> Removal:
    """Return the edit, and what else it takes."""
    return remove_all(raw, [port_entry(raw, wanted.device, name)[0] for name in _some(raw, wanted)])


def only_theirs(raw: Tree, wanted: OnlyTheirs) -> Patch:
    """Return the edit. Raises InputRefused where a port is not bridged, or holds no VLAN without tags."""
    tree: Tree = copy.deepcopy(raw)
    for name in _some(tree, wanted):
        at, port = _bridged(tree, wanted.device, name)
        vlan = _desk_of(at, port)
        port |= {"pvid": vlan, "untagged": [vlan]}
        port.pop("tagged", None)
        port.pop("translate", None)
    return difference(raw, tree)


def phone_and_desk(raw: Tree, wanted: PhoneAndDesk) -> Patch:
    """Return the edit. Raises InputRefused where no VLAN is for voice, or both are one."""
    tree: Tree = copy.deepcopy(raw)
    voices = [v["id"] for v in raw.get("vlans", []) if v.get("purpose") == "voice"]
    phone = wanted.phone or next(iter(voices), None)
    if phone is None:
        raise InputRefused([Problem("/phone", "no VLAN of the plan has the purpose voice", allowed="a VLAN's number")])
    for name in _some(tree, wanted):
        at, port = _bridged(tree, wanted.device, name)
        desk = wanted.desk or _desk_of(at, port)
        if desk == phone:
            raise InputRefused([Problem("/phone", "this is the desk's VLAN", str(phone), "another VLAN")])
        port |= {"pvid": desk, "untagged": [desk], "tagged": [phone]}
        if port.get("accept") == "untagged":
            del port["accept"]
        for vlan in (desk, phone):
            into_table(tree, wanted.device, vlan)
    return difference(raw, tree)


def join_routed(raw: Tree, wanted: JoinRouted) -> Patch:
    """Return the edit: whatever named the port as an interface names the VLAN interface.

    Its subinterfaces become VLAN interfaces of their tags, carried tagged by the port as before.

    Raises InputRefused where the port is not routed, a spare one is used, or the box has an interface in such a VLAN.
    """
    tree: Tree = copy.deepcopy(raw)
    at, device = device_entry(tree, wanted.device)
    where, port = port_entry(tree, wanted.device, wanted.routed)
    kind = device["kind"]
    if port.get("mode", DEFAULT_MODE.get(kind)) != "routed" or kind not in ("firewall", "router", "switch"):
        said = "only a routed port of a box that bridges can be joined"
        raise InputRefused([Problem(where, said, repr(wanted.routed), "a routed port with its addresses")])
    if not port.get("addresses"):
        raise InputRefused([Problem(f"{where}/addresses", "this port has no address that spare ports could share")])
    vlan = _vlan_of(tree, port, wanted.name)
    moved = {wanted.routed: _interface(where, device, vlan, port, into=tree, of=wanted.device)}
    tags = [s["tag"] for s in port.get("subinterfaces", [])]
    for sub in port.pop("subinterfaces", []):
        moved[f"{wanted.routed}.{sub['tag']}"] = _interface(where, device, sub.pop("tag"), sub, tree, wanted.device)
    inner = _inner_zone(device, wanted.name) if kind == "firewall" else None
    for name in [wanted.routed, *_some(tree, wanted)]:
        entry = port if name == wanted.routed else spare_port(tree, wanted.device, name)
        entry |= {"mode": "bridged", "pvid": vlan, "untagged": [vlan]} | ({"zone": inner} if inner else {})
    if tags:
        port["tagged"] = tags
    index = int(at.rpartition("/")[2])
    for mention in list(mentions(tree)):
        if mention.kind == "interface" and mention.device == index and mention.value in moved:
            mention.become(moved[mention.value])
    return difference(raw, tree)


def spare_port(tree: Tree, device: str, name: str) -> Tree:
    """Return a port that is used for nothing yet. Raises InputRefused where it is."""
    where, port = port_entry(tree, device, name)
    _, box = device_entry(tree, device)
    usual = DEFAULT_MODE.get(box["kind"], "off")
    if set(port) - {*SILENT, "mode"} or port.get("mode", usual) not in ("off", usual):
        raise InputRefused(
            [Problem(where, "this port is used for something else", repr(name), "ports that say nothing yet")]
        )
    return port


def _interface(where: str, device: Tree, vlan: int, said: Tree, into: Tree, of: str) -> str:
    """Move what a port or subinterface says of layer 3 to the interface of a VLAN; return that one's name."""
    interfaces = device.setdefault("vlan_interfaces", [])
    if any(v["vlan"] == vlan for v in interfaces):
        raise InputRefused([Problem(where, f"{of} has an interface in VLAN {vlan} already", repr(f"vlan{vlan}"))])
    interfaces.append({"vlan": vlan} | {k: said.pop(k) for k in LAYER3 if k in said})
    if not said.get("enabled", True) and "name" not in said:
        interfaces[-1]["enabled"] = False
    into_table(into, of, vlan)
    return f"vlan{vlan}"


def _vlan_of(tree: Tree, port: Tree, name: str) -> int:
    """Return the VLAN of the plan with the port's subnet, or a new one."""
    subnets = [str(ip_interface(a).network) for a in port["addresses"]]
    for vlan in tree.get("vlans", []):
        if set(vlan.get("subnets", [])) & set(subnets):
            return int(vlan["id"])
    number = int(fresh(tree, "vlan", "").value["id"])
    tree.setdefault("vlans", []).append({"id": number, "name": name, "subnets": subnets})
    return number


def _inner_zone(device: Tree, name: str) -> str:
    """Return the zone of the bridged ports, made where there is none of this name."""
    inner = f"{name}-ports"
    zones = device.setdefault("zones", [])
    if inner not in [z["name"] for z in zones]:
        zones.append({"name": inner, "kind": "bridged"})
    return inner


def _bridged(tree: Tree, device: str, name: str) -> tuple[str, Tree]:
    _, box = device_entry(tree, device)
    where, port = port_entry(tree, device, name)
    if port.get("mode", DEFAULT_MODE.get(box["kind"], "bridged")) != "bridged":
        raise InputRefused([Problem(where, "this port is not bridged", repr(name), "bridged ports")])
    return where, port


def _desk_of(where: str, port: Tree) -> int:
    untagged = port.get("untagged", [])
    vlan = port.get("pvid") or (untagged[0] if len(untagged) == 1 else None)
    if vlan is None:
        raise InputRefused([Problem(where, "this port has no VLAN of its own", repr(port["name"]), "a PVID first")])
    return int(vlan)


class _OnPorts(Protocol):
    @property
    def device(self) -> str: ...
    @property
    def ports(self) -> str: ...


def _some(tree: Tree, wanted: _OnPorts) -> list[str]:
    names = port_names_of(wanted.ports, known=port_names(device_entry(tree, wanted.device)[1]))
    if not names:
        raise InputRefused([Problem("/ports", "names no port", repr(wanted.ports), "ports such as 3-6")])
    return names
