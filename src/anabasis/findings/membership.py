"""Findings about VLAN membership (IEEE 802.1Q): islands, merges, and cables whose ends disagree."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace
from itertools import combinations

from anabasis.design import MembershipCell, Patch, set_membership, set_memberships
from anabasis.design.devices import AccessPoint, BridgingBox
from anabasis.design.notation import pointer
from anabasis.fabric import (
    Attachment,
    Break,
    LinkPort,
    Segment,
    egress,
    ingress,
    link_items,
    lone_vlan,
    member_vlans,
    unfit,
    why_apart,
)
from anabasis.facts import Layer, Says, Wrong, because
from anabasis.findings.catalogue import Finding, finding
from anabasis.findings.mends import mend_of
from anabasis.findings.tables import DEFAULT_VLAN
from anabasis.site import Site


def check(site: Site) -> Iterator[Finding]:
    """All of them."""
    yield from _islands(site)
    yield from _apart(site)
    yield from _bare(site)
    yield from _foreign(site)
    yield from _open_air(site)
    for segment in site.segments.all:
        if len(segment.vlan_ids) > 1:
            yield finding(Says.MERGED, segment.pointer, vlans=segment.vlan_ids, segment=segment.name)
    ports = [p for p in site.fabric.ports.values() if p.bridges and site.fabric.tables[p.box] is not None]
    for port in ports:
        yield from _pvid(site, port)
        yield from _contradicts(site, port)
        far = site.fabric.ports.get(port.peer) if port.peer else None
        if (
            far
            and not port.virtual
            and far.bridges
            and port.spot < far.spot
            and site.fabric.tables[far.box] is not None
        ):
            yield from _ends(site, port, far)


def _islands(site: Site) -> Iterator[Finding]:
    bare = {v.id for v in site.design.vlans if not v.subnets}
    stated = {x.default_vlan for x in site.design.devices if isinstance(x, BridgingBox)}
    defaults = {DEFAULT_VLAN} | {v for v in stated if v is not None and v in bare}
    holders: dict[int, list[Segment]] = defaultdict(list)
    for segment in site.segments.all:
        for vlan in segment.vlan_ids if segment.island else ():
            holders[vlan].append(segment)
    for vlan, parts in sorted((v, p) for v, p in holders.items() if len(p) > 1):
        first, second = parts[0], parts[1]
        told: dict[str, object] = {"vlan": vlan, "count": len(parts), "islands": [p.name for p in parts]}
        local = next((v.local for v in site.design.vlans if v.id == vlan), vlan in defaults)
        if not first.attachments or not second.attachments or local:
            continue  # an island that nobody stands on, or a number that each switch uses for itself
        why, one, two = _parted(site, parts)
        lone = next(
            (c for p in parts for b, v in p.vlans if v == vlan and (c := lone_vlan(site.fabric, b, v)) is not None),
            None,
        )
        if lone is not None:
            yield finding(Says.ISLAND, *lone.pointers, first.pointer, cause=lone, values=told)
            continue
        places = (*why.cause.pointers, first.pointer)
        mend = mend_of(site, why, one, two)
        yield finding(Says.ISLAND, *places, mend=mend, cause=why.cause, values=told)


def _parted(site: Site, parts: list[Segment]) -> tuple[Break, Attachment, Attachment]:
    """Return what parts the islands of a VLAN, and between whom: where a cable leads, before where none does at all; what is kept apart on purpose comes last."""
    standing = [p.attachments[0] for p in parts if p.attachments][:4]
    found = [(why_apart(site.fabric, a, b), a, b) for a, b in combinations(standing, 2)]
    return min(found, key=lambda f: (f[0].cause.wrong == Wrong.KEPT_APART, f[0].cause.wrong == Wrong.NO_WAY))


def _apart(site: Site) -> Iterator[Finding]:
    """Layer-3 interfaces on a port whose far end bridges, and does not carry their frames: each an island of its VLAN by itself."""
    fabric = site.fabric
    for interface in site.net.interfaces:
        attachment = interface.attachment
        line = (
            fabric.ports.get((attachment.box, attachment.port)) if attachment is not None and attachment.port else None
        )
        if attachment is None or line is None or not line.up or not line.peer or line.bridges:
            continue
        cause = unfit(fabric, fabric.ports[line.peer], attachment.form)
        if (
            cause is None
            and attachment.form
            and not any(v == attachment.form for _, v in site.segments.all[site.segments.of(attachment)].vlans)
        ):
            inside, _ = fabric.classify((line.peer, attachment.form))
            if inside is not None and inside != attachment.form and not fabric.ports[line.peer].settings.translate:
                continue
        if cause is not None:
            wrapped = replace(cause, guilty=(*cause.guilty, interface.pointer))
            mend = _carried(site, fabric.ports[line.peer], attachment.form)
            yield finding(Says.INTERFACE_APART, *wrapped.pointers, mend=mend, cause=wrapped, interface=interface.label)


def _carried(site: Site, port: LinkPort, form: int) -> Patch | None:
    """Return the edit after which a port carries a tag, where the plan knows its VLAN."""
    if (
        form not in {v.id for v in site.design.vlans}
        or form in port.settings.member_of
        or not fabric_has(site, port, form)
    ):
        return None
    raw = site.written
    return set_membership(raw, port.device, port.settings.name, form, "tagged")


def fabric_has(site: Site, port: LinkPort, vlan: int) -> bool:
    """Tell whether the box of a port has a VLAN in its table."""
    return site.fabric.carries(port.box, vlan)


def _bare(site: Site) -> Iterator[Finding]:
    """Bridged ports of firewalls that are in no VLAN; two of one zone above all, which look joined and are not."""
    for port in site.fabric.ports.values():
        settings = port.settings
        if port.kind != "firewall" or not port.bridges or not port.forwarding or not port.peer:
            continue
        if settings.untagged or settings.tagged or settings.pvid:
            continue
        mates = [
            p.settings.name
            for p in site.fabric.ports.values()
            if p.device == port.device
            and p is not port
            and p.bridges
            and p.settings.zone
            and p.settings.zone == settings.zone
        ]
        cause = because(Layer.VLAN, Wrong.PORT_BARE, port.pointer, port=port.label)
        if mates:
            yield finding(Says.BRIDGED_BARE_MATES, port.pointer, cause=cause, port=port.label, mates=mates)
        else:
            yield finding(Says.BRIDGED_BARE, port.pointer, cause=cause)


def _foreign(site: Site) -> Iterator[Finding]:
    """A port that leads to one host and carries tags of VLANs in which that host does not stand; a VLAN for voice aside."""
    voice = {v.id for v in site.design.vlans if v.purpose == "voice"}
    for port in site.fabric.ports.values():
        far = site.fabric.ports.get(port.peer) if port.peer else None
        if far is None or far.kind != "endpoint" or not port.bridges or site.fabric.tables[port.box] is None:
            continue
        taken = {s.tag for s in far.settings.subinterfaces} | voice
        foreign = sorted(set(port.settings.tagged) - taken)
        if foreign and port.settings.untagged and port.settings.note is None:
            rest = [v for v in port.settings.tagged if v not in foreign]
            yield finding(
                Says.TAG_FOREIGN,
                port.pointer,
                mend=[{"op": "replace", "path": f"{port.pointer}/tagged", "value": rest}],
                port=port.label,
                host=far.box,
                vlans=foreign,
            )


def _open_air(site: Site) -> Iterator[Finding]:
    """SSIDs that anybody in range joins, in VLANs that are not for visitors."""
    plan = {v.id: v for v in site.design.vlans}
    for d, device in enumerate(site.design.devices):
        for i, ssid in enumerate(device.ssids if isinstance(device, AccessPoint) else []):
            vlan = plan.get(ssid.vlan)
            if ssid.security == "open" and vlan is not None and vlan.purpose != "visitors":
                at = pointer("devices", d, "ssids", i)
                mend = [{"op": "replace", "path": f"{at}/security", "value": "own"}]
                where = {"device": device.name, "vlan": vlan.id, "name": vlan.name}
                yield finding(Says.SSID_OPEN, at, mend=mend, ssid=ssid.name, values=where)


def _pvid(site: Site, port: LinkPort) -> Iterator[Finding]:
    pvid = port.settings.pvid
    if pvid is not None and port.settings.ingress_check and pvid not in member_vlans(port.settings):
        cause = because(Layer.VLAN, Wrong.NO_MEMBER, port.pointer, port=port.label, frame="untagged frames", vlan=pvid)
        yield finding(
            Says.PVID_OUTSIDE, port.pointer, mend=_both_ways(site, port, pvid), cause=cause, port=port.label, pvid=pvid
        )


def _both_ways(site: Site, port: LinkPort, pvid: int) -> Patch | None:
    """Make the way in and the way out agree: the PVID follows the one untagged VLAN; with none, the port joins its PVID's VLAN."""
    if len(port.settings.untagged) > 1:
        return None
    if port.settings.untagged:
        return [{"op": "replace", "path": port.pointer + "/pvid", "value": port.settings.untagged[0]}]
    raw = site.written
    return set_membership(raw, port.device, port.settings.name, pvid, "untagged")


