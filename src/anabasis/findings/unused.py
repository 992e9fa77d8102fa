"""Findings about what nobody uses: zones, sets, VRFs, answers, and routes that never win."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from anabasis.design import Design, Patch, remove, remove_zone
from anabasis.design.devices import BridgingBox, Device, Firewall
from anabasis.design.mentions import mentions, mentions_in
from anabasis.design.notation import pointer
from anabasis.facts import Says
from anabasis.findings.catalogue import Finding, finding
from anabasis.memo import Memo, Same
from anabasis.site import Site

Names = frozenset[tuple[str, object]]
"""Names that something uses, by the kind of thing they name."""


def check(site: Site, memo: Memo) -> Iterator[Finding]:
    """One finding a thing, with the edit that takes it out."""
    design = site.design
    inside = {d.name: memo.get("names used", Same(d), partial(_named_in, d)) for d in design.devices}
    beside = (m for m in mentions(design, {id(d) for d in design.devices}))
    everywhere = frozenset((m.kind, m.value) for m in beside).union(*inside.values())
    ends = {part for kind, name in everywhere if kind == "end" for part in (name, str(name).rpartition("@")[0])}
    for at, says, names, spoken_of in _things(design, everywhere, inside):
        mend = taken_out(at)
        if spoken_of is not None:  # it goes out of the rules that speak of it, too
            d, zone = spoken_of
            device = design.devices[d]
            if isinstance(device, Firewall) and device.zones[zone].name not in ends:
                inputs = Same(device), d, zone
                mend = memo.get("a zone taken out", inputs, partial(remove_zone, site.written, d, zone))
            else:
                mend = remove(site.written, at).patch
        yield finding(says, at, mend=mend, values=names)
    for table in site.net.tables.values():
        connected = {r.to: r for r in table.routes if r.origin == "connected" and r.active}
        for route in table.routes:
            better = connected.get(route.to)
            if route.origin == "static" and route.active and better is not None and better.rank < route.rank:
                yield finding(
                    Says.ROUTE_NEVER_WINS,
                    route.pointer,
                    mend=taken_out(route.pointer),
                    device=route.device,
                    to=route.to,
                    by=route.goes_to or route.interface or "",
                    interface=better.interface,
                )


def taken_out(at: str) -> Patch:
    """Return the edit that takes out what nothing names."""
    return [{"op": "remove", "path": at}]


def _named_in(device: Device) -> Names:
    return frozenset((m.kind, m.value) for m in mentions_in(device))


def _things(
    design: Design, everywhere: Names, inside: dict[str, Names]
) -> Iterator[tuple[str, Says, dict[str, str], tuple[int, int] | None]]:
    """Yield pointer, kind and name of what nobody uses; of a zone that rules speak of all the same also the numbers of its device and of itself."""
    for kind, sets, says in (
        ("addresses", design.addresses, Says.UNUSED_ADDRESSES),
        ("services", design.services, Says.UNUSED_SERVICES),
    ):
        for i, entry in enumerate(sets):
            if (kind, entry.name) not in everywhere:  # type: ignore[attr-defined]
                yield pointer(kind, i), says, {"name": entry.name}, None  # type: ignore[attr-defined]
    for d, device in enumerate(design.devices):
        used, box = inside[device.name], {"device": device.name}
        if isinstance(device, BridgingBox):
            for i, vrf in enumerate(device.vrfs):
                if vrf.name != "main" and ("vrf", vrf.name) not in used:
                    yield pointer("devices", d, "vrfs", i), Says.UNUSED_VRF, box | {"name": vrf.name}, None
            for i, one in enumerate(device.filters):
                if ("filter", one.name) not in used:
                    yield pointer("devices", d, "filters", i), Says.UNUSED_FILTER, box | {"name": one.name}, None
        if isinstance(device, Firewall):
            for i, zone in enumerate(device.zones):
                if not _holds(device, zone.name):
                    known = (d, i) if ("zone", zone.name) in used else None
                    yield pointer("devices", d, "zones", i), Says.UNUSED_ZONE, box | {"name": zone.name}, known
            for i, answers in enumerate(device.answers):
                if ("answers", answers.name) not in used:
                    yield pointer("devices", d, "answers", i), Says.UNUSED_ANSWERS, box | {"name": answers.name}, None


def _holds(device: Firewall, zone: str) -> bool:
    """Tell whether an interface stands in a zone; rules that speak of it are no use of it."""
    bases = [*device.ports, *device.lags]
    interfaces = [*bases, *(s for b in bases for s in b.subinterfaces), *device.vlan_interfaces, *device.loopbacks]
    interfaces += [*device.tunnels, *(a.as_port() for a in device.remote_access)]
    return any(i.zone == zone for i in interfaces)
