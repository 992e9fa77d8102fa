"""Findings about tenants on an overlay: numbers that are not unique, targets that join too much or too little, gateways in the wrong table."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import combinations, permutations

from anabasis.design import Patch
from anabasis.design.notation import parse_prefix, pointer
from anabasis.design.overlay import Side, hears, sides, stretched
from anabasis.design.routes import Vrf
from anabasis.design.tenants import MacVrf, Stretched
from anabasis.errors import UnknownPlace
from anabasis.facts import Cause, Says, Wrong
from anabasis.findings.catalogue import Finding, finding
from anabasis.findings.mends import switched_on
from anabasis.routing import line_mtu, look_up, misplaced
from anabasis.site import Site, find_place

Held = tuple[Side, Stretched, MacVrf, str]
Table = tuple[Side, Vrf, str]


def check(site: Site) -> Iterator[Finding]:
    """All of them, where any box takes part in an overlay."""
    known = sides(site.design)
    held: list[Held] = [(side, *entry) for side in known for entry in stretched(side)]
    tables: list[Table] = [(side, *entry) for side in known for entry in side.vrfs]
    yield from _underlay(site)
    yield from _too_long(site, known)
    yield from _sourceless(site, {s.device for s in known})
    for side in known:
        yield from _distinguishers(side)
        yield from _twice([h for h in held if h[0] is side])
    yield from _layers(held, tables)
    yield from _joined(held)
    yield from _gateways(site)
    yield from _foreign(site, tables)
    yield from _apart(site, tables)


def _underlay(site: Site) -> Iterator[Finding]:
    told: set[Cause] = set()
    for cause in (state.cause for state in site.conditions.tunnels):
        if cause is not None and cause.wrong in (Wrong.UNDERLAY_LOST, Wrong.UNDERLAY_SOURCE) and cause not in told:
            told.add(cause)
            mend = next(switched_on(cause), None)
            yield finding(Says.UNDERLAY_LOST, *cause.pointers, mend=mend, cause=cause)


OVERHEAD = 50
"""Bytes that an overlay adds to a packet: Ethernet, IPv4, UDP and VXLAN headers (RFC 7348 section 5)."""
OF_HOSTS = 1500
"""Bytes of the largest packet of hosts, where nothing says otherwise."""


def _too_long(site: Site, known: Sequence[Side]) -> Iterator[Finding]:
    """Lines towards another box of the overlay that say they carry less than what it adds to packets of hosts: its boxes do not cut packets (RFC 7348 section 4.3)."""
    told: set[str] = set()
    for one, two in permutations(known, 2):
        held = site.net.by_name.get((two.device, two.source))
        table = site.net.tables.get((one.device, "main"))
        for address in held.addresses if held is not None and table is not None else ():
            winner = look_up(table, address.ip).winner if table is not None else None
            by = site.net.by_name.get((one.device, winner.interface or "")) if winner is not None else None
            mtu = line_mtu(site.fabric, by) if by is not None else None
            if by is not None and mtu is not None and mtu < OF_HOSTS + OVERHEAD and by.pointer not in told:
                told.add(by.pointer)
                mend: Patch = [{"op": "add", "path": f"{by.pointer}/mtu", "value": OF_HOSTS + OVERHEAD}]
                said = {"interface": by.label, "far": two.device, "mtu": mtu, "overhead": OVERHEAD}
                yield finding(Says.OVERLAY_TOO_LONG, by.pointer, mend=mend, values=said)


def _sourceless(site: Site, known: set[str]) -> Iterator[Finding]:
    """Tables with route targets on a box that has no source."""
    for d, device in enumerate(site.design.devices):
        for v, vrf in enumerate(getattr(device, "vrfs", [])):
            if vrf.on_overlay and device.name not in known:
                at = pointer("devices", d, "vrfs", v)
                yield finding(Says.SOURCE_MISSING, f"{at}/source", at, device=device.name, vrf=vrf.name)


def _distinguishers(side: Side) -> Iterator[Finding]:
    """A distinguisher keeps the routes of one table apart from those of another of the same box (RFC 4364 section 4.2)."""
    first: dict[str, tuple[str, str]] = {}
    held: list[tuple[MacVrf | Vrf, str]] = [*side.mac_vrfs, *side.vrfs]
    for entry, at in held:
        if entry.rd is not None and entry.rd in first:
            name, where = first[entry.rd]
            values = {"device": side.device, "one": name, "two": entry.name, "rd": entry.rd}
            yield finding(Says.RD_TWICE, f"{at}/rd", f"{where}/rd", values=values)
        elif entry.rd is not None:
            first[entry.rd] = entry.name, at


def _twice(held: Sequence[Held]) -> Iterator[Finding]:
    first: dict[int, Held] = {}
    for side, entry, mac, at in held:
        if entry.vni in first:
            values = {"device": side.device, "one": first[entry.vni][1].vlan, "two": entry.vlan, "vni": entry.vni}
            yield finding(Says.VNI_TWICE, f"{at}/vni", f"{first[entry.vni][3]}/vni", values=values)
        first.setdefault(entry.vni, (side, entry, mac, at))


def _layers(held: Sequence[Held], tables: Sequence[Table]) -> Iterator[Finding]:
    """A VNI is that of a VLAN or that of a routing table (RFC 9135 section 3)."""
    told: set[int] = set()
    for side, vrf, where in tables:
        for other, entry, _, at in held:
            if vrf.vni == entry.vni and entry.vni not in told:
                told.add(entry.vni)
                values = {
                    "vni": entry.vni,
                    "vlan": entry.vlan,
                    "device": other.device,
                    "vrf": vrf.name,
                    "far": side.device,
                }
                yield finding(Says.VNI_OF_BOTH, f"{where}/vni", f"{at}/vni", values=values)


def _joined(held: Sequence[Held]) -> Iterator[Finding]:
    """What is one VLAN of one tenant on two boxes, and is not joined: by its VNI, or by the targets."""
    told: set[str] = set()
    for (one, mine, mac, at), (two, theirs, other, there) in combinations(held, 2):
        if one is two or at in told:
            continue
        said: dict[str, object] = {"device": one.device, "far": two.device, "one": mac.name}
        if mine.vni == theirs.vni:
            ways = ((one, mac, at), (two, other, there)), ((two, other, there), (one, mac, at))
            for (here, a, x), (far, b, _) in ways:
                if not hears(a, b) and x not in told:
                    told.add(x)
                    a_at, b_at = _instance(here, a), _instance(far, b)
                    keys = f"{a_at}/import", f"{b_at}/export", a_at, b_at
                    mend: Patch = [{"op": "add", "path": keys[0], "value": [*a.import_, *b.export]}]
                    values = {"device": here.device, "far": far.device, "one": a.name, "two": b.name, "vni": mine.vni}
                    yield finding(Says.TARGETS_APART, *keys, mend=mend if b.export else None, values=values)
        elif mine.vlan == theirs.vlan and hears(mac, other) and hears(other, mac):
            told |= {at, there}
            right, wrong = _usual(held, mine, theirs, at, there)
            said = {**said, "vlan": mine.vlan, "mine": mine.vni, "theirs": theirs.vni}
            change: Patch = [{"op": "replace", "path": f"{wrong}/vni", "value": right}]
            yield finding(Says.VNIS_DIFFER, f"{wrong}/vni", f"{at}/vni", f"{there}/vni", mend=change, values=said)


def _instance(side: Side, mac: MacVrf) -> str:
    """Return the pointer of an instance of a box."""
    return next(at for m, at in side.mac_vrfs if m is mac)


def _usual(held: Sequence[Held], mine: Stretched, theirs: Stretched, at: str, there: str) -> tuple[int, str]:
    """Return the VNI that most boxes have for a VLAN, and the entry that has the other."""
    count = {v: sum(h[1].vlan == mine.vlan and h[1].vni == v for h in held) for v in (mine.vni, theirs.vni)}
    return (theirs.vni, at) if count[theirs.vni] > count[mine.vni] else (mine.vni, there)


def _gateways(site: Site) -> Iterator[Finding]:
    """The gateways of one stretched VLAN are there, and stand in one tenant's table on every box."""
    for side in sides(site.design):
        for held, _, entry in stretched(side):
            if held.irb is not None and (side.device, f"vlan{held.irb}") not in site.net.by_name:
                lost: Patch = [{"op": "remove", "path": f"{entry}/irb"}]
                lost_at = {"vlan": held.vlan, "device": side.device}
                yield finding(Says.IRB_MISSING, f"{entry}/irb", entry, mend=lost, values=lost_at)
    for m in misplaced(site.design, site.net.by_name):
        at, right = m.gateway, m.right
        values = {"vlan": m.vlan, "device": at.device, "vrf": at.vrf, "far": right.device, "other": right.vrf}
        mend: Patch = [{"op": "add", "path": f"{at.pointer}/vrf", "value": right.vrf}]
        yield finding(Says.IRB_OTHER_VRF, f"{at.pointer}/vrf", at.pointer, right.pointer, mend=mend, values=values)


