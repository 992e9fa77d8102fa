"""Give a thing another name, or a VLAN another number, and change every reference with it, as one edit."""

from __future__ import annotations

import copy
from typing import Any

import jsonpointer

from anabasis.design.edits import Patch, Tree, difference
from anabasis.design.mentions import mentions
from anabasis.design.notation import parse_end, parse_name
from anabasis.errors import InputRefused, Problem, UnknownPlace

_KINDS = {
    "addresses": ("addresses", "end"),
    "services": ("services",),
    "vlans": ("end",),
    "devices": ("box", "end"),
    "units": ("box",),
    "zones": ("zone", "end"),
    "vrfs": ("vrf",),
    "answers": ("answers",),
    "ports": ("interface", "box"),
    "lags": ("interface", "lag"),
    "loopbacks": ("interface",),
}
"""By which kinds of mention a thing is called; rules, translations and the like are called by nobody."""


def rename(raw: Tree, pointer: str, name: str) -> Patch:
    """Return the one edit. Raises UnknownPlace where nothing with a name is, InputRefused where there is nothing to change."""
    tree: Tree = copy.deepcopy(raw)
    entry = _named(tree, pointer)
    check_name(name)
    if name == entry["name"]:
        raise InputRefused([Problem(f"{pointer}/name", "it is called that already", repr(name))])
    steps = pointer.split("/")
    kind = steps[-2] if len(steps) > 2 else ""
    device = int(steps[2]) if steps[1] == "devices" and len(steps) > 3 else None
    old = entry["name"]
    boxes = _boxes(tree, device, old, kind)
    for mention in mentions(tree):
        if mention.kind not in _KINDS.get(kind, ()) or (
            mention.device is not None and mention.device != device and kind not in ("addresses", "services")
        ):
            continue
        if mention.kind == "box":
            mention.become(_cable_end(mention.value, old, name, kind, boxes))
        elif mention.kind == "interface":
            mention.become(_interface(str(mention.value), old, name, kind))
        elif mention.value == old:
            mention.become(name)
    entry["name"] = name
    return difference(raw, tree)


def check_name(name: str) -> None:
    """Raise InputRefused, with one sentence, for a name that is badly written."""
    try:
        parse_name(name)
    except ValueError as error:
        raise InputRefused([Problem("/name", "badly written", repr(name), str(error))]) from None


def _named(tree: Tree, pointer: str) -> Tree:
    found: Any = jsonpointer.resolve_pointer(tree, pointer, None) if pointer.startswith("/") else None
    if not isinstance(found, dict) or "name" not in found:
        raise UnknownPlace([Problem(pointer, "nothing with a name is there")])
    return found


def _boxes(tree: Tree, device: int | None, old: str, kind: str) -> set[str]:
    """Return the boxes whose cable ends name the thing: the units of the device whose port it is, or itself."""
    if kind in ("devices", "units"):
        return {old}
    owner = tree["devices"][device] if device is not None else {}
    return {u["name"] for u in owner.get("units", [])} or {owner.get("name", "")}


def _cable_end(text: str, old: str, name: str, kind: str, boxes: set[str]) -> str:
    box, port = parse_end(text)
    if box not in boxes:
        return text
    if kind in ("devices", "units"):
        return text.replace(box, name, 1)
    return f"{box}:{name}" if port == old else text


def _interface(text: str, old: str, name: str, kind: str) -> str:
    base, dot, tag = text.rpartition(".")
    if text == old:
        return name
    return f"{name}.{tag}" if kind != "loopbacks" and dot and tag.isdigit() and base == old else text


def renumber(raw: Tree, pointer: str, number: int) -> Patch:
    """Return the one edit that gives a VLAN of the plan another number everywhere: tables, tags, memberships, interfaces."""
    tree: Tree = copy.deepcopy(raw)
    entry: Any = jsonpointer.resolve_pointer(tree, pointer, None) if pointer.startswith("/vlans/") else None
    if not isinstance(entry, dict) or "id" not in entry:
        raise UnknownPlace([Problem(pointer, "no VLAN of the plan is there")])
    old = entry["id"]
    if not 1 <= number <= 4094:
        raise InputRefused([Problem("/number", "no VLAN has this number", str(number), "1 to 4094")])
    if any(v["id"] == number for v in tree["vlans"]):
        raise InputRefused([Problem(f"{pointer}/id", "the plan has this VLAN already", str(number), "another number")])
    for mention in list(mentions(tree)):
        if mention.kind == "vlan" and mention.value == old:
            mention.become(number)
        elif mention.kind == "interface":
            base, dot, tag = str(mention.value).rpartition(".")
            if dot and tag == str(old):
                mention.become(f"{base}.{number}")
            elif mention.value == f"vlan{old}":
                mention.become(f"vlan{number}")
    entry["id"] = number
    return difference(raw, tree)
