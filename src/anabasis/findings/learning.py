"""Findings about OSPF: neighbours that are none, router ids, the backbone, where it is spoken, and what nobody is told (RFC 2328)."""

from __future__ import annotations

from collections.abc import Iterator
from ipaddress import IPv4Address

from anabasis.design.notation import Address, Network, pointer
from anabasis.facts import Says
from anabasis.findings.catalogue import Finding, finding
from anabasis.findings.mends import switched_on
from anabasis.routing import BACKBONE, Ospf, Speaker, TableRoute, components, look_up
from anabasis.site import Site


def check(site: Site) -> Iterator[Finding]:
    """All of them, where anybody speaks OSPF."""
    domain = site.net.ospf
    if domain is None:
        return
    told: set[object] = set()
    for u in domain.unlike:
        key = u.cause.wrong, *sorted((u.one.key, u.two.key))  # of both families once
        if key not in told:
            told.add(key)
            places = (*u.cause.pointers, u.one.pointer, u.two.pointer)
            yield finding(Says.NEIGHBOUR_APART, *places, cause=u.cause)
    yield from _ids(domain)
    yield from _backbone(domain)
    yield from _users(site, domain)
    yield from _untold(site, domain)
    yield from _apart(site)


def _apart(site: Site) -> Iterator[Finding]:
    """A static route that leads elsewhere than a learnt one to the same prefix. One whose preference is written stands as it is meant to."""
    written = {
        pointer("devices", d, "vrfs", v, "routes", k): route
        for d, device in enumerate(site.design.devices)
        for v, vrf in enumerate(getattr(device, "vrfs", []))
        for k, route in enumerate(vrf.routes)
    }
    for table in site.net.tables.values():
        learnt: dict[Network, list[TableRoute]] = {}
        for r in table.routes:
            if r.origin == "ospf" and r.active and r.pointer not in written:
                learnt.setdefault(r.to, []).append(r)
        for r in table.routes if learnt else ():
            others, own = learnt.get(r.to, []), written.get(r.pointer)
            if r.origin != "static" or not r.active or not others or own is None or own.preference is not None:
                continue
            if all((o.interface, o.hop) != (r.interface, r.hop) for o in others):
                trust = site.net.devices[r.device].preferences  # type: ignore[union-attr]
                mend = [{"op": "add", "path": f"{r.pointer}/preference", "value": min(255, trust.ospf + 10)}]
                said = {
                    "device": r.device,
                    "to": str(r.to),
                    "learnt": others[0].goes_to,
                    "static": r.goes_to or r.interface or "",
                }
                yield finding(Says.ROUTES_APART, r.pointer, others[0].pointer, mend=mend, values=said)


def _ids(domain: Ospf) -> Iterator[Finding]:
    """Two routers of one id that are no neighbours: of those that are, it is why they are none."""
    first: dict[int, Speaker] = {}
    for s in domain.speakers:
        known = first.setdefault(s.router_id, s)
        beside = any({u.one.router, u.two.router} == {known.router, s.router} for u in domain.unlike)
        if known.router != s.router and not beside:
            said = {"one": known.router[0], "two": s.router[0], "id": IPv4Address(s.router_id)}
            yield finding(Says.ROUTER_ID_TWICE, known.at, s.at, values=said)
            first[s.router_id] = s


def _backbone(domain: Ospf) -> Iterator[Finding]:
    """Area 0 in parts, and routers between areas that do not touch it (section 3.1).

    Where neighbours that are none are all that parts it, they are what is wrong, and are told.
    """
    whole = domain.with_forced((u.one, u.two) for u in domain.unlike) if domain.unlike else domain
    parts = components(whole, BACKBONE)
    if len(parts) > 1:
        one, two = parts[0][0], parts[1][0]
        yield finding(Says.BACKBONE_SPLIT, one.at, two.at, one=one.router[0], two=two.router[0])
    areas: dict[tuple[str, str], dict[int, Speaker]] = {}
    for s in domain.speakers:
        if s.interface.up:
            areas.setdefault(s.router, {})[s.area] = s
    for router, held in areas.items():
        if len(held) > 1 and BACKBONE not in held:
            names = [s.settings.area for _, s in sorted(held.items())]
            yield finding(Says.BACKBONE_MISSING, next(iter(held.values())).at, device=router[0], areas=names)


def _users(site: Site, domain: Ospf) -> Iterator[Finding]:
    """Interfaces that speak where hosts may stand and no other router does."""
    for s in domain.speakers:
        at = s.interface.attachment
        where = site.segments.of_attachment.get(at.index) if at is not None else None
        if where is None or s.settings.passive or not s.interface.up or s.interface.kind == "loopback":
            continue
        segment = site.segments.all[where]
        hosts = any(t.kind in ("edge", "endpoint") for t in segment.attachments)
        alone = not any(s in pair for pairs in domain.adjacent.values() for pair in pairs)
        if hosts and alone and segment.kind == "vlan":
            mend = [{"op": "add", "path": f"{s.pointer}/passive", "value": True}]
            yield finding(Says.OSPF_TO_USERS, s.pointer, mend=mend, interface=s.label, segment=segment.name)


def _untold(site: Site, domain: Ospf) -> Iterator[Finding]:
    """Subnets with hosts, connected to a router that speaks, that no router announces, and to which another has no route at all."""
    for i in site.net.interfaces:
        router = i.device, i.vrf
        if router not in domain.routers or not i.up or i.attachment is None or i.management:
            continue
        where = site.segments.of_attachment.get(i.attachment.index)
        segment = site.segments.all[where] if where is not None else None
        if (
            segment is None
            or segment.kind != "vlan"
            or not any(t.kind in ("edge", "endpoint") for t in segment.attachments)
        ):
            continue
        for own in i.addresses:
            told = any(domain.tells(r, own.network) for r in domain.routers)
            if not told and any(_lacks(site, r, own.ip) for r in domain.routers if r != router):
                cause = domain.untold(i, own.network)
                mend = next(switched_on(cause), None)
                yield finding(Says.PREFIX_UNTOLD, *cause.pointers, mend=mend, cause=cause)


def _lacks(site: Site, router: tuple[str, str], address: Address) -> bool:
    """Tell whether a router knows no way to an address, of a family that it speaks."""
    table = site.net.tables.get(router)
    speaks = any(r.origin == "connected" and r.to.version == address.version for r in table.routes) if table else False
    return table is not None and speaks and look_up(table, address).winner is None