def _same_native(site: Site, one: LinkPort, two: LinkPort) -> Patch | None:
    """Where one end has the default VLAN, or one the plan does not know, it takes the other's; of two planned ones neither is the right one."""
    planned = {v.id for v in site.design.vlans} - {DEFAULT_VLAN}
    sure = [p for p in (one, two) if p.settings.pvid in planned and p.settings.untagged == [p.settings.pvid]]
    if len(sure) != 1:
        return None
    right, wrong = (one, two) if sure[0] is one else (two, one)
    raw = site.written
    cell = MembershipCell(wrong.device, wrong.settings.name, right.settings.pvid or 0, "untagged")
    return set_memberships(
        raw, [MembershipCell(wrong.device, wrong.settings.name, wrong.settings.pvid or 0, "none"), cell]
    )


def _one_way(site: Site, one: LinkPort, two: LinkPort) -> Iterator[Finding]:
    """Frames that pass a cable one way only, by their form on the wire."""
    for form in sorted(_sent(one) | _sent(two)) if one.up and two.up else ():
        ways = [form in _sent(a) and _taken(site, b, form) for a, b in ((one, two), (two, one))]
        if ways[0] != ways[1]:
            near, far = (one, two) if ways[0] else (two, one)
            yield finding(Says.ONE_WAY, *link_items(site.fabric, near), form=form, near=near.label, far=far.label)


