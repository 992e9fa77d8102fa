"""Findings about addresses and next hops: interfaces without one, subnets that overlap, gateways that are none, sides that do not meet."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace
from itertools import combinations

from anabasis.design.devices import BridgingBox, Endpoint
from anabasis.design.notation import Address, Network, parse_address, parse_interface, parse_prefix, pointer
from anabasis.facts import Cause, Layer, Says, Values, Wrong, because
from anabasis.findings.catalogue import Finding, finding
from anabasis.policy import LeaseServer, lease_servers
from anabasis.routing import L3Interface, gateways_of, misaddressed, plan_of, routes_packets
from anabasis.site import Site
from anabasis.trace import no_gateway


def check(site: Site) -> Iterator[Finding]:
    """All of them."""
    yield from _bare(site)
    yield from _overlaps(site)
    yield from _boundaries(site)
    yield from _gateways(site)
    yield from _off_plan(site)
    yield from _masks(site)
    for cause in site.net.contested.values():
        yield finding(Says.ADDRESS_TWICE, *cause.pointers, cause=cause)


def _bare(site: Site) -> Iterator[Finding]:
    """An outside needs no address of its own, nor does the way to another table on an overlay; a port that only carries subinterfaces has none."""
    for i in site.net.interfaces:
        if (
            not i.addresses
            and i.kind != "overlay"
            and isinstance(site.net.devices[i.device], BridgingBox)
            and (i.attachment is None or i.up)
        ):
            yield finding(Says.ADDRESS_MISSING, i.pointer, interface=i.label)


def _off_plan(site: Site) -> Iterator[Finding]:
    """Interfaces with an address of no subnet of their VLAN, on boxes that route; cables between routing boxes that share no subnet."""
    for i in site.net.interfaces:
        cause = misaddressed(site.segments, i)
        if cause is None or i.management or not routes_packets(site.net.devices[i.device]):
            continue
        if cause.wrong == Wrong.ADDRESS_MISTYPED or (cause.wrong == Wrong.MASK_DIFFERS and cause.guilty):
            mistyped = cause.wrong == Wrong.ADDRESS_MISTYPED
            says = Says.ADDRESS_OFF_PLAN if mistyped else Says.MASK_OF_INTERFACE
            yield finding(says, *cause.pointers, mend=None if mistyped else _by_plan(site, i), cause=cause)
    yield from _unlike_links(site)


def _by_plan(site: Site, interface: L3Interface) -> list[dict[str, object]] | None:
    """Return the edit that gives an address the prefix length of the plan."""
    for k, address in enumerate(interface.addresses):
        for net in plan_of(site.segments, interface):
            if net.version == address.version and address.ip in net and address.network != net:
                where = f"{interface.pointer}/addresses/{k}"
                return [{"op": "replace", "path": where, "value": f"{address.ip}/{net.prefixlen}"}]
    return None


def _unlike_links(site: Site) -> Iterator[Finding]:
    """Two routing boxes on a link of their own, with addresses of no common subnet."""
    for segment in site.segments.all:
        ends = [
            i
            for i in site.net.interfaces
            if i.attachment is not None and i.attachment in segment.attachments and i.addresses
        ]
        if segment.kind != "transit" or len(ends) != 2 or plan_of(site.segments, ends[0]):
            continue
        one, two = ends
        if any(
            a.version == b.version and (a.ip in b.network or b.ip in a.network)
            for a in one.addresses
            for b in two.addresses
        ):
            continue
        mine, theirs = (", ".join(map(str, e.addresses)) for e in ends)
        values: Values = {"one": one.label, "mine": mine, "two": two.label, "theirs": theirs}
        cause = because(Layer.GATEWAY, Wrong.LINK_SUBNETS, one.pointer, two.pointer, values=values)
        yield finding(Says.ADDRESS_OFF_PLAN, *cause.pointers, cause=cause)


def _masks(site: Site) -> Iterator[Finding]:
    """Hosts whose prefix length is not that of the subnet they stand in."""
    for d, device in enumerate(site.design.devices):
        for k, text in enumerate(device.addresses if isinstance(device, Endpoint) else []):
            own = parse_interface(text)
            group = next((g for g in site.net.hosts if g.endpoint == device.name and g.first == own.ip), None)
            nets = map(parse_prefix, site.segments.all[group.segment].subnets) if group is not None else ()
            for net in nets:
                if net.version == own.version and own.ip in net and own.network != net:
                    at = pointer("devices", d, "addresses", k)
                    mend = [{"op": "replace", "path": at, "value": f"{own.ip}/{net.prefixlen}"}]
                    yield finding(
                        Says.MASK_OF_HOST,
                        at,
                        pointer("devices", d),
                        mend=mend,
                        host=device.name,
                        address=own,
                        subnet=net,
                    )


def _overlaps(site: Site) -> Iterator[Finding]:
    by: dict[tuple[str, str], list[tuple[Network, L3Interface]]] = defaultdict(list)
    for i in site.net.interfaces:
        by[i.device, i.vrf] += [(a.network, i) for a in i.addresses]
    for (device, vrf), held in by.items():
        for (one, mine), (two, other) in combinations(held, 2):
            if mine is not other and one.version == two.version and one.overlaps(two):
                yield finding(
                    Says.SUBNET_OVERLAP,
                    mine.pointer,
                    other.pointer,
                    device=device,
                    mine=one,
                    one=mine.name,
                    theirs=two,
                    two=other.name,
                    vrf=vrf,
                )


def _boundaries(site: Site) -> Iterator[Finding]:
    """Two segments of one domain are apart by a filtering point only: hosts meet there if they share a subnet."""
    plan = {v.id: v for v in site.design.vlans}
    told: set[tuple[int, int]] = set()
    sides: dict[int, list[tuple[int, list[Network]]]] = defaultdict(list)
    for k, segment in enumerate(site.segments.all):
        own = [parse_prefix(n) for v in segment.vlan_ids if v in plan for n in plan[v].subnets]
        own += [a.network for i in site.net.interfaces if i.attachment in segment.attachments for a in i.addresses]
        if own and segment.kind != "outside":
            sides[segment.domain].append((k, own))
    for parts in sides.values():
        for (a, mine), (b, theirs) in combinations(parts, 2):
            meet = any(x.version == y.version and x.overlaps(y) for x in mine for y in theirs)
            if not meet and (a, b) not in told:
                told.add((a, b))
                one, two = site.segments.all[a], site.segments.all[b]
                yield finding(
                    Says.BOUNDARY_SUBNETS,
                    one.pointer,
                    two.pointer,
                    one=one.name,
                    two=two.name,
                    mine=mine[0],
                    theirs=theirs[0],
                )


def _gateways(site: Site) -> Iterator[Finding]:
    holders = {a.ip for i in site.net.interfaces if routes_packets(site.net.devices[i.device]) for a in i.addresses}
    holders |= {a for i in site.net.interfaces for a in i.virtual}
    for d, device in enumerate(site.design.devices):
        if not isinstance(device, Endpoint):
            continue
        given = gateways_of(device)
        subnets = [parse_interface(a).network for a in device.addresses]
        for gateway in map(parse_address, given):
            beyond = bool(subnets) and not any(gateway in n for n in subnets)
            if beyond or gateway not in holders:
                mend = _right_gateway(site, device.name, pointer("devices", d, "gateway"), device.gateway)
                place = pointer("devices", d, "gateway")
                wrong = Wrong.GATEWAY_BEYOND if beyond else Wrong.GATEWAY_NOBODY
                cause = _gateway_cause(site, device.name, gateway) if not beyond else None
                cause = cause or because(Layer.GATEWAY, wrong, place, host=device.name, gateway=str(gateway))
                says = Says.GATEWAY_BEYOND if beyond else Says.GATEWAY_NOBODY
                yield finding(
                    says,
                    *cause.pointers,
                    mend=mend if cause.guilty[0] == place else None,
                    cause=cause,
                    host=device.name,
                    gateway=gateway,
                )
    for server in lease_servers(site.design):
        if server.settings.gateway and parse_address(server.settings.gateway) not in holders:
            at = f"{server.pointer}/gateway"
            lost = _served_cause(site, server)
            if lost is not None:
                yield finding(
                    Says.GATEWAY_HANDED_OUT_LOST,
                    *lost.pointers,
                    at,
                    cause=lost,
                    server=server.label,
                    gateway=server.settings.gateway,
                )
                continue
            interface = site.net.by_name.get((server.device, server.interface))
            own = next((str(a.ip) for a in (interface.addresses if interface else ()) if a.version == 4), None)
            mend = [{"op": "replace", "path": at, "value": own}] if own else None
            yield finding(Says.GATEWAY_HANDED_OUT, at, mend=mend, server=server.label, gateway=server.settings.gateway)


def _gateway_cause(site: Site, endpoint: str, gateway: Address) -> Cause | None:
    """Return why nobody has a host's gateway, where that is the fault of the box that should have it."""
    group = next((g for g in site.net.hosts if g.endpoint == endpoint and g.gateway == gateway), None)
    if group is None:
        return None
    cause = no_gateway(site, group, site.segments.all[group.segment])
    return cause if cause.root.wrong != Wrong.GATEWAY_NOBODY else None


