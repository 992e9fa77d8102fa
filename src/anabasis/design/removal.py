"""Take a thing out, and with it what cannot be without it: cables of a port, names in rules, routes into a VRF, as one edit."""

from __future__ import annotations

import copy
from dataclasses import dataclass
from typing import Any

import jsonpointer

from anabasis.design.edits import Patch, Tree, difference
from anabasis.design.files import parse_design
from anabasis.design.items import link, thing_at
from anabasis.design.mentions import Mention, mentions
from anabasis.design.new_vlan import remove_vlan
from anabasis.design.notation import parse_end
from anabasis.design.uses import uses
from anabasis.errors import Problem, UnknownPlace

_CALLED = {
    "addresses": "addresses",
    "services": "services",
    "zones": "zone",
    "vrfs": "vrf",
    "answers": "answers",
    "lags": "lag",
}
_OWNERS_GO = ("dhcp", "routes", "wires")
"""What makes no sense without the interface or VRF it names goes with it."""


@dataclass(frozen=True)
class Removal:
    """The edit, and in words what else it takes or changes."""

    patch: Patch
    drops: list[str]


def remove(raw: Tree, pointer: str) -> Removal:
    """Return the edit that takes a thing out. Raises UnknownPlace where nothing is that can be taken out by itself."""
    found: Any = jsonpointer.resolve_pointer(raw, pointer, None) if pointer.startswith("/") else None
    steps = pointer.split("/")
    if found is None or not steps[-1].isdigit() or thing_at(raw, pointer) != pointer:
        raise UnknownPlace([Problem(pointer, "nothing is there that could be taken out")])
    drops = [_said(raw, use) for use in _users(raw, pointer)]
    if steps[1] == "vlans":
        return Removal(remove_vlan(raw, found["id"]), drops)
    tree: Tree = copy.deepcopy(raw)
    _forget(tree, steps, found)
    parent = jsonpointer.resolve_pointer(tree, "/".join(steps[:-1]))
    gone = jsonpointer.resolve_pointer(tree, pointer)
    parent[:] = [e for e in parent if e is not gone]
    return Removal(difference(raw, tree), drops)


def _users(raw: Tree, pointer: str) -> list[str]:
    inside = pointer + "/"
    found = [u.source for u in uses(parse_design(raw)) if (u.target + "/").startswith(inside)]
    return [s for s in dict.fromkeys(found) if not (s + "/").startswith(inside)]


def _said(raw: Tree, pointer: str) -> str:
    named = link(raw, pointer)
    return f"{named.kind} {named.title}".strip()


def _forget(tree: Tree, steps: list[str], found: Any) -> None:
    """Take every mention of the thing out, in place; lists that are left empty take their rule with them."""
    device = int(steps[2]) if steps[1] == "devices" and len(steps) > 3 else None
    kind = steps[-2]
    names = _interfaces(tree, steps, found) if device is not None else set[str]()
    boxes = _boxes(tree, steps, found, kind)
    doomed: list[Mention] = []
    for mention in mentions(tree):
        own = mention.device == device or kind in ("addresses", "services")
        if mention.kind == "box":
            box, port = parse_end(mention.value)
            hit = box in boxes and (kind in ("devices", "units") or port == found.get("name"))
        elif mention.kind == "interface":
            hit = own and mention.value in names
        else:
            hit = own and mention.kind == _CALLED.get(kind) and mention.value == found.get("name")
        if hit:
            doomed.append(mention)
    _take_out(tree, doomed)


def _interfaces(tree: Tree, steps: list[str], found: Any) -> set[str]:
    """Return the interface names that go with a thing of a device."""
    kind = steps[-2]
    if kind in ("ports", "lags"):
        return {found["name"], *(f"{found['name']}.{s['tag']}" for s in found.get("subinterfaces", []))}
    if kind == "subinterfaces":
        base = jsonpointer.resolve_pointer(tree, "/".join(steps[:-2]))
        return {f"{base['name']}.{found['tag']}"}
    if kind == "vlan_interfaces":
        return {f"vlan{found['vlan']}"}
    return {found["name"]} if kind == "loopbacks" else set()


def _boxes(tree: Tree, steps: list[str], found: Any, kind: str) -> set[str]:
    """Return the boxes whose cables go with the thing."""
    if kind == "devices":
        return {u["name"] for u in found.get("units", [])} or {found["name"]}
    if kind == "units":
        return {found["name"]}
    owner = tree["devices"][int(steps[2])] if kind == "ports" else {}
    return {u["name"] for u in owner.get("units", [])} or {owner.get("name", "")}


def _take_out(tree: Tree, doomed: list[Mention]) -> None:
    owners = {m.owner for m in doomed if m.kind == "box" or m.owner.split("/")[-2] in _OWNERS_GO}
    for mention in sorted(doomed, key=lambda m: m.key if isinstance(m.key, int) else -1, reverse=True):
        if mention.owner in owners:
            continue
        if isinstance(mention.holder, list):
            mention.holder.pop(int(mention.key))
            if not mention.holder:
                owners.add(mention.owner)
        elif mention.kind == "lag":
            mention.holder.update(mode="off")
            del mention.holder["lag"]
        else:
            del mention.holder[mention.key]
    owners = {o for o in owners if not o.endswith("/failover")}
    dead = [(o, jsonpointer.resolve_pointer(tree, o)) for o in owners]
    for owner, entry in dead:
        if owner.split("/")[-2] in _CALLED:
            _forget(tree, owner.split("/"), entry)
    for owner, entry in dead:
        parent = jsonpointer.resolve_pointer(tree, owner.rpartition("/")[0])
        parent[:] = [e for e in parent if e is not entry]
