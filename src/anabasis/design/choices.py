"""What may be named where: the things of a document by name, for a picker."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.design.edits import Tree
from anabasis.design.targets import OF_A_DEVICE, Targets
from anabasis.errors import Problem, UnknownPlace

SERVICES = ("any", "ping", "https", "http", "ssh", "dns", "ntp", "snmp", "smtp", "tcp", "udp")
"""Services that people ask for most, beside the sets of the design; any IANA name may be typed."""
REFS = frozenset(("vlan", "addresses", "services", "end", "device", *OF_A_DEVICE))


@dataclass(frozen=True)
class Choice:
    """One thing to pick."""

    value: str | int
    label: str
    """What stands beside the value; empty = nothing."""


def choices(tree: Tree, ref: str, at: str = "") -> list[Choice]:
    """Return what a name of some kind may be, as seen from a thing. Raises UnknownPlace for a kind that is none."""
    if ref not in REFS:
        raise UnknownPlace([Problem("/ref", "nothing is named so", repr(ref), ", ".join(sorted(REFS)))])
    steps = at.split("/")
    device = int(steps[2]) if len(steps) > 2 and steps[1] == "devices" and steps[2].isdigit() else None
    if ref == "vlan":
        return [Choice(v["id"], v["name"]) for v in tree.get("vlans", [])]
    if ref == "end":
        return _ends(tree)
    names = [Choice(str(n), "") for n in Targets(tree).names(ref, device)]
    if ref == "services":
        return names + [Choice(s, "") for s in SERVICES]
    return [Choice("any", ""), *names] if ref == "addresses" else names


def _ends(tree: Tree) -> list[Choice]:
    out = [Choice(v["name"], "VLAN") for v in tree.get("vlans", [])]
    for device in tree.get("devices", []):
        out += [Choice(device["name"], device["kind"])] if device["kind"] in ("outside", "endpoint") else []
        out += [Choice(z["name"], "zone") for z in device.get("zones", [])]
    out += [Choice(s["name"], "address set") for s in tree.get("addresses", [])]
    return list({c.value: c for c in reversed(out)}.values())[::-1]
