"""Findings about DHCP (RFC 2131; concepts, section 8)."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design.notation import parse_address, parse_span
from anabasis.findings.catalogue import Finding
from anabasis.policy.leases import LeaseServer, lease_servers
from anabasis.reach import Site
from anabasis.reach.plug import relay_problem


def check(site: Site) -> Iterator[Finding]:
    """Ranges that hand out what they should not, and two servers in one domain."""
    servers = [s for s in lease_servers(site.design) if s.mode in ("server", "yield")]
    spans: list[tuple[int, int, LeaseServer]] = []
    for server in servers:
        for i, text in enumerate(server.settings.ranges):
            low, high = parse_span(text)
            place = f"{server.pointer}/ranges/{i}"
            yield from _range(site, server, int(low), int(high), text, place)
            for a, b, other in spans:
                if a <= int(high) and int(low) <= b and low.version == 4:
                    said = f"{server.label} hands out {text}, which {other.label} hands out as well."
                    yield Finding("lease-range", said, (place, other.pointer))
            spans.append((int(low), int(high), server))
        yield from _reservations(site, server)
    yield from _two(site, [s for s in servers if s.mode == "server"])
    for relay in (s for s in lease_servers(site.design) if s.mode == "relay"):
        why = relay_problem(site, relay)
        if why:
            yield Finding("relay-nowhere", f"{relay.label} relays DHCP in vain: {why}.", (relay.pointer,))


def _reservations(site: Site, server: LeaseServer) -> Iterator[Finding]:
    """An address kept for one host that a range hands to others, or that lies outside the subnet."""
    interface = site.net.by_name.get((server.device, server.interface))
    kept = [parse_span(x) for x in server.settings.exclude]
    for i, entry in enumerate(server.settings.reservations):
        address, place = parse_address(entry.address), f"{server.pointer}/reservations/{i}"
        if interface is not None and not any(address in a.network for a in interface.addresses):
            said = f"{server.label} keeps {address} for {entry.name}, which lies outside the subnets of its interface."
            yield Finding("lease-range", said, (place, server.pointer))
        twice = [e for e in server.settings.reservations[:i] if e.address == entry.address]
        if twice and not any(low <= address <= high for low, high in kept):  # type: ignore[operator]
            said = f"{server.label} keeps {address} for {twice[0].name} and for {entry.name}."
            yield Finding("lease-range", said, (place, server.pointer))


def _range(site: Site, server: LeaseServer, low: int, high: int, text: str, place: str) -> Iterator[Finding]:
    interface = site.net.by_name.get((server.device, server.interface))
    addresses = interface.addresses if interface is not None else ()
    inside = any(int(a.network[0]) < low and high < int(a.network[-1]) for a in addresses)
    if not inside:
        said = f"{server.label} hands out {text}, which does not lie inside a subnet of its interface."
        yield Finding("lease-range", said, (place, server.pointer))
    own = {int(a.ip): "its own address" for a in addresses}
    if server.settings.gateway:
        own[int(parse_address(server.settings.gateway))] = "the gateway's address"
    kept = [parse_span(x) for x in server.settings.exclude]
    for number, what in own.items():
        if low <= number <= high and not any(int(a) <= number <= int(b) for a, b in kept):
            family = parse_address(text.partition("-")[0].partition("/")[0])
            address = type(family)(number)
            said = f"{server.label} hands out {text}, and {what} {address} with it."
            known = bool(server.settings.exclude)
            path = f"{server.pointer}/exclude" + ("/-" if known else "")
            value: object = str(address) if known else [str(address)]
            yield Finding("lease-range", said, (place, server.pointer), [{"op": "add", "path": path, "value": value}])


def _two(site: Site, servers: list[LeaseServer]) -> Iterator[Finding]:
    taps = [(s, i.tap) for s in servers if (i := site.net.by_name.get((s.device, s.interface))) and i.tap and i.up]
    for k, (one, here) in enumerate(taps):
        for two, there in taps[k + 1 :]:
            if here is there or (site.fabric.delivers(here, there) and site.fabric.delivers(there, here)):
                name = site.segments.all[site.segments.of(here)].name
                said = f"Two DHCP servers answer in {name}: {one.label} and {two.label}."
                mend = [{"op": "add", "path": f"{two.pointer}/mode", "value": "yield"}]
                yield Finding("lease-two", said, (two.pointer, one.pointer), mend)
