"""Findings about addresses and next hops: interfaces without one, subnets that overlap, gateways that are none, sides that do not meet."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from itertools import combinations

from anabasis.design.devices import BridgingBox, Endpoint
from anabasis.design.notation import Network, parse_address, parse_interface, parse_prefix, pointer
from anabasis.findings.catalogue import Finding
from anabasis.policy.leases import lease_servers
from anabasis.reach import Site
from anabasis.routing import L3Interface
from anabasis.routing.interfaces import routes_packets


def check(site: Site) -> Iterator[Finding]:
    """All of them."""
    yield from _bare(site)
    yield from _overlaps(site)
    yield from _boundaries(site)
    yield from _gateways(site)


def _bare(site: Site) -> Iterator[Finding]:
    """An outside needs no address of its own; a port that only carries subinterfaces has none."""
    for i in site.net.interfaces:
        if not i.addresses and isinstance(site.net.devices[i.device], BridgingBox) and (i.tap is None or i.up):
            yield Finding("address-missing", f"{i.label} has no address, so nothing is routed by it.", (i.pointer,))


def _overlaps(site: Site) -> Iterator[Finding]:
    by: dict[tuple[str, str], list[tuple[Network, L3Interface]]] = defaultdict(list)
    for i in site.net.interfaces:
        by[i.device, i.vrf] += [(a.network, i) for a in i.addresses]
    for (device, vrf), held in by.items():
        for (one, mine), (two, other) in combinations(held, 2):
            if mine is not other and one.version == two.version and one.overlaps(two):
                text = f"{device} has {one} on {mine.name} and {two} on {other.name}, in one VRF ({vrf})."
                yield Finding("subnet-overlap", text, (mine.pointer, other.pointer))


def _boundaries(site: Site) -> Iterator[Finding]:
    """Two segments of one domain are apart by a filtering point only: hosts meet there if they share a subnet."""
    plan = {v.id: v for v in site.design.vlans}
    told: set[tuple[int, int]] = set()
    sides: dict[int, list[tuple[int, list[Network]]]] = defaultdict(list)
    for k, segment in enumerate(site.segments.all):
        own = [parse_prefix(n) for v in segment.vlan_ids if v in plan for n in plan[v].subnets]
        own += [a.network for i in site.net.interfaces if i.tap in segment.taps for a in i.addresses]
        if own and segment.kind != "outside":
            sides[segment.domain].append((k, own))
    for parts in sides.values():
        for (a, mine), (b, theirs) in combinations(parts, 2):
            meet = any(x.version == y.version and x.overlaps(y) for x in mine for y in theirs)
            if not meet and (a, b) not in told:
                told.add((a, b))
                one, two = site.segments.all[a], site.segments.all[b]
                said = f"{one.name} and {two.name} are one link with a boundary between, but share no subnet: {mine[0]} and {theirs[0]}."
                yield Finding("boundary-subnets", said, (one.pointer, two.pointer))


def _gateways(site: Site) -> Iterator[Finding]:
    holders = {a.ip for i in site.net.interfaces if routes_packets(site.net.devices[i.device]) for a in i.addresses}
    holders |= {a for i in site.net.interfaces for a in i.virtual}
    for d, device in enumerate(site.design.devices):
        if not isinstance(device, Endpoint):
            continue
        given = device.gateway if isinstance(device.gateway, list) else [device.gateway] if device.gateway else []
        subnets = [parse_interface(a).network for a in device.addresses]
        for gateway in map(parse_address, given):
            why = None if gateway in holders else "no device that routes has it"
            if subnets and not any(gateway in n for n in subnets):
                why = "it lies in none of its subnets"
            if why:
                mend = _right_gateway(site, device.name, pointer("devices", d, "gateway"), device.gateway)
                said = f"{device.name} has the gateway {gateway}, but {why}."
                yield Finding("gateway-wrong", said, (pointer("devices", d, "gateway"),), mend)
    for server in lease_servers(site.design):
        if server.settings.gateway and parse_address(server.settings.gateway) not in holders:
            at = f"{server.pointer}/gateway"
            interface = site.net.by_name.get((server.device, server.interface))
            own = next((str(a.ip) for a in (interface.addresses if interface else ()) if a.version == 4), None)
            mend = [{"op": "replace", "path": at, "value": own}] if own else None
            said = f"{server.label} hands out the gateway {server.settings.gateway}, which no device that routes has."
            yield Finding("gateway-wrong", said, (at,), mend)


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
