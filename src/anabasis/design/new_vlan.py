"""A new VLAN in one action: the plan, the uplinks that carry it, the ports that use it, the tables on the way, and its gateway, as one edit."""

from __future__ import annotations

import copy
from dataclasses import dataclass, field
from ipaddress import ip_network

from anabasis.design.devices import DEFAULT_MODE
from anabasis.design.document import Design
from anabasis.design.edits import Patch, Tree, difference, patched
from anabasis.design.membership import MembershipCell, set_membership
from anabasis.design.notation import end_asked, parse_prefix
from anabasis.design.whereabouts import device_entry, port_entry
from anabasis.errors import InputRefused, Problem


@dataclass(frozen=True)
class NewVlan:
    """What a person decides about a new VLAN."""

    id: int
    name: str
    subnet: str | None = None
    uplinks: list[str] = field(default_factory=list)
    """Ports and bundles that carry it tagged, as device:port."""
    ports: list[str] = field(default_factory=list)
    """Ports whose hosts stand in it, untagged."""
    gateway: str | None = None
    """The routed port or bundle that gets a subinterface with the first address, as device:port; None = switched only."""
    zone: str | None = None


def new_vlan(raw: Tree, wanted: NewVlan) -> Patch:
    """Return the one edit that makes it. Raises UnknownPlace where a port is none; the document is checked when the edit is applied."""
    tree: Tree = copy.deepcopy(raw)
    entry = {"id": wanted.id, "name": wanted.name} | ({"subnets": [wanted.subnet]} if wanted.subnet else {})
    tree.setdefault("vlans", []).append(entry)
    cells = [MembershipCell(*end_asked(p), wanted.id, "tagged") for p in wanted.uplinks]
    cells += [MembershipCell(*end_asked(p), wanted.id, "untagged") for p in wanted.ports]
    for cell in cells:
        tree = patched(tree, set_membership(tree, cell.device, cell.port, cell.vlan, cell.cell))
    for name in dict.fromkeys(c.device for c in cells):
        into_table(tree, name, wanted.id)
        _everywhere(tree, name, wanted)
    if wanted.gateway:
        _add_gateway(tree, wanted, *end_asked(wanted.gateway))
    return difference(raw, tree)


def _everywhere(tree: Tree, device: str, wanted: NewVlan) -> None:
    """On a box that says so, put a new VLAN, tagged, onto every bridged port that nobody chose otherwise for, in place."""
    _, entry = device_entry(tree, device)
    chosen = {*wanted.uplinks, *wanted.ports}
    for port in (
        [*entry.get("ports", []), *entry.get("lags", [])] if entry.get("new_vlan") == "tagged_everywhere" else []
    ):
        bridged = port.get("mode", DEFAULT_MODE[entry["kind"]]) == "bridged"
        held = {*port.get("untagged", []), *port.get("tagged", [])}
        if bridged and f"{device}:{port['name']}" not in chosen and wanted.id not in held:
            port["tagged"] = [*port.get("tagged", []), wanted.id]


def into_table(tree: Tree, device: str, vlan: int) -> None:
    """Put a VLAN into the table of a device that has one written, in place."""
    _, entry = device_entry(tree, device)
    if "vlans" in entry and vlan not in entry["vlans"]:
        entry["vlans"] = sorted([*entry["vlans"], vlan])


def _add_gateway(tree: Tree, wanted: NewVlan, name: str, port: str) -> None:
    _, parent = port_entry(tree, name, port)
    subinterface: Tree = {"tag": wanted.id}
    if wanted.subnet:
        try:
            subnet = parse_prefix(wanted.subnet)
        except ValueError as error:
            raise InputRefused([Problem("/subnet", "badly written", repr(wanted.subnet), str(error))]) from None
        subinterface["addresses"] = [f"{subnet[1]}/{subnet.prefixlen}"]
    if wanted.zone:
        subinterface["zone"] = wanted.zone
    parent.setdefault("subinterfaces", []).append(subinterface)


def suggest_subnet(design: Design, vlan: int) -> str | None:
    """Return the subnet the site's pattern gives a VLAN (one octet is its id, as in most of the plan), where it is free; else None. In a plan without subnets a pattern is begun."""
    used = [parse_prefix(n) for v in design.vlans for n in v.subnets]
    if not used and 0 < vlan < 256:
        return f"10.20.{vlan}.0/24"
    for known in design.vlans:
        for text in known.subnets:
            head, slash, length = text.partition("/")
            octets = head.split(".")
            if len(octets) == 4 and octets[2] == str(known.id) and 0 < vlan < 256:
                found = ip_network(
                    ".".join([octets[0], octets[1], str(vlan), octets[3]]) + slash + length, strict=False
                )
                if not any(found.overlaps(u) for u in used if u.version == found.version):
                    return str(found)
    return None