def _served_cause(site: Site, server: LeaseServer) -> Cause | None:
    """Return why nobody has the gateway a server hands out, where the box that should have it is to blame."""
    interface = site.net.by_name.get((server.device, server.interface))
    if interface is None or interface.attachment is None:
        return None
    gateway = parse_address(server.settings.gateway or "")
    at = site.segments.of(interface.attachment)
    group = next((g for g in site.net.groups_of[at] if gateway in g.subnet and not g.endpoint), None)
    if group is None:
        return None
    cause = no_gateway(site, replace(group, gateway=gateway), site.segments.all[at])
    return cause if cause.root.wrong in (Wrong.ROUTING_OFF, Wrong.ADDRESS_MISTYPED, Wrong.ADDRESS_MISSING) else None


def _right_gateway(site: Site, endpoint: str, at: str, given: object) -> list[dict[str, object]] | None:
    """Return the edit that gives an endpoint the one interface of its subnet, where its gateway is a single address."""
    groups = [g for g in site.net.hosts if g.endpoint == endpoint and g.subnet.version == 4]
    if len(groups) != 1 or isinstance(given, list):
        return None
    found = [
        a.ip
        for i in site.net.interfaces
        if routes_packets(site.net.devices[i.device])
        for a in i.addresses
        if a.ip in groups[0].subnet
    ]
    return [{"op": "replace", "path": at, "value": str(found[0])}] if len(found) == 1 else None