def out_of_place(site: Site, expectation: str) -> tuple[str, ...]:
    """Return the gateways in another tenant's table that serve an end of an expectation: by them it is open."""
    wrong = list(misplaced(site.design, site.net.by_name)) if site.overlaid else []
    wanted = next((e for i, e in enumerate(site.design.expectations) if f"/expectations/{i}" == expectation), None)
    if not wrong or wanted is None:
        return ()
    inside = _segments_of(site, wanted.from_) | _segments_of(site, wanted.to)
    standing = [(m.gateway.pointer, m.gateway.attachment) for m in wrong]
    return tuple(at for at, t in standing if t is not None and site.segments.of_attachment.get(t.index) in inside)


def _foreign(site: Site, tables: Sequence[Table]) -> Iterator[Finding]:
    for side, vrf, at in tables:
        inside = [i for i in site.net.of_device[side.device] if i.vrf == vrf.name]
        for k, text in enumerate(vrf.advertise if vrf.advertise != "connected" else ()):
            prefix = parse_prefix(text)
            if not any(a.version == prefix.version and a.network.overlaps(prefix) for i in inside for a in i.addresses):
                mend: Patch = [{"op": "remove", "path": f"{at}/advertise/{k}"}]
                values = {"device": side.device, "vrf": vrf.name, "prefix": prefix}
                yield finding(
                    Says.ADVERTISED_FOREIGN, f"{at}/advertise/{k}", f"{at}/advertise", mend=mend, values=values
                )


