"""Findings about cables: loops, ways around filters, speeds, ports left open."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design.devices import Firewall
from anabasis.design.notation import pointer
from anabasis.design.ports import Lag
from anabasis.fabric import bypasses
from anabasis.findings.catalogue import Finding
from anabasis.reach import Site


def check(site: Site) -> Iterator[Finding]:
    """All of them."""
    fabric = site.fabric
    spots = {p.label: p for p in fabric.ports.values()}
    for loop in fabric.tree.loops:
        text = f"The cable from {loop[0]} to {loop[1]} closes a loop among devices without spanning tree."
        yield Finding("loop", text, tuple(spots[x].pointer for x in loop))
    for way in bypasses(fabric):
        text = f"Frames leave {way.device} at {way.left} and come to {way.entered} around the filter between them."
        yield Finding("bypass", text, way.pointers)
    told: set[str] = set()
    for port in fabric.ports.values():
        if port.blame.endswith("/speed_mbps") and not port.up and port.blame not in told:
            told.add(port.blame)
            yield Finding("speed-differs", f"There is no link: {port.reason}.", (port.blame, port.pointer))
        if isinstance(port.settings, Lag) and port.forwarding:
            speeds = {m.port.speed_mbps or 1000 for m in port.members}
            if len(speeds) > 1:
                text = f"{port.label} has members of {' and '.join(map(str, sorted(speeds)))} Mbit/s."
                yield Finding("members-unlike", text, (port.pointer, *(m.pointer for m in port.members)))
    yield from _pairs(site)
    yield from _open_ports(site)


def _pairs(site: Site) -> Iterator[Finding]:
    cabled = {p.spot for p in site.fabric.ports.values() if p.peer}
    for d, device in enumerate(site.design.devices):
        for i, wire in enumerate(device.wires if isinstance(device, Firewall) else []):
            for end in wire.ends:
                if not any(site.fabric.devices[box].name == device.name and name == end for box, name in cabled):
                    text = f"The inline pair {wire.name} of {device.name} has no cable at port {end}."
                    yield Finding("pair-unused", text, (pointer("devices", d, "wires", i),))


def _open_ports(site: Site) -> Iterator[Finding]:
    """One finding a device; a port with a note is there on purpose."""
    live = {v for s in site.segments.all if s.taps for _, v in s.vlans}
    for d, device in enumerate(site.design.devices):
        ports = [
            p
            for p in site.fabric.ports.values()
            if p.device == device.name and p.kind == "switch" and p.bridges and p.peer is None and p.settings.enabled
        ]
        bare = [p for p in ports if p.settings.note is None and not isinstance(p.settings, Lag)]
        used = [p for p in bare if {*p.settings.untagged, *p.settings.tagged} & live]
        if used:
            names = ", ".join(p.settings.name for p in used)
            text = f"{device.name}: enabled ports without a cable or a note stand in live VLANs: {names}."
            yield Finding("port-open", text, (pointer("devices", d), *(p.pointer for p in used)))
