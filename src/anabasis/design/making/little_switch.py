"""A firewall as a little switch: spare ports bridged in one VLAN, with a VLAN interface as the gateway, its lease and its zones, in one edit."""

from __future__ import annotations

import copy
from dataclasses import dataclass

from anabasis.design.edits import Patch, Tree, difference
from anabasis.design.making.fresh import fresh, gateway_place
from anabasis.design.making.on_ports import spare_port
from anabasis.design.making.patterns import port_names_of
from anabasis.design.new_vlan import into_table
from anabasis.design.whereabouts import device_entry, port_names
from anabasis.errors import InputRefused, Problem


@dataclass(frozen=True)
class LittleSwitch:
    """What a person decides."""

    firewall: str
    ports: str
    name: str
    """Of the VLAN, and of the zone of its gateway."""
    vlan: int | None = None
    """Left out = the next free one."""
    subnet: str | None = None
    """Left out = by the site's pattern."""


def little_switch(raw: Tree, wanted: LittleSwitch) -> Patch:
    """Return the edit. Raises InputRefused where a port is used for something else, or there is no subnet to be had."""
    tree: Tree = copy.deepcopy(raw)
    at, device = device_entry(tree, wanted.firewall)
    if device["kind"] != "firewall":
        raise InputRefused([Problem(f"{at}/kind", "this joins ports of a firewall", repr(device["kind"]), "firewall")])
    proposed = fresh(raw, "vlan", "").value
    vlan = wanted.vlan or int(proposed["id"])
    subnets = [wanted.subnet] if wanted.subnet else proposed.get("subnets", [])
    known = next((v for v in tree.get("vlans", []) if v["id"] == vlan), None)
    subnets = known.get("subnets", []) if known else subnets
    gateway = next((g for n in subnets if (g := gateway_place(raw, n))), None)
    if gateway is None:
        raise InputRefused(
            [Problem("/subnet", "the site's pattern gives this VLAN no subnet", allowed="10.20.40.0/24")]
        )
    if known is None:
        tree.setdefault("vlans", []).append({"id": vlan, "name": wanted.name, "subnets": subnets})
    into_table(tree, wanted.firewall, vlan)
    inner = f"{wanted.name}-ports"
    zones = device.setdefault("zones", [])
    for name, kind in ((wanted.name, "routed"), (inner, "bridged")):
        if name not in [z["name"] for z in zones]:
            zones.append({"name": name, "kind": kind})
    for name in _names(wanted, device):
        port = spare_port(tree, wanted.firewall, name)
        port |= {"mode": "bridged", "pvid": vlan, "untagged": [vlan], "zone": inner}
        port.setdefault("note", f"For {wanted.name}")
    answers = device.setdefault("answers", [])
    basics = f"{wanted.name}-basics"
    if basics not in [a["name"] for a in answers]:
        answers.append({"name": basics, "services": ["ping", "dns"], "sources": subnets})
    entry = {"vlan": vlan, "addresses": [gateway], "zone": wanted.name, "answers": basics}
    device.setdefault("vlan_interfaces", []).append(entry)
    lease = fresh(tree, "lease", at).value
    if lease["interface"] == f"vlan{vlan}":
        device.setdefault("dhcp", []).append(lease | {"dns": [gateway.partition("/")[0]]})
    return difference(raw, tree)


def _names(wanted: LittleSwitch, device: Tree) -> list[str]:
    names = port_names_of(wanted.ports, known=port_names(device))
    if len(names) < 2:
        raise InputRefused(
            [Problem("/ports", "a switch has two ports at least", repr(wanted.ports), "ports such as 3-6")]
        )
    return names
