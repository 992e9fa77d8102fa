"""A copy of any thing of a document: another name, number and addresses, the rest alike; one edit."""

from __future__ import annotations

import copy
from collections.abc import Iterator
from dataclasses import dataclass
from ipaddress import ip_interface
from typing import Any

import jsonpointer

from anabasis.design.edits import Patch, Tree, difference
from anabasis.design.making.devices import next_address
from anabasis.design.making.fresh import fresh
from anabasis.design.renaming import check_name
from anabasis.errors import InputRefused, Problem, UnknownPlace

NUMBERED = {"vlans": ("vlan", "id"), "subinterfaces": ("subinterface", "tag"), "vlan_interfaces": ("vlan-interface", "vlan")}  # fmt: skip
"""Lists whose things have a number instead of a name, or beside it: the kind that proposes one, and its key."""
OWN = ("hardware", "drills")
"""What only the one has."""


@dataclass(frozen=True)
class CopyThing:
    """What a person asks for."""

    pointer: str
    name: str = ""
    """Empty = the next that is free: `quay-2`."""


def copy_thing(raw: Tree, wanted: CopyThing) -> Patch:
    """Return the one edit; the copy stands behind what it is a copy of, a box at the end.

    Nothing is cabled to it. Raises UnknownPlace where nothing that can be copied is, InputRefused for a name that is badly written.
    """
    tree: Tree = copy.deepcopy(raw)
    above, _, last = wanted.pointer.rpartition("/")
    entries: Any = jsonpointer.resolve_pointer(tree, above, None) if wanted.pointer.startswith("/") else None
    if not (isinstance(entries, list) and last.isdigit() and int(last) < len(entries) and isinstance(entries[int(last)], dict)):  # fmt: skip
        raise UnknownPlace(
            [Problem(wanted.pointer, "nothing that can be copied is there", allowed="a box, a rule, a zone")]
        )
    key = above.rpartition("/")[2]
    steps = above.split("/")
    device: Tree = tree["devices"][int(steps[2])] if steps[1] == "devices" and len(steps) > 3 else {}
    made: Tree = copy.deepcopy(entries[int(last)])
    if "name" in made:
        made["name"] = _name(tree, device, made["name"], entries, key, wanted.name)
    numbered = NUMBERED if "/mac_vrfs/" not in above else {"vlans": ("stretched", "vlan")}
    if key in numbered:
        kind, number = numbered[key]
        proposed = fresh(raw, kind, above.rpartition("/")[0]).value
        if not proposed.get(number):
            raise InputRefused(
                [Problem(wanted.pointer, "no VLAN is left that a copy could be of", allowed="a VLAN first")]
            )
        made[number] = proposed[number]
        for said in ("subnets", "addresses", "vni", "irb"):
            if said in made:
                made[said] = proposed.get(said, [] if said in ("subnets", "addresses") else None)
    for unit in made.get("units", []):
        unit["name"] = _name(tree, device, unit["name"], made["units"], "devices", "")
    at = len(entries) if key == "devices" else int(last) + 1
    entries.insert(at, made)
    if key not in numbered:
        for holder in _interfaces(made):
            moved = [next_address(tree, str(ip_interface(a).network)) for a in holder["addresses"]]
            holder["addresses"] = [a for a in moved if a]
    return difference(raw, tree)


def _name(tree: Tree, device: Tree, name: str, entries: list[Tree], key: str, wanted: str) -> str:
    if wanted:
        check_name(wanted)
        return wanted
    taken = {e.get("name") for e in entries}
    if key == "devices":
        taken |= {b["name"] for d in tree["devices"] for b in (d, *d.get("units", []))}
    if key in ("ports", "lags"):
        taken |= {e["name"] for k in ("ports", "lags") for e in device.get(k, [])}
    head = name.rstrip("0123456789")
    start, base = (int(name[len(head) :]) + 1, head) if head != name else (2, f"{name}-")
    return next(n for k in range(start, start + 10_000) if (n := f"{base}{k}") not in taken)


def _interfaces(node: Any) -> Iterator[Tree]:
    """Yield whatever of a thing holds addresses with their length, and drop what only one can have."""
    if isinstance(node, list):
        for inside in node:
            yield from _interfaces(inside)
    elif isinstance(node, dict):
        for own in OWN:
            node.pop(own, None)
        if any("/" in a for a in node.get("addresses", [])):
            yield node
        for inside in node.values():
            yield from _interfaces(inside)
