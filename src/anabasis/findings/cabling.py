"""Findings about cables: loops, ways around filters, speeds, ports left open."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design.devices import Device, Firewall
from anabasis.design.notation import pointer
from anabasis.design.ports import Lag
from anabasis.fabric import LinkPort, bypasses, label, lone_inline, unfit
from anabasis.facts import Layer, Values, Wrong, because
from anabasis.findings.catalogue import Finding
from anabasis.site import Site
from anabasis.wording import say


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
    yield from _unlike(site)
    for port in fabric.ports.values():
        if isinstance(port.settings, Lag) and port.forwarding:
            speeds = {m.port.speed_mbps or 1000 for m in port.members}
            if len(speeds) > 1:
                text = f"{port.label} has members of {' and '.join(map(str, sorted(speeds)))} Mbit/s."
                yield Finding("members-unlike", text, (port.pointer, *(m.pointer for m in port.members)))
    yield from _hosts(site)
    yield from _pairs(site)
    yield from _open_ports(site)


ENDS = (
    ("duplex", "duplex-differs", None, "is {} duplex"),
    ("mtu", "mtu-differs", 1500, "takes frames of {} bytes"),
    ("tag_protocol", "tag-protocol-differs", "8100", "writes tags as {}"),
)
"""Settings in which the ends of a cable have to be alike: key, code, what it is where left out, in words."""


def _unlike(site: Site) -> Iterator[Finding]:
    """Ends of one cable that do not fit each other."""
    physical = {m.spot: m for p in site.fabric.ports.values() for m in p.members}
    for one in physical.values():
        two = physical.get(one.far) if one.far else None
        if two is None or one.spot > two.spot:
            continue
        cause = one.cause if one.cause is not None and one.cause.wrong == Wrong.SPEEDS_DIFFER else None
        if cause is not None:
            yield Finding("speed-differs", f"There is no link: {say(cause)}.", cause.pointers, cause=cause)
        places = (one.pointer, two.pointer, one.cable or "")
        for key, code, default, words in ENDS:
            mine, theirs = (getattr(x.port, key) or default for x in (one, two))
            if mine != theirs and None not in (mine, theirs):
                said = f"{label(one.spot)} {words.format(mine)}, {label(two.spot)} at the other end {words.format(theirs)}."
                yield Finding(code, said, tuple(p for p in places if p))


def _hosts(site: Site) -> Iterator[Finding]:
    """Endpoints whose own line does not work, or whose frames their port does not take, or does not send as they take them."""
    fabric = site.fabric
    for attachment in fabric.attachments:
        if attachment.kind != "endpoint" or attachment.port is None:
            continue
        line = fabric.ports[attachment.box, attachment.port]
        cause = line.cause
        if cause is None and line.peer:
            cause = unfit(fabric, fabric.ports[line.peer], attachment.form)
        if cause is not None:
            yield Finding("host-cut", f"{attachment.device} is cut off: {say(cause)}.", cause.pointers, cause=cause)


def _pairs(site: Site) -> Iterator[Finding]:
    cabled = {p.spot for p in site.fabric.ports.values() if p.peer}
    for d, device in enumerate(site.design.devices):
        for i, wire in enumerate(device.wires if isinstance(device, Firewall) else []):
            for end in wire.ends:
                if not any(site.fabric.devices[box].name == device.name and name == end for box, name in cabled):
                    text = f"The inline pair {wire.name} of {device.name} has no cable at port {end}."
                    yield Finding("pair-unused", text, (pointer("devices", d, "wires", i),))
    for port in site.fabric.ports.values():
        if port.mode == "inline" and port.spot not in site.fabric.inline_pairs and port.peer and port.forwarding:
            at = port.pointer.split("/ports/")[0]
            values: Values = {"port": port.label, "device": port.device}
            lone = lone_inline(site.fabric, port)
            cause = (
                lone[1]
                if lone is not None
                else because(Layer.LINK, Wrong.INLINE_ALONE, port.pointer, f"{at}/wires", values=values)
            )
            yield Finding("inline-alone", f"{say(cause)}.", cause.pointers, cause=cause)


def _open_ports(site: Site) -> Iterator[Finding]:
    """One finding a device; a port with a note is there on purpose."""
    live = {v for s in site.segments.all if s.attachments for _, v in s.vlans}
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
        yield from _open_firewall_ports(site, device, d, live)


def _open_firewall_ports(site: Site, device: Device, d: int, live: set[int]) -> Iterator[Finding]:
    """A firewall is open where an enabled port with an address, or in a live VLAN, is cabled on no unit: whoever plugs in there is in its zone."""
    mine = [p for p in site.fabric.ports.values() if p.device == device.name and p.kind == "firewall"]
    cabled = {p.settings.name for p in mine if p.peer is not None}
    found: dict[str, LinkPort] = {}
    for port in mine:
        settings = port.settings
        routed = port.mode == "routed" and bool(settings.addresses or settings.subinterfaces)
        stands = routed or (port.bridges and bool({*settings.untagged, *settings.tagged} & live))
        plain = settings.enabled and settings.note is None and not isinstance(settings, Lag)
        if stands and plain and settings.name not in cabled:
            found.setdefault(settings.name, port)
    if found:
        zones = {z for p in found.values() for z in (p.settings.zone, *(s.zone for s in p.settings.subinterfaces)) if z}
        into = f": whoever plugs in is in {', '.join(sorted(zones))}" if zones else ""
        text = f"{device.name}: enabled ports without a cable or a note: {', '.join(found)}{into}."
        mend = [{"op": "add", "path": f"{p.pointer}/enabled", "value": False} for p in found.values()]
        places = (pointer("devices", d), *(p.pointer for p in found.values()))
        yield Finding("firewall-port-open", text, places, mend)
