"""A way out to the internet in one go: the port that leads there, its zone, the default route, and a translation for what is inside."""

from __future__ import annotations

import copy
from dataclasses import dataclass
from ipaddress import ip_interface

from anabasis.design.edits import Patch, Tree, difference
from anabasis.design.making.devices import SILENT, owner_of
from anabasis.design.notation import Address, Interface, parse_address, parse_end, parse_interface
from anabasis.design.whereabouts import device_entry, port_entry
from anabasis.errors import InputRefused, Problem


@dataclass(frozen=True)
class WayOut:
    """What a person decides."""

    firewall: str
    port: str
    address: str
    """Its own towards the outside, with the length: 198.51.100.2/30."""
    via: str
    """The next hop the carrier gave."""
    zone: str = "street"


@dataclass(frozen=True)
class WayOutProposal:
    """Where a way out could begin: a port of a firewall that is cabled to an outside, or to a router."""

    firewall: str
    port: str
    address: str
    via: str


def way_out(raw: Tree, wanted: WayOut) -> Patch:
    """Return the edit. Raises InputRefused where the next hop is not in the subnet of the address, or the port says otherwise already."""
    tree: Tree = copy.deepcopy(raw)
    _, device = device_entry(tree, wanted.firewall)
    where, port = port_entry(tree, wanted.firewall, wanted.port)
    own, hop = _read(wanted)
    if hop not in own.network or hop == own.ip:
        said = "the next hop is another address of the same subnet"
        raise InputRefused(
            [Problem("/via", said, repr(wanted.via), f"an address of {own.network} other than {own.ip}")]
        )
    if set(port) - {*SILENT, "mode", "addresses", "zone", "answers"} or port.get("mode", "routed") not in (
        "routed",
        "off",
    ):
        raise InputRefused(
            [Problem(where, "this port is used for something else", repr(wanted.port), "a port that says nothing yet")]
        )
    port |= {"mode": "routed", "addresses": [wanted.address]}
    if device["kind"] == "firewall":
        zones = device.setdefault("zones", [])
        if wanted.zone not in [z["name"] for z in zones]:
            zones.append({"name": wanted.zone, "kind": "routed"})
        port["zone"] = wanted.zone
    default = "0.0.0.0/0" if own.version == 4 else "::/0"
    vrfs = device.setdefault("vrfs", [])
    main = next((v for v in vrfs if v["name"] == "main"), None)
    if main is None:
        main = {"name": "main"}
        vrfs.append(main)
    routes = [r for r in main.get("routes", []) if r["to"] != default]
    main["routes"] = [*routes, {"to": default, "via": wanted.via}]
    inside = [
        z["name"] for z in device.get("zones", []) if z["name"] != wanted.zone and z.get("kind", "routed") == "routed"
    ]
    if inside and not any(n.get("source_to") and wanted.zone in n.get("to", []) for n in device.get("nat", [])):
        entry = {
            "name": "inside-goes-out",
            "from": inside,
            "to": [wanted.zone],
            "sources": ["any"],
            "source_to": "interface",
        }
        device.setdefault("nat", []).append(entry)
    return difference(raw, tree)


def _read(wanted: WayOut) -> tuple[Interface, Address]:
    try:
        return parse_interface(wanted.address), parse_address(wanted.via)
    except ValueError as error:
        raise InputRefused(
            [Problem("/address", "badly written", f"{wanted.address}, {wanted.via}", str(error))]
        ) from None


def way_out_proposals(tree: Tree) -> list[WayOutProposal]:
    """Return where a way out could begin, those that lead to an outside first, with the addresses that the far end lets one guess."""
    out: list[tuple[bool, WayOutProposal]] = []
    for cable in tree.get("cables", []):
        ends = [parse_end(e) for e in cable]
        for near, far in (ends, ends[::-1]):
            device, other = owner_of(tree, near[0]), owner_of(tree, far[0])
            if device["kind"] != "firewall" or other["kind"] not in ("outside", "router"):
                continue
            port: Tree = next((p for p in other.get("ports", []) if p["name"] == far[1]), {})
            hop = next((ip_interface(a) for a in port.get("addresses", []) if "." in a), None)
            mine = next(p for p in device["ports"] if p["name"] == near[1])
            own = next((a for a in mine.get("addresses", []) if "." in a), "")
            if not own and hop is not None:
                own = f"{hop.ip + 1 if hop.ip + 1 in hop.network else hop.ip - 1}/{hop.network.prefixlen}"
            via = str(hop.ip) if hop is not None else ""
            out.append((other["kind"] != "outside", WayOutProposal(device["name"], near[1], own, via)))
    return [p for _, p in sorted(out, key=lambda o: o[0])]
