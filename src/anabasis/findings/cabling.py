"""Findings about cables: loops, ways around filters, speeds, ports left open."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design.devices import Device, Firewall
from anabasis.design.notation import pointer
from anabasis.design.ports import Lag
from anabasis.fabric import LinkPort, bypasses, label, lone_inline, unfit
from anabasis.facts import Layer, Says, Values, Wrong, because
from anabasis.findings.catalogue import Finding, finding
from anabasis.site import Site


def check(site: Site) -> Iterator[Finding]:
    """All of them."""
    fabric = site.fabric
    spots = {p.label: p for p in fabric.ports.values()}
    for loop in fabric.tree.loops:
        yield finding(Says.LOOP, *(spots[x].pointer for x in loop), one=loop[0], two=loop[1])
    for way in bypasses(fabric):
        yield finding(Says.BYPASS, *way.pointers, device=way.device, left=way.left, entered=way.entered)
    yield from _unlike(site)
    for port in fabric.ports.values():
        if isinstance(port.settings, Lag) and port.forwarding:
            speeds = {m.port.speed_mbps or 1000 for m in port.members}
            if len(speeds) > 1:
                yield finding(
                    Says.MEMBERS_UNLIKE,
                    port.pointer,
                    *(m.pointer for m in port.members),
                    port=port.label,
                    speeds=sorted(speeds),
                )
    yield from _hosts(site)
    yield from _pairs(site)
    yield from _open_ports(site)


ENDS = (
    ("duplex", Says.DUPLEX_DIFFERS, None),
    ("mtu", Says.MTU_DIFFERS, 1500),
    ("tag_protocol", Says.TAG_PROTOCOL_DIFFERS, "8100"),
)
"""Settings in which the ends of a cable have to be alike: key, what is said, what it is where left out."""


def _unlike(site: Site) -> Iterator[Finding]:
    """Ends of one cable that do not fit each other."""
    physical = {m.spot: m for p in site.fabric.ports.values() for m in p.members}
    for one in physical.values():
        two = physical.get(one.far) if one.far else None
        if two is None or one.spot > two.spot:
            continue
        cause = one.cause if one.cause is not None and one.cause.wrong == Wrong.SPEEDS_DIFFER else None
        if cause is not None:
            yield finding(Says.SPEED_DIFFERS, *cause.pointers, cause=cause)
        places = (one.pointer, two.pointer, one.cable or "")
        for key, says, default in ENDS:
            mine, theirs = (getattr(x.port, key) or default for x in (one, two))
            if mine != theirs and None not in (mine, theirs):
                names = {"one": label(one.spot), "two": label(two.spot)}
                yield finding(says, *(p for p in places if p), mine=mine, theirs=theirs, values=names)


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
            yield finding(Says.HOST_CUT, *cause.pointers, cause=cause, device=attachment.device)


def _pairs(site: Site) -> Iterator[Finding]:
    cabled = {p.spot for p in site.fabric.ports.values() if p.peer}
    for d, device in enumerate(site.design.devices):
        for i, wire in enumerate(device.wires if isinstance(device, Firewall) else []):
            for end in wire.ends:
                if not any(site.fabric.devices[box].name == device.name and name == end for box, name in cabled):
                    yield finding(
                        Says.PAIR_UNUSED, pointer("devices", d, "wires", i), pair=wire.name, device=device.name, end=end
                    )
    for port in site.fabric.ports.values():
        if port.mode == "inline" and port.spot not in site.fabric.inline_pairs and port.peer and port.forwarding:
            at = site.item_of(port.device)
            values: Values = {"port": port.label, "device": port.device}
            lone = lone_inline(site.fabric, port)
            cause = (
                lone[1]
                if lone is not None
                else because(Layer.LINK, Wrong.INLINE_ALONE, port.pointer, f"{at}/wires", values=values)
            )
            yield finding(Says.INLINE_ALONE, *cause.pointers, cause=cause)


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
            yield finding(
                Says.PORT_OPEN,
                pointer("devices", d),
                *(p.pointer for p in used),
                device=device.name,
                ports=[p.settings.name for p in used],
            )
        yield from _open_firewall_ports(site, device, d, live)


def _open_firewall_ports(site: Site, device: Device, d: int, live: set[int]) -> Iterator[Finding]:
    """A firewall is open where an enabled port with an address, or in a live VLAN, is cabled on no unit: whoever plugs in there is in its zone."""
    mine = [p for p in site.fabric.ports.values() if p.device == device.name and p.kind == "firewall" and not p.virtual]
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
        mend = [{"op": "add", "path": f"{p.pointer}/enabled", "value": False} for p in found.values()]
        places = (pointer("devices", d), *(p.pointer for p in found.values()))
        if zones:
            into = sorted(zones)
            yield finding(
                Says.FIREWALL_PORT_OPEN_INTO, *places, mend=mend, device=device.name, ports=list(found), zones=into
            )
        else:
            yield finding(Says.FIREWALL_PORT_OPEN, *places, mend=mend, device=device.name, ports=list(found))
