"""Things of a document by pointer: what a person calls them, what they hold, and what they hang together with."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import jsonpointer

from anabasis.design.devices import DEFAULT_MODE
from anabasis.design.edits import Tree
from anabasis.design.forms import forms, model_at
from anabasis.design.uses import needs_of, users_of, uses
from anabasis.errors import Problem, UnknownPlace

MADE = {
    "port": "ports", "bundle": "lags", "subinterface": "subinterfaces", "vlan-interface": "vlan_interfaces", "loopback": "loopbacks",
    "vrrp": "vrrp", "vrf": "vrfs", "route": "routes", "zone": "zones", "rule": "rules", "translation": "nat", "answers": "answers",
    "lease": "dhcp", "reservation": "reservations", "inline-pair": "wires", "unit": "units", "ssid": "ssids", "ospf-interface": "interfaces", "redistribute": "redistribute",
    "stub-area": "stub", "filter": "filters", "filter-entry": "entries", "tunnel": "tunnels", "remote-access": "remote_access",
    "offer": "offers", "mac-vrf": "mac_vrfs", "stretched": "vlans",
}  # fmt: skip
"""What can be made inside a thing -> the list it goes to."""
SINGLE = ("failover", "ospf", "when")
"""Keys at which a thing stands by itself, not in a list."""
_WORDS = {
    "ports": "Port",
    "lags": "Bundle",
    "ssids": "SSID",
    "vlan_interfaces": "VLAN interface",
    "subinterfaces": "Subinterface",
    "loopbacks": "Loopback",
    "zones": "Zone",
    "rules": "Rule",
    "nat": "Translation",
    "answers": "Answers",
    "dhcp": "DHCP",
    "wires": "Inline pair",
    "units": "Unit",
    "vrfs": "VRF",
    "routes": "Route",
    "addresses": "Address set",
    "services": "Service set",
    "cables": "Cable",
    "expectations": "Expectation",
    "failover": "Failover pair",
    "drills": "Drill",
    "results": "Drill step",
    "reservations": "Reservation",
    "vrrp": "Redundant gateway",
    "ranges": "Range",
    "ospf": "OSPF",
    "when": "Hours",
    "interfaces": "OSPF interface",
    "redistribute": "Redistribution",
    "stub": "Stub area",
    "filters": "Filter",
    "entries": "Filter entry",
    "tunnels": "Tunnel",
    "remote_access": "Remote access",
    "offers": "Tunnel it takes",
    "mac_vrfs": "MAC-VRF",
}


@dataclass(frozen=True)
class Link:
    """A named pointer."""

    kind: str
    title: str
    pointer: str


@dataclass(frozen=True)
class Inside:
    """Things of one kind in another."""

    key: str
    title: str
    makes: str | None
    """What can be made there, as `making` calls the kind; None = not by itself."""
    links: list[Link]


@dataclass(frozen=True)
class Item:
    """One thing, with what it depends on and what depends on it."""

    kind: str
    title: str
    pointer: str
    value: Any
    """The thing as written."""
    depends_on: list[Link]
    needed_by: list[Link]
    model: str | None
    """Its form, by the name of its model; None for what has none (a cable)."""
    owner_kind: str
    """The kind of the device it is part of, or is; empty outside devices."""
    inside: list[Inside]
    """What stands in it, list by list, and what can be made there."""


def thing_at(tree: Tree, pointer: str) -> str:
    """Return the pointer of the whole thing that a pointer leads into: of `/devices/1/ports/4/pvid`, the port."""
    steps = pointer.split("/")[1:]
    for end in range(len(steps), 0, -1):
        here = "/" + "/".join(steps[:end])
        value = jsonpointer.resolve_pointer(tree, here, None)
        in_list = steps[end - 1].isdigit() and (end < 2 or not steps[end - 2].isdigit())
        whole = isinstance(value, dict) or (steps[0] == "cables" and end == 2 and isinstance(value, list))
        if whole and (in_list or steps[end - 1] in SINGLE):
            return here
    return ""


def link(tree: Tree, pointer: str) -> Link:
    """Name the thing at a pointer."""
    steps = pointer.split("/")[1:]
    value = jsonpointer.resolve_pointer(tree, pointer, None)
    if not steps:
        return Link("Design", str(tree.get("name", "")), "")
    if steps[0] == "vlans":
        return Link("VLAN", f"{value['id']} {value['name']}", pointer)
    if steps[0] == "cables":
        return Link("Cable", " — ".join(value), pointer)
    if steps[0] == "devices" and len(steps) == 2:
        return Link(str(value["kind"]).capitalize().replace("-", " "), str(value["name"]), pointer)
    if steps[0] == "devices":
        word = _WORDS.get(steps[-2] if steps[-1].isdigit() else steps[-1], steps[-1])
        return Link(word, f"{tree['devices'][int(steps[1])]['name']} {_own_name(tree, steps, value)}".strip(), pointer)
    return Link(_WORDS.get(steps[0], steps[0]), str(value.get("name", "")), pointer)


def _own_name(tree: Tree, steps: list[str], value: Any) -> str:
    if steps[-2] == "subinterfaces":
        base = jsonpointer.resolve_pointer(tree, "/" + "/".join(steps[:-2]))
        return f"{base['name']}.{value['tag']}"
    if steps[-2] == "vlan_interfaces":
        return f"vlan{value['vlan']}"
    if steps[-2] == "routes":
        return f"to {value['to']}"
    if steps[-2] == "vrrp":
        return str(value["id"])
    keys = ("name", "interface", "at", "step", "from", "area", "router_id")
    return str(next((value[k] for k in keys if k in value), ""))


def item(tree: Tree, pointer: str) -> Item:
    """Return the thing a pointer leads to or into. Raises UnknownPlace where it leads nowhere."""
    if not _leads_somewhere(tree, pointer):
        raise UnknownPlace([Problem(pointer, "nothing is there")])
    here = thing_at(tree, pointer)
    links = uses(tree) if here else []
    own = link(tree, here)
    return Item(
        own.kind,
        own.title,
        here,
        jsonpointer.resolve_pointer(tree, here)
        if here
        else {k: v for k, v in tree.items() if isinstance(v, str | int)},
        [link(tree, p) for p in needs_of(links, here)],
        [link(tree, p) for p in users_of(links, here)],
        model_at(tree, here),
        _owner_kind(tree, here),
        list(_lists(tree, here)) if here else [],
    )


def _owner_kind(tree: Tree, at: str) -> str:
    steps = at.split("/")
    return str(tree["devices"][int(steps[2])]["kind"]) if len(steps) > 2 and steps[1] == "devices" else ""


def _lists(tree: Tree, at: str) -> Iterator[Inside]:
    """Yield the lists of things inside a thing, also those that are empty and can be added to."""
    value = jsonpointer.resolve_pointer(tree, at)
    for known in forms().get(model_at(tree, at) or "", []):
        modes, kind = known.modes, _owner_kind(tree, at)
        mode = value.get("mode") or DEFAULT_MODE.get(kind, "")
        fits = (not modes or mode in modes) and (not known.kinds or kind in known.kinds)
        if known.editor == "things" and known.key not in ("devices", "cables") and (fits or value.get(known.key)):
            makes = next((k for k, m in MADE.items() if m == known.key), None)
            held = value.get(known.key, [])
            yield Inside(known.key, known.title, makes, [link(tree, f"{at}/{known.key}/{i}") for i in range(len(held))])


def _leads_somewhere(tree: Tree, pointer: str) -> bool:
    """Tell whether a pointer leads to a value, or to a key left out, which stands for its default."""
    missing = object()
    try:
        if jsonpointer.resolve_pointer(tree, pointer, missing) is not missing:
            return True
        return isinstance(jsonpointer.resolve_pointer(tree, pointer.rpartition("/")[0], missing), dict)
    except jsonpointer.JsonPointerException:
        return False


def all_links(tree: Tree) -> list[Link]:
    """Return every named thing, for the finder."""
    out: list[Link] = []
    for kind in ("vlans", "addresses", "services", "devices", "cables", "expectations"):
        for i, entry in enumerate(tree.get(kind, [])):
            out.append(link(tree, f"/{kind}/{i}"))
            if kind == "devices":
                out += _inside(tree, f"/devices/{i}", entry)
    return out


def _inside(tree: Tree, at: str, device: dict[str, Any]) -> list[Link]:
    out: list[Link] = []
    for kind in (
        "ports",
        "lags",
        "ssids",
        "vlan_interfaces",
        "loopbacks",
        "zones",
        "rules",
        "nat",
        "answers",
        "filters",
        "tunnels",
        "remote_access",
        "offers",
        "mac_vrfs",
        "units",
        "vrfs",
    ):
        for i, entry in enumerate(device.get(kind, [])):
            here = f"{at}/{kind}/{i}"
            out.append(link(tree, here))
            for inner in ("subinterfaces", "routes"):
                held = entry.get(inner, [])  # of those who dial in, routes are prefixes or a word
                out += [link(tree, f"{here}/{inner}/{k}") for k, e in enumerate(held) if isinstance(e, dict)]
    return out
