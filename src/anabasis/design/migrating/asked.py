"""What a migration asks for, with the choices a design has and a value for what can be proposed."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from ipaddress import ip_interface, ip_network
from typing import Any

from anabasis.design.edits import Tree
from anabasis.design.making.tenants import free_subnets, meets
from anabasis.design.migrating.parts import interfaces
from anabasis.design.migrating.plans import KINDS, MODELS
from anabasis.errors import InputRefused, Problem, nearest

MOST = 400
"""How many choices of a kind are told."""


@dataclass(frozen=True)
class Asked:
    """One thing to say."""

    key: str
    says: str
    """What it is, as the plan's own description has it."""
    needed: bool
    value: str
    """What was said, or is proposed; empty = nothing yet."""
    choices: list[str]
    """Empty = any text."""


def asked(raw: Tree, kind: str, said: dict[str, Any]) -> list[Asked]:
    """Return what a kind of migration asks for, in the order in which one follows from another. `said`: what is known so far.

    Raises InputRefused where there is no such kind.
    """
    if kind not in KINDS:
        problem = Problem("/kind", "there is no such migration", repr(kind), ", ".join(KINDS), nearest(kind, KINDS))
        raise InputRefused([problem])
    known = {k: str(v) for k, v in said.items() if v not in (None, "")}
    out: list[Asked] = []
    for key, field in MODELS[kind].model_fields.items():
        if key == "kind":
            continue
        choices = list(dict.fromkeys(_choices(raw, kind, key, known)))[:MOST]
        value = known.get(key, "")
        if not value and (field.is_required() or (key, kind) in ALSO):
            value = _proposed(raw, key, known, choices)
        if value:
            known[key] = value
        out.append(Asked(key, field.description or key, _needed(raw, key, field.is_required(), known), value, choices))
    return out


ALSO = {("zone", "move-gateway"), ("answers", "move-gateway")}
"""What is proposed though it may be left out."""


def _needed(raw: Tree, key: str, required: bool, known: dict[str, str]) -> bool:
    return required or (key == "zone" and _device(raw, known).get("kind") == "firewall")


def _device(raw: Tree, known: dict[str, str]) -> Tree:
    return next((d for d in raw.get("devices", []) if d["name"] == known.get("device")), {})


def _lines(device: Tree) -> list[Tree]:
    members = {p["name"] for p in device.get("ports", []) if p.get("lag")}
    return [x for key in ("lags", "ports") for x in device.get(key, []) if x["name"] not in members]


def _choices(raw: Tree, kind: str, key: str, known: dict[str, str]) -> Iterator[str]:
    device = _device(raw, known)
    match key:
        case "subnet":
            yield from _subnets(raw)
        case "vlan":
            yield from (str(v["id"]) for v in raw.get("vlans", []) if kind != "move-gateway" or _gateways(raw, v["id"]))
        case "device":
            yield from (d["name"] for d in raw.get("devices", []) if _able(d, kind))
        case "gateway":
            routes = (d for d in raw.get("devices", []) if d["name"] != known.get("device") and list(interfaces(d)))
            net = _read(known.get("subnet", ""))
            holds = (d["name"] for d in routes if d["kind"] not in ("endpoint", "hub") and _within(d, net))
            yield from holds
        case "outer" | "inner":
            wanted = "routed" if kind == "routed-to-bridged" else kind.split("-")[0]
            other = known.get("outer") if key == "inner" else None
            yield from (x["name"] for x in _lines(device) if x.get("mode") == wanted and x["name"] != other)
        case "line":
            yield from (x["name"] for x in _lines(device) if x.get("mode") in (None, "routed"))
        case "zone":
            yield from (z["name"] for z in device.get("zones", []) if z.get("kind", "routed") == "routed")
        case "answers":
            yield from (a["name"] for a in device.get("answers", []) if a.get("name"))
        case _:
            return


def _able(device: Tree, kind: str) -> bool:
    firewall: bool = device["kind"] == "firewall"
    match kind:
        case "move-gateway":
            return firewall or device["kind"] in ("router", "switch")
        case "single-to-pair":
            return firewall and "units" not in device
        case "routed-to-bridged":
            return firewall and sum(x.get("mode") == "routed" for x in _lines(device)) > 1
        case _:
            return firewall and sum(x.get("mode") == kind.split("-")[0] for x in _lines(device)) > 1


def _subnets(raw: Tree) -> list[str]:
    return [s for v in raw.get("vlans", []) for s in v.get("subnets", [])]


def _gateways(raw: Tree, vlan: int) -> bool:
    return any(i.vlan == vlan and i.settings.get("addresses") for d in raw.get("devices", []) for i in interfaces(d))


def _read(text: str) -> Any:
    try:
        return ip_network(text)
    except ValueError:
        return None


def _within(device: Tree, net: Any) -> bool:
    return net is None or any(
        ip_interface(a).network == net for i in interfaces(device) for a in i.settings.get("addresses", [])
    )


def _proposed(raw: Tree, key: str, known: dict[str, str], choices: list[str]) -> str:
    """Return what is proposed; nothing where a person alone can know."""
    if key == "to":
        return _free(raw, known.get("subnet", ""))
    if key == "transit":
        home = next((s for s in _subnets(raw) if ":" not in s), "10.0.0.0/24")
        return _free(raw, f"{ip_network(home).network_address}/30")
    if key == "zone":
        held = next((v["name"] for v in raw.get("vlans", []) if str(v["id"]) == known.get("vlan")), "")
        return held if held in choices else ""
    if key == "answers":
        return "ping-only" if "ping-only" in choices else ""
    return choices[0] if len(choices) == 1 or (choices and key in ("outer", "inner")) else ""


def _free(raw: Tree, like: str) -> str:
    if _read(like) is None:
        return ""
    own = [
        str(ip_interface(a).network)
        for d in raw.get("devices", [])
        for i in interfaces(d)
        for a in i.settings.get("addresses", [])
    ]
    taken = {*_subnets(raw), *own}
    return next((n for n in free_subnets(like) if not meets("subnet", n, taken)), "")
