"""Findings about what nobody uses: zones, sets, VRFs, answers, and routes that never win."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design import Design, Patch, remove
from anabasis.design.devices import BridgingBox, Firewall
from anabasis.design.notation import pointer
from anabasis.design.uses import uses
from anabasis.findings.catalogue import Finding
from anabasis.site import Site


def check(site: Site) -> Iterator[Finding]:
    """One finding a thing, with the edit that takes it out."""
    design = site.design
    tree = site.written
    used = {use.target for use in uses(tree)}
    for at, what in _things(design, used):
        mend = (
            remove(tree, at).patch if at in used else taken_out(at)
        )  # a zone that rules speak of goes out of them too
        yield Finding("unused", f"{what} is used nowhere.", (at,), mend)
    for table in site.net.tables.values():
        connected = {r.to: r for r in table.routes if r.origin == "connected" and r.active}
        for route in table.routes:
            better = connected.get(route.to)
            if route.origin == "static" and route.active and better is not None and better.rank < route.rank:
                said = f"{route.device}: the route to {route.to} by {route.goes_to or route.interface} never wins: {better.interface} is in that subnet itself."
                yield Finding("unused", said, (route.pointer,), taken_out(route.pointer))


def taken_out(at: str) -> Patch:
    """Return the edit that takes out what nothing names."""
    return [{"op": "remove", "path": at}]


def _things(design: Design, used: set[str]) -> Iterator[tuple[str, str]]:
    for kind, sets, word in (
        ("addresses", design.addresses, "address set"),
        ("services", design.services, "service set"),
    ):
        for i, entry in enumerate(sets):
            if pointer(kind, i) not in used:
                yield pointer(kind, i), f"The {word} {entry.name}"  # type: ignore[attr-defined]
    for d, device in enumerate(design.devices):
        if isinstance(device, BridgingBox):
            for i, vrf in enumerate(device.vrfs):
                if vrf.name != "main" and pointer("devices", d, "vrfs", i) not in used:
                    yield pointer("devices", d, "vrfs", i), f"{device.name}: VRF {vrf.name}"
        if isinstance(device, Firewall):
            for i, zone in enumerate(device.zones):
                if not _holds(device, zone.name):
                    yield pointer("devices", d, "zones", i), f"{device.name}: zone {zone.name}"
            for i, answers in enumerate(device.answers):
                if pointer("devices", d, "answers", i) not in used:
                    yield pointer("devices", d, "answers", i), f"{device.name}: the answers {answers.name}"


def _holds(device: Firewall, zone: str) -> bool:
    """Tell whether an interface stands in a zone; rules that speak of it are no use of it."""
    bases = [*device.ports, *device.lags]
    interfaces = [*bases, *(s for b in bases for s in b.subinterfaces), *device.vlan_interfaces, *device.loopbacks]
    return any(i.zone == zone for i in interfaces)
