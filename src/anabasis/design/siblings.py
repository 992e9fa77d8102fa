"""Two siblings inside one design (two ports, two VLANs, two VRFs, two rules): what differs, and was probably meant to be alike."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import jsonpointer

from anabasis.design.compare import plain, written
from anabasis.design.edits import Tree
from anabasis.design.items import link
from anabasis.design.keys import keyed
from anabasis.errors import Problem, UnknownPlace

OWN = {
    "name",
    "id",
    "tag",
    "vlan",
    "addresses",
    "subnets",
    "note",
    "ends",
    "to",
    "members",
    "pool",
    "gateway",
    "reservations",
    "ranges",
    "hardware",
}
"""What siblings are expected to have each for itself."""
LONE = ("drills",)
"""What was done with the one, and says nothing of the other."""
PLACED = ("units",)
"""Lists whose entries answer each other by their place: each has a name of its own."""


@dataclass(frozen=True)
class Unlike:
    """One thing that two siblings do not share."""

    what: str
    one: str
    two: str
    meant: bool
    """It was probably meant to be alike."""


@dataclass(frozen=True)
class Siblings:
    """Two things of one kind side by side."""

    kind: str
    one: str
    two: str
    pointers: tuple[str, str]
    unlike: tuple[Unlike, ...]
    alike: int
    """How many settings they share."""


def siblings(tree: Tree, one: str, two: str) -> Siblings:
    """Compare two things of one kind. Raises UnknownPlace where a pointer leads to no thing, or to things of two kinds."""
    things = [_thing(tree, at) for at in (one, two)]
    names = [link(tree, at) for at in (one, two)]
    if names[0].kind != names[1].kind:
        said = "siblings are two things of one kind"
        raise UnknownPlace([Problem(two, said, f"{names[1].kind} {names[1].title}", f"a {names[0].kind}")])
    facts = [dict(_facts(tree, at, thing)) for at, thing in zip((one, two), things, strict=True)]
    found: list[Unlike] = []
    for key in dict.fromkeys([*facts[0], *facts[1]]):
        a, b = (f.get(key) for f in facts)
        if a != b:
            sides = ["—" if x is None else written(x) for x in (a, b)]
            found.append(Unlike(key, sides[0], sides[1], not {key.split(" ")[0], key.split(" ")[-1]} & OWN))
    same = sum(facts[0].get(k) == v for k, v in facts[1].items())
    return Siblings(names[0].kind, names[0].title, names[1].title, (one, two), tuple(found), same)


def _thing(tree: Tree, at: str) -> Tree:
    found = jsonpointer.resolve_pointer(tree, at, None) if at.startswith("/") else None
    if not isinstance(found, dict):
        raise UnknownPlace([Problem(at, "nothing that could have a sibling is there")])
    return found


def _facts(tree: Tree, at: str, thing: Tree) -> Iterator[tuple[str, Any]]:
    """Give everything that is written of a thing, by words; of a VLAN also where it is carried, of a VRF what stands in it."""
    yield from _written(thing, "")
    steps = at.split("/")[1:]
    if len(steps) == 4 and steps[2] == "units":
        yield from _cabled(tree, thing["name"])
    if steps[0] == "vlans":
        yield from _carried(tree, thing["id"])
    if len(steps) == 4 and steps[2] == "vrfs":
        device = tree["devices"][int(steps[1])]
        for label, holder in _interfaces(device):
            if holder.get("vrf", "main") == thing["name"]:
                yield f"addresses of {label}", holder.get("addresses", [])


def _cabled(tree: Tree, unit: str) -> Iterator[tuple[str, Any]]:
    """Give the device at the far end of every cable of a unit: two units of a pair hang on the same ones, port by port."""
    for ends in tree.get("cables", []):
        for here, there in (ends, reversed(ends)):
            box, _, port = here.partition(":")
            if box == unit:
                yield f"cable at port {port}", there.partition(":")[0]


def _written(thing: Tree, before: str) -> Iterator[tuple[str, Any]]:
    for key, value in thing.items():
        if key in LONE:
            continue
        what = f"{before}{plain(key)}"
        if isinstance(value, dict):
            yield from _written(value, f"{what} ")
        elif isinstance(value, list) and any(isinstance(x, dict) for x in value):
            named = {str(k + 1): k for k in range(len(value))} if key in PLACED else keyed(value)
            for name, i in named.items():
                inner = value[i]
                yield (f"{what} {name}", "there")
                yield from (
                    (f"{what} {name} {k}", v)
                    for k, v in _written(inner, "")
                    if k != "tag" and (k != "name" or key in PLACED)
                )
        else:
            yield what, value


def _interfaces(device: Tree) -> Iterator[tuple[str, Tree]]:
    for port in (*device.get("ports", []), *device.get("lags", [])):
        yield str(port["name"]), port
        yield from ((f"{port['name']}.{s['tag']}", s) for s in port.get("subinterfaces", []))
    for key, name in (("vlan_interfaces", "vlan"), ("loopbacks", "name")):
        yield from ((str(i[name]), i) for i in device.get(key, []))


def _carried(tree: Tree, vlan: int) -> Iterator[tuple[str, Any]]:
    for device in tree.get("devices", []):
        for port in (*device.get("ports", []), *device.get("lags", [])):
            ways = [w for w in ("untagged", "tagged") if vlan in port.get(w, [])]
            ways += ["PVID"] if port.get("pvid") == vlan else []
            if ways:
                yield f"{device['name']}:{port['name']}", " and ".join(ways)
            for sub in port.get("subinterfaces", []):
                if sub.get("tag") == vlan:
                    yield f"{device['name']}:{port['name']} subinterface", f"zone {sub.get('zone', '—')}"
        for interface in device.get("vlan_interfaces", []):
            if interface.get("vlan") == vlan:
                yield f"{device['name']} VLAN interface", f"zone {interface.get('zone', '—')}"
        if vlan in (device.get("vlans") or []):
            yield f"VLAN table of {device['name']}", "there"
