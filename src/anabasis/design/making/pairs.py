"""Make it a pair: a second unit beside a firewall, cabled as the first is, heartbeats between, a watch list; as one edit."""

from __future__ import annotations

import copy
from dataclasses import dataclass, field

from anabasis.design.edits import Patch, Tree, difference
from anabasis.design.making.devices import SILENT, owner_of
from anabasis.design.notation import parse_end
from anabasis.design.whereabouts import device_entry
from anabasis.errors import InputRefused, Problem
from anabasis.facts import Left, Noted

BEATS = 2
"""How many heartbeats are proposed."""


@dataclass(frozen=True)
class MakePair:
    """What a person decides."""

    device: str
    first: str | None = None
    """What the box there is now is called as a unit; left out = the device's name and -a."""
    second: str | None = None


@dataclass(frozen=True)
class MadePair:
    """The edit, and what it could not do."""

    patch: Patch
    missing: list[Noted] = field(default_factory=list)


def make_pair(raw: Tree, wanted: MakePair) -> MadePair:
    """Return the edit that makes a firewall a pair. Raises InputRefused where it is none, or is one already."""
    tree: Tree = copy.deepcopy(raw)
    at, device = device_entry(tree, wanted.device)
    if device["kind"] != "firewall":
        raise InputRefused([Problem(f"{at}/kind", "only firewalls come in pairs", repr(device["kind"]), "firewall")])
    if len(device.get("units", [])) > 1:
        raise InputRefused([Problem(f"{at}/units", f"{wanted.device} is a pair already")])
    one = wanted.first or (device["units"][0]["name"] if device.get("units") else f"{wanted.device}-a")
    two = wanted.second or f"{wanted.device}-b"
    was = device["units"][0]["name"] if device.get("units") else wanted.device
    known = device["units"][0] if device.get("units") else {}
    device["units"] = [{**known, "name": one, "priority": 150}, {"name": two, "priority": 100}]
    if known.get("traits"):
        device["units"][1]["traits"] = dict(known["traits"])
    missing = _cable(tree, was, one, two)
    beats = _heartbeats(tree, device, one, two)
    if len(beats) < BEATS:
        known = {"device": wanted.device, "free": str(len(beats)), "advised": str(BEATS)}
        missing.append(Noted(Left.HEARTBEATS, known))
    members = {p["lag"] for p in device.get("ports", []) if p.get("lag")}
    carrying = [p["name"] for p in device.get("ports", []) if p.get("mode") in ("routed", "bridged", "inline")]
    cabled = {port for cable in tree.get("cables", []) for box, port in map(parse_end, cable) if box == two}
    watch = [p for p in carrying if p in cabled] + sorted(members)
    settings = {"mode": "standby", "heartbeats": beats, "watch": watch, "preempt": False, "sync_sessions": True}
    device["failover"] = settings | device.get("failover", {})
    return MadePair(difference(raw, tree), missing)


def _cable(tree: Tree, was: str, one: str, two: str) -> list[Noted]:
    """Lead the first unit's cables to its name, and the second's beside them, into free ports with the same settings; say what has none."""
    missing: list[Noted] = []
    for cable in list(tree.get("cables", [])):
        ends = [parse_end(e) for e in cable]
        if was not in (ends[0][0], ends[1][0]):
            continue
        mine = 0 if ends[0][0] == was else 1
        port, (far, peer) = ends[mine][1], ends[1 - mine]
        cable[mine] = f"{one}:{port}"
        beside = _beside(tree, far, peer, one, two)
        if beside is None:
            missing.append(Noted(Left.PORT_BESIDE, {"port": f"{two}:{port}", "peer": f"{far}:{peer}"}))
        else:
            tree["cables"].append([f"{two}:{port}", f"{far}:{beside}"])
    return missing


def _beside(tree: Tree, far: str, peer: str, one: str, two: str) -> str | None:
    """Return a free port of the box at the far end, made like the one there is; None where the box has none, or takes no second cable."""
    device = owner_of(tree, far)
    if device["kind"] in ("endpoint", "outside") or len(device.get("units", [])) > 1:
        return None
    used = {port for cable in tree["cables"] for box, port in map(parse_end, cable) if box == far}
    like = next(p for p in device.get("ports", []) if p["name"] == peer)
    if like.get("mode", "bridged" if device["kind"] in ("switch", "hub") else "routed") == "routed":
        return None
    free = next((p for p in device.get("ports", []) if p["name"] not in used and not set(p) - set(SILENT)), None)
    if free is None:
        return None
    free |= {k: copy.deepcopy(v) for k, v in like.items() if k not in ("name", "note", "enabled")}
    if like.get("mode") == "lag":
        lag = next(x for x in device["lags"] if x["name"] == like["lag"])
        name = f"{lag['name']}-b" if not lag["name"].endswith(one) else lag["name"].removesuffix(one) + two
        if not any(x["name"] == name for x in device["lags"]):
            device["lags"].append({**copy.deepcopy(lag), "name": name})
        free["lag"] = name
    return str(free["name"])


def _heartbeats(tree: Tree, device: Tree, one: str, two: str) -> list[str]:
    """Take the last free ports for heartbeats, cabled straight to each other."""
    used = {port for cable in tree.get("cables", []) for box, port in map(parse_end, cable) if box in (one, two)}
    known = [p for p in device.get("ports", []) if p.get("mode") == "heartbeat"]
    spare = [p for p in device.get("ports", []) if p["name"] not in used and not set(p) - {*SILENT, "mode"} and p.get("mode", "off") == "off"]  # fmt: skip
    chosen = (known + spare[::-1])[:BEATS]
    for port in chosen:
        port["mode"] = "heartbeat"
        if port["name"] not in used:
            tree.setdefault("cables", []).append([f"{one}:{port['name']}", f"{two}:{port['name']}"])
    order = [p["name"] for p in device.get("ports", [])]
    return sorted((p["name"] for p in chosen), key=order.index)