def _apart(site: Site, tables: Sequence[Table]) -> Iterator[Finding]:
    """Tables of two tenants that hear each other, or one the other, though an expectation keeps their segments apart."""
    told: set[tuple[str, str]] = set()
    for wanted in site.design.expectations:
        if wanted.expect != "closed":
            continue
        ends = [_tables_of(site, end, tables) for end in (wanted.from_, wanted.to)]
        for one, two in ((a, b) for x, y in (ends, ends[::-1]) for a in x for b in y):
            (side, mine, at), (far, theirs, there) = one, two
            if mine.name == theirs.name or not hears(mine, theirs) or (at, there) in told:
                continue
            both = hears(theirs, mine)
            told |= {(at, there), (there, at)} if both else {(at, there)}
            target = next(t for t in mine.import_ if t in theirs.export)
            values = {"device": side.device, "far": far.device, "one": mine.name, "two": theirs.name, "target": target}
            rest = [t for t in mine.import_ if t != target]
            mend: Patch = [{"op": "add", "path": f"{at}/import", "value": rest}]
            says = Says.TARGET_SHARED if both else Says.TARGET_ONE_WAY
            places = f"{at}/import", f"{there}/export"
            yield finding(says, *places, mend=mend, values={**values, "name": wanted.name})


def _tables_of(site: Site, end: str, tables: Sequence[Table]) -> list[Table]:
    """Return the tables of tenants whose gateways serve the segments of an expectation's end."""
    segments = _segments_of(site, end)
    found = {
        (i.device, i.vrf)
        for i in site.net.interfaces
        if i.attachment is not None and i.addresses and site.segments.of_attachment.get(i.attachment.index) in segments
    }
    return [t for t in tables if (t[0].device, t[1].name) in found]


def _segments_of(site: Site, end: str) -> set[int | None]:
    """Return the segments that an expectation's end stands for."""
    try:
        return {p.segment for p in find_place(site, end).places}
    except UnknownPlace:
        return set()