def _sent(port: LinkPort) -> set[int]:
    return {f for v in member_vlans(port.settings) if (f := egress(port.settings, v)) is not None}


def _taken(site: Site, port: LinkPort, form: int) -> bool:
    return ingress(port.settings, form, site.fabric.tables[port.box])[0] is not None


def _contradicts(site: Site, port: LinkPort) -> Iterator[Finding]:
    """A port that carries VLANs and admits no frames of them."""
    settings = port.settings
    shut = {"tagged": settings.untagged, "untagged": settings.tagged}.get(settings.accept or "", [])
    if shut:
        mend = [{"op": "remove", "path": f"{port.pointer}/accept"}]
        yield finding(
            Says.ACCEPT_SHUTS,
            f"{port.pointer}/accept",
            port.pointer,
            mend=mend,
            port=port.label,
            vlans=shut,
            accept=settings.accept,
        )


def _ends(site: Site, one: LinkPort, two: LinkPort) -> Iterator[Finding]:
    a, b = one.settings, two.settings
    if a.pvid and b.pvid and a.pvid != b.pvid:
        mend = _same_native(site, one, two)
        yield finding(
            Says.NATIVE_DIFFERS,
            one.pointer + "/pvid",
            two.pointer + "/pvid",
            mend=mend,
            one=one.label,
            mine=a.pvid,
            two=two.label,
            theirs=b.pvid,
        )
    yield from _one_way(site, one, two)
    held = {v: {s.name for s in site.segments.all if v in s.vlan_ids and s.island} for v in (*a.tagged, *b.tagged)}
    for near, far in ((one, two), (two, one)):
        for vlan in near.settings.tagged:
            form = egress(near.settings, vlan)
            into, _ = (None, "") if form is None else ingress(far.settings, form, site.fabric.tables[far.box])
            if into is None and not held[vlan] and near.forwarding:
                yield finding(
                    Says.TAG_ONE_SIDED, *link_items(site.fabric, near), near=near.label, vlan=vlan, far=far.label
                )
