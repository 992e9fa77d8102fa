"""Findings about VLAN membership (IEEE 802.1Q): islands, merges, and cables whose ends disagree."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from anabasis.design import MembershipCell, Patch, set_membership, set_memberships
from anabasis.fabric import LinkPort, Segment, why_apart
from anabasis.fabric.frames import egress, ingress, member_vlans
from anabasis.findings.catalogue import Finding
from anabasis.findings.mends import mend_of
from anabasis.findings.tables import DEFAULT_VLAN
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
        yield from _pvid(site, port)
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


def _pvid(site: Site, port: LinkPort) -> Iterator[Finding]:
    pvid = port.settings.pvid
    if pvid is not None and port.settings.ingress_check and pvid not in member_vlans(port.settings):
        text = f"{port.label} puts untagged frames into VLAN {pvid} (its PVID) but is no member of it, so they are dropped."
        yield Finding("pvid-outside", text, (port.pointer,), _both_ways(site, port, pvid))


def _both_ways(site: Site, port: LinkPort, pvid: int) -> Patch | None:
    """Make the way in and the way out agree: the PVID follows the one untagged VLAN; with none, the port joins its PVID's VLAN."""
    if len(port.settings.untagged) > 1:
        return None
    if port.settings.untagged:
        return [{"op": "replace", "path": port.pointer + "/pvid", "value": port.settings.untagged[0]}]
    raw = site.design.model_dump(mode="json", by_alias=True, exclude_unset=True)
    return set_membership(raw, port.device, port.settings.name, pvid, "untagged")


def _same_native(site: Site, one: LinkPort, two: LinkPort) -> Patch | None:
    """Where one end has the default VLAN, or one the plan does not know, it takes the other's; of two planned ones neither is the right one."""
    planned = {v.id for v in site.design.vlans} - {DEFAULT_VLAN}
    sure = [p for p in (one, two) if p.settings.pvid in planned and p.settings.untagged == [p.settings.pvid]]
    if len(sure) != 1:
        return None
    right, wrong = (one, two) if sure[0] is one else (two, one)
    raw = site.design.model_dump(mode="json", by_alias=True, exclude_unset=True)
    cell = MembershipCell(wrong.device, wrong.settings.name, right.settings.pvid or 0, "untagged")
    return set_memberships(
        raw, [MembershipCell(wrong.device, wrong.settings.name, wrong.settings.pvid or 0, "none"), cell]
    )


def _ends(site: Site, one: LinkPort, two: LinkPort) -> Iterator[Finding]:
    a, b = one.settings, two.settings
    if a.pvid and b.pvid and a.pvid != b.pvid:
        text = f"{one.label} puts untagged frames into VLAN {a.pvid}, {two.label} at the other end into VLAN {b.pvid}."
        mend = _same_native(site, one, two)
        yield Finding("native-differs", text, (one.pointer + "/pvid", two.pointer + "/pvid"), mend)
    held = {v: {s.name for s in site.segments.all if v in s.vlan_ids and s.island} for v in (*a.tagged, *b.tagged)}
    for near, far in ((one, two), (two, one)):
        for vlan in near.settings.tagged:
            form = egress(near.settings, vlan)
            into, _ = (None, "") if form is None else ingress(far.settings, form, site.fabric.tables[far.box])
            if into is None and not held[vlan] and near.forwarding:
                text = f"{near.label} carries VLAN {vlan}, {far.label} at the other end drops it."
                yield Finding("tag-one-sided", text, (near.pointer, far.pointer))
