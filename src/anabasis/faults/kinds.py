"""What a fault is: its kind, the edit that makes it, and the items that are to blame for it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any, Literal

from anabasis.design import Patch, Tree
from anabasis.design.notation import parse_end, pointer

Severity = Literal["breaks", "risks", "untidy"]


@dataclass(frozen=True)
class Fault:
    """One fault that a design can have."""

    kind: str
    edit: Patch
    """The JSON Patch that makes it."""
    guilty: tuple[str, ...]
    """The items to blame, as pointers into the document that has it: where two ends disagree both, and the cable between."""


Made = tuple[Patch, tuple[str, ...]]
"""An edit and the guilty items."""


@dataclass(frozen=True)
class FaultKind:
    """What all faults of one kind share."""

    name: str
    meaning: str
    layer: str
    severity: Severity
    reach: bool
    """Whether it takes reach away (where something stood on what it touches)."""
    often: int
    """How often it happens, 1 (seldom) to 9."""
    make: Callable[[Look], Iterator[Made]]
    """Yields every fault of the kind that a design can have."""


class Look:
    """A plain document as faults look at it: devices, ports by box, what is at the other end of a cable."""

    def __init__(self, tree: Tree) -> None:
        self.tree = tree
        self.devices: list[Tree] = tree.get("devices", [])
        self.cable_at: dict[tuple[str, str], tuple[int, tuple[str, str]]] = {}
        for i, (a, b) in enumerate(tree.get("cables", [])):
            one, two = parse_end(a), parse_end(b)
            self.cable_at[one], self.cable_at[two] = (i, two), (i, one)
        indexed = list(enumerate(self.devices))
        self.ports = {pointer("devices", d, "ports", i) for d, x in indexed for i, _ in enumerate(x.get("ports", []))}
        """Where ports are, and bundles: an item is told by its name, and the name is its pointer."""
        self.bundles = {pointer("devices", d, "lags", i) for d, x in indexed for i, _ in enumerate(x.get("lags", []))}
        self._owner = {box: d for d, device in enumerate(self.devices) for box in boxes(device)}

    def members(self, d: int) -> Iterator[tuple[str, Tree]]:
        """Yield (pointer, settings) of the ports and bundles of a device."""
        for kind in ("ports", "lags"):
            for i, port in enumerate(self.devices[d].get(kind, [])):
                yield pointer("devices", d, kind, i), port

    def every_member(self) -> Iterator[tuple[int, str, Tree]]:
        """Yield (device, pointer, settings) of all ports and bundles."""
        for d in range(len(self.devices)):
            for at, port in self.members(d):
                yield d, at, port

    def cabled(self, d: int, port: Tree) -> bool:
        """Tell whether a port, or a member of a bundle, has a cable on some box of the device."""
        return bool(self.cables(d, port))

    def cables(self, d: int, port: Tree) -> list[tuple[int, tuple[str, str]]]:
        """Return (cable, far end) of a port or of every member of a bundle, on every box of the device."""
        device = self.devices[d]
        names = [p["name"] for p in device.get("ports", []) if p.get("lag") == port["name"]] or [port["name"]]
        return [self.cable_at[box, n] for box in boxes(device) for n in names if (box, n) in self.cable_at]

    def far(self, d: int, port: Tree) -> list[tuple[int, str, Tree]]:
        """Return (device, pointer, settings) of the ports or bundles at the far ends."""
        out: dict[str, tuple[int, str, Tree]] = {}
        for _, (box, name) in self.cables(d, port):
            e = self._owner[box]
            held = list(self.members(e))
            at, other = next(((a, o) for a, o in held if o["name"] == name), (pointer("devices", e), {"name": name}))
            bundle = next(((a, o) for a, o in held if a in self.bundles and o["name"] == other.get("lag")), None)
            at, other = bundle or (at, other)
            out[at] = (e, at, other)
        return list(out.values())

    def link(self, d: int, at: str, port: Tree) -> tuple[str, ...]:
        """Return a port, what is at its far ends, and the cables between: all that may be to blame where ends disagree."""
        cables = [pointer("cables", i) for i, _ in self.cables(d, port)]
        members = [a for a, p in self.members(d) if p.get("lag") == port["name"]]
        return (at, *members, *(a for _, a, _ in self.far(d, port)), *cables)

    def firewalls(self) -> Iterator[tuple[int, Tree]]:
        """Yield the firewalls."""
        return ((d, x) for d, x in enumerate(self.devices) if x["kind"] == "firewall")

    def endpoints(self) -> Iterator[tuple[int, Tree]]:
        """Yield the endpoints."""
        return ((d, x) for d, x in enumerate(self.devices) if x["kind"] == "endpoint")

    def interfaces(self) -> Iterator[tuple[int, str, Tree, str]]:
        """Yield (device, pointer, settings, name) of every layer-3 interface with an address on a box that may route."""
        for d, device in enumerate(self.devices):
            if device["kind"] in ("endpoint", "outside", "hub"):
                continue
            for at, port in self.members(d):
                for k, sub in enumerate(port.get("subinterfaces", [])):
                    yield d, f"{at}/subinterfaces/{k}", sub, f"{port['name']}.{sub['tag']}"
                if port.get("addresses"):
                    yield d, at, port, port["name"]
            for i, entry in enumerate(device.get("vlan_interfaces", [])):
                yield d, pointer("devices", d, "vlan_interfaces", i), entry, f"vlan{entry['vlan']}"

    def routes(self) -> Iterator[tuple[int, str, int, str, Tree]]:
        """Yield (device, pointer of the VRF, or of the box where it has none, place in its list, pointer, route)."""
        for d, device in enumerate(self.devices):
            owners = [(pointer("devices", d), device)]
            owners += [(pointer("devices", d, "vrfs", v), x) for v, x in enumerate(device.get("vrfs", []))]
            for at, owner in owners:
                for i, route in enumerate(owner.get("routes", [])):
                    yield d, at, i, f"{at}/routes/{i}", route

    def switches(self, d: int) -> bool:
        """Tell whether a device is a switch."""
        return bool(self.devices[d]["kind"] == "switch")


def boxes(device: Tree) -> list[str]:
    """Return the boxes of a device."""
    return [u["name"] for u in device.get("units", [])] or [device["name"]]


def put(at: str, key: str, value: Any) -> Patch:
    """Return the edit that sets a key."""
    return [{"op": "add", "path": f"{at}/{key}", "value": value}]


def out(at: str) -> Patch:
    """Return the edit that removes what is at a pointer."""
    return [{"op": "remove", "path": at}]
