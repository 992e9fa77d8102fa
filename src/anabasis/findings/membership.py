"""Findings about VLAN membership (IEEE 802.1Q): islands, merges, and cables whose ends disagree."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from anabasis.fabric import LinkPort, Segment, why_apart
from anabasis.fabric.frames import egress, ingress, member_vlans
from anabasis.findings.catalogue import Finding
from anabasis.findings.mends import mend_of
from anabasis.reach import Site


def check(site: Site) -> Iterator[Finding]:
    """All of them."""
    yield from _islands(site)
    for segment in site.segments.all:
        if len(segment.vlan_ids) > 1:
            names = " and ".join(f"VLAN {v}" for v in segment.vlan_ids)
            yield Finding("merged", f"{names} are one broadcast domain, {segment.name}.", (segment.pointer,))
    ports = [p for p in site.fabric.ports.values() if p.bridges and site.fabric.tables[p.box] is not None]
    for port in ports:
        yield from _pvid(port)
        far = site.fabric.ports.get(port.peer) if port.peer else None
        if far and far.bridges and port.spot < far.spot and site.fabric.tables[far.box] is not None:
            yield from _ends(site, port, far)


def _islands(site: Site) -> Iterator[Finding]:
    holders: dict[int, list[Segment]] = defaultdict(list)
    for segment in site.segments.all:
        for vlan in segment.vlan_ids if segment.island else ():
            holders[vlan].append(segment)
    for vlan, parts in sorted((v, p) for v, p in holders.items() if len(p) > 1):
        first, second = parts[0], parts[1]
        names = ", ".join(p.name for p in parts)
        text = f"VLAN {vlan} has fallen into {len(parts)} islands, {names}"
        if not first.taps or not second.taps:
            yield Finding("island", f"{text}.", (first.pointer,))
            continue
        why = why_apart(site.fabric, first.taps[0], second.taps[0])
        yield Finding(
            "island",
            f"{text}: {why.reason}.",
            (why.pointer, first.pointer),
            mend_of(site.design, why, first.taps[0], second.taps[0]),
        )


def _pvid(port: LinkPort) -> Iterator[Finding]:
    pvid = port.settings.pvid
    if pvid is not None and port.settings.ingress_check and pvid not in member_vlans(port.settings):
        text = f"{port.label} puts untagged frames into VLAN {pvid} (its PVID) but is no member of it, so they are dropped."
        yield Finding("pvid-outside", text, (port.pointer,))


def _ends(site: Site, one: LinkPort, two: LinkPort) -> Iterator[Finding]:
    a, b = one.settings, two.settings
    if a.pvid and b.pvid and a.pvid != b.pvid:
        text = f"{one.label} puts untagged frames into VLAN {a.pvid}, {two.label} at the other end into VLAN {b.pvid}."
        yield Finding("native-differs", text, (one.pointer + "/pvid", two.pointer + "/pvid"))
    held = {v: {s.name for s in site.segments.all if v in s.vlan_ids and s.island} for v in (*a.tagged, *b.tagged)}
    for near, far in ((one, two), (two, one)):
        for vlan in near.settings.tagged:
            form = egress(near.settings, vlan)
            into, _ = (None, "") if form is None else ingress(far.settings, form, site.fabric.tables[far.box])
            if into is None and not held[vlan] and near.forwarding:
                text = f"{near.label} carries VLAN {vlan}, {far.label} at the other end drops it."
                yield Finding("tag-one-sided", text, (near.pointer, far.pointer))
