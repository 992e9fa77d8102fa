"""Switch a port or bundle from one mode to another in one edit, saying what it drops and what is still missing afterwards."""

from __future__ import annotations

import copy
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from anabasis.design.devices import DEFAULT_MODE
from anabasis.design.edits import Patch, Tree, difference
from anabasis.design.ports import Mode
from anabasis.design.whereabouts import device_entry, port_entry
from anabasis.errors import InputRefused, Problem, nearest

BRIDGED = ("pvid", "untagged", "tagged", "accept", "ingress_check", "isolated", "translate")
ROUTED = ("addresses", "vrf", "answers")
KEPT = {"bridged": BRIDGED, "routed": ROUTED}
"""Which settings each mode keeps; a setting of no mode here (speed, note, enabled) stays in all of them."""


@dataclass(frozen=True)
class NewMode:
    """What a person asks for; what is given beside the mode is set with it."""

    device: str
    port: str
    mode: Mode
    zone: str | None = None
    addresses: list[str] = field(default_factory=list)
    """routed"""
    vlan: int | None = None
    """bridged: the VLAN it holds without tags."""
    tagged: list[int] = field(default_factory=list)
    """bridged"""
    lag: str | None = None
    """lag: the bundle it joins."""
    pair_with: str | None = None
    """inline: the port at the other end of the pair; a wire between the two is made."""


@dataclass(frozen=True)
class Switched:
    """The edit, and what it means."""

    patch: Patch
    drops: list[str]
    missing: list[str]


def switch_mode(raw: Tree, wanted: NewMode) -> Switched:
    """Return the edit. Raises UnknownPlace for a port that is none, InputRefused where the mode cannot be."""
    tree: Tree = copy.deepcopy(raw)
    at, device = device_entry(tree, wanted.device)
    if device["kind"] not in ("switch", "router", "firewall"):
        said = f"a port of this kind of device ({device['kind']}) has no mode to choose"
        raise InputRefused([Problem(at, said)])
    at, entry = port_entry(tree, wanted.device, wanted.port)
    before = entry.get("mode", DEFAULT_MODE[device["kind"]])
    _possible(at, device, wanted)
    kinds = {z["name"]: z.get("kind", "routed") for z in device.get("zones", [])}
    drops = list(_settings_dropped(device, entry, before, wanted.mode)) + list(_leaning_dropped(device, wanted, before))
    if wanted.zone is not None and kinds.get(wanted.zone) != wanted.mode:
        drops.append(f"zone {wanted.zone}: it was of kind {kinds[wanted.zone]}")
    entry["mode"] = wanted.mode
    _settle(device, entry, wanted)
    return Switched(difference(raw, tree), drops, list(_missing(tree, device, entry, wanted.mode)))


def _possible(at: str, device: Tree, wanted: NewMode) -> None:
    bundle = "/lags/" in at
    if bundle and wanted.mode in ("lag", "heartbeat"):
        raise InputRefused(
            [Problem(at, f"a bundle cannot be {wanted.mode}", wanted.mode, "bridged, routed, inline, off")]
        )
    if wanted.mode in ("inline", "heartbeat") and device["kind"] != "firewall":
        raise InputRefused([Problem(at, f"only a firewall has {wanted.mode} ports", wanted.mode)])
    lags = [x["name"] for x in device.get("lags", [])]
    if wanted.mode == "lag" and wanted.lag not in lags:
        near = nearest(wanted.lag or "", lags)
        raise InputRefused([Problem("/lag", "name the bundle it joins", repr(wanted.lag), ", ".join(lags), near)])
    zones = {z["name"]: z.get("kind", "routed") for z in device.get("zones", [])}
    if (
        wanted.zone is not None
        and zones.get(wanted.zone) != wanted.mode
        and not _alone(device, wanted.zone, wanted.port)
    ):
        fit = [name for name, kind in zones.items() if kind == wanted.mode]
        said = f"a {wanted.mode} port takes a zone of that kind"
        raise InputRefused([Problem("/zone", said, repr(wanted.zone), ", ".join(fit) or "none yet")])
    if wanted.pair_with is not None:
        port_entry({"devices": [device]}, device["name"], wanted.pair_with)
        if wanted.pair_with == wanted.port:
            raise InputRefused([Problem("/pair_with", "an inline pair has two different ends", repr(wanted.port))])


def _alone(device: Tree, zone: str, port: str) -> bool:
    """Tell whether a zone is there, and holds nothing but one port: its kind may follow that port."""
    if zone not in [z["name"] for z in device.get("zones", [])]:
        return False
    lines = [p for key in ("ports", "lags") for p in device.get(key, []) if p["name"] != port]
    others = [*lines, *(s for p in lines for s in p.get("subinterfaces", [])), *device.get("vlan_interfaces", [])]
    others += [*device.get("tunnels", []), *device.get("remote_access", []), *device.get("loopbacks", [])]
    return all(x.get("zone") != zone for x in others)


def _settings_dropped(device: Tree, entry: Tree, before: str, mode: str) -> Iterator[str]:
    name = entry["name"]
    gone = [k for k in (*BRIDGED, *ROUTED) if k in entry and k not in KEPT.get(mode, ())]
    for key in gone:
        yield f"{key.replace('_', ' ')} {_words(entry.pop(key))}"
    if before != mode:
        for sub in entry.pop("subinterfaces", []):
            yield f"subinterface {name}.{sub['tag']}" + (
                f" ({_words(sub['addresses'])})" if sub.get("addresses") else ""
            )
    kinds = {z["name"]: z.get("kind", "routed") for z in device.get("zones", [])}
    if "zone" in entry and kinds.get(entry["zone"]) != mode:
        yield f"zone {entry.pop('zone')}"
    if "lag" in entry and mode != "lag":
        yield f"its place in bundle {entry.pop('lag')}"


def _leaning_dropped(device: Tree, wanted: NewMode, before: str) -> Iterator[str]:
    """Take out what leaned on what the port was: inline pairs, leases, routes, heartbeats."""
    name = wanted.port
    if wanted.mode == before:
        return
    for wire in [w for w in device.get("wires", []) if name in w["ends"]]:
        device["wires"].remove(wire)
        other = next(e for e in wire["ends"] if e != name)
        yield f"inline pair {wire['name']} ({other} is left without another end)"
    for lease in [x for x in device.get("dhcp", []) if _stands_on(x["interface"], name)]:
        device["dhcp"].remove(lease)
        yield f"DHCP {lease.get('mode', 'server')} on {lease['interface']}"
    for vrf in device.get("vrfs", []):
        for route in [r for r in vrf.get("routes", []) if _stands_on(r.get("interface"), name)]:
            vrf["routes"].remove(route)
            yield f"route to {route['to']} by {route['interface']}"
    failover = device.get("failover") or {}
    if before == "heartbeat" and name in failover.get("heartbeats", []):
        failover["heartbeats"].remove(name)
        yield "its place among the heartbeats"
    for watched in [w for w in failover.get("watch", []) if w.startswith(name + ".")]:
        failover["watch"].remove(watched)
        yield f"the watch on {watched}"


def _stands_on(interface: str | None, port: str) -> bool:
    return interface is not None and (interface == port or interface.startswith(port + "."))


def _settle(device: Tree, entry: Tree, wanted: NewMode) -> None:
    mode = wanted.mode
    if wanted.zone and mode in ("bridged", "routed", "inline"):
        entry["zone"] = wanted.zone
        for zone in device.get("zones", []):
            if zone["name"] == wanted.zone:
                zone["kind"] = mode
    if mode == "routed" and wanted.addresses:
        entry["addresses"] = list(wanted.addresses)
    if mode == "bridged":
        if wanted.vlan:
            entry |= {"pvid": wanted.vlan, "untagged": [wanted.vlan]}
        if wanted.tagged:
            entry["tagged"] = sorted({v for v in wanted.tagged if v != wanted.vlan})
    if mode == "lag":
        entry["lag"] = wanted.lag
    if mode == "heartbeat" and device.get("failover") is not None:
        beats = device["failover"].setdefault("heartbeats", [])
        if entry["name"] not in beats:
            beats.append(entry["name"])
    if mode == "inline" and wanted.pair_with:
        taken = {w["name"] for w in device.get("wires", [])}
        base = f"{entry['name']}-{wanted.pair_with}"
        name = next(n for n in (base, *(f"{base}-{k}" for k in range(2, 999))) if n not in taken)
        device.setdefault("wires", []).append({"name": name, "ends": [entry["name"], wanted.pair_with]})


def _missing(tree: Tree, device: Tree, entry: Tree, mode: str) -> Iterator[str]:
    """Say what the port still needs before anything passes it, from the cable up."""
    name = entry["name"]
    units = [u["name"] for u in device.get("units", [])] or [device["name"]]
    ends = {end for cable in tree.get("cables", []) for end in cable}
    ports = [p["name"] for p in device.get("ports", []) if p["name"] == name or p.get("lag") == name]
    for unit in units if mode != "off" else ():
        if not any(f"{unit}:{p}" in ends for p in ports):
            yield f"a cable at {unit}:{name}"
    for lag in device.get("lags", []):
        if not any(p.get("mode") == "lag" and p.get("lag") == lag["name"] for p in device.get("ports", [])):
            yield f"a member of bundle {lag['name']}"
    if mode == "bridged" and not (entry.get("untagged") or entry.get("tagged")):
        yield "a VLAN: it is a member of none"
    if mode == "routed" and not (entry.get("addresses") or entry.get("subinterfaces")):
        yield "an address, or a subinterface that has one"
    if mode == "inline" and not any(name in w["ends"] for w in device.get("wires", [])):
        yield "the other end of its inline pair"
    if mode == "heartbeat" and device.get("failover") is None:
        yield f"a failover pair: {device['name']} is none"
    if (
        mode == "routed"
        and device["kind"] == "firewall"
        and not any(v.get("routes") or v.get("ospf") for v in device.get("vrfs", []))
    ):
        yield f"a way on: {device['name']} has no route"
    if mode == "routed" and entry.get("zone") and not _spoken_of(device, entry["zone"]):
        yield f"rules: none speaks of zone {entry['zone']}"
    zoned = entry.get("zone") or any(s.get("zone") for s in entry.get("subinterfaces", []))
    if device["kind"] == "firewall" and mode in ("bridged", "routed", "inline") and not zoned:
        yield f"a zone of kind {mode}"


def _spoken_of(device: Tree, zone: str) -> bool:
    return any(
        zone in r.get(side, []) or "any" in r.get(side, []) for r in device.get("rules", []) for side in ("from", "to")
    )


def _words(value: Any) -> str:
    if isinstance(value, list):
        return ", ".join(map(str, value)) or "none"
    if isinstance(value, dict):
        return ", ".join(f"{k} to {v}" for k, v in value.items())
    return str(value).lower() if isinstance(value, bool) else str(value)
