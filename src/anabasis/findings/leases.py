"""Findings about DHCP (RFC 2131; docs/semantics.md, "DHCP and plugging in")."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design.devices import Endpoint
from anabasis.design.notation import parse_address, parse_interface, parse_span, pointer
from anabasis.errors import UnknownPlace
from anabasis.facts import Says
from anabasis.findings.catalogue import Finding, finding
from anabasis.leases import relay_problem
from anabasis.policy import LeaseServer, lease_servers
from anabasis.probe import DNS, name_test
from anabasis.routing import L3Interface, misaddressed
from anabasis.site import Site, find_place, host_place
from anabasis.trace import walk


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
                if "yield" in (server.mode, other.mode) and _together(site, server, other):
                    continue  # one of the two stands down while it hears the other
                if a <= int(high) and int(low) <= b and low.version == 4:
                    yield finding(
                        Says.LEASE_TWICE, place, other.pointer, server=server.label, range=text, other=other.label
                    )
            spans.append((int(low), int(high), server))
        yield from _reservations(site, server)
    yield from _two(site, [s for s in servers if s.mode == "server"])
    for relay in (s for s in lease_servers(site.design) if s.mode == "relay"):
        why = relay_problem(site, relay)
        if why is not None:
            yield finding(Says.RELAY_NOWHERE, *why.pointers, relay.pointer, cause=why, relay=relay.label)
    yield from _gatewayless(site, servers)
    yield from _yielding(site, servers)
    yield from _names(site, servers)
    yield from _told_by_hand(site)
    yield from _held(site, servers)
    yield from _unserved(site)


def _together(site: Site, one: LeaseServer, two: LeaseServer) -> bool:
    """Tell whether two servers hear each other's clients: their interfaces stand in one broadcast domain."""
    found = [site.net.by_name.get((s.device, s.interface)) for s in (one, two)]
    domains = [
        site.segments.all[site.segments.of(i.attachment)].domain
        for i in found
        if i is not None and i.attachment is not None
    ]
    return len(domains) == 2 and domains[0] == domains[1]


def _yielding(site: Site, servers: list[LeaseServer]) -> Iterator[Finding]:
    """A server that yields beside another: it is quiet only while it hears that one."""
    for server in (s for s in servers if s.mode == "yield"):
        other = next(
            (s for s in servers if s is not server and s.mode == "server" and _together(site, server, s)), None
        )
        if other is not None:
            yield finding(Says.LEASE_YIELDS, server.pointer, other.pointer, server=server.label, other=other.label)


def _names(site: Site, servers: list[LeaseServer]) -> Iterator[Finding]:
    """Name servers that are handed out and that clients do not reach."""
    for server in servers:
        interface = site.net.by_name.get((server.device, server.interface))
        if interface is None or interface.attachment is None or not interface.up or server.mode != "server":
            continue
        groups = site.net.groups_of[site.segments.of(interface.attachment)]
        group = next((g for g in groups if g.subnet.version == 4 and not g.endpoint and g.gateway), None)
        source = host_place(site, group) if group is not None else None
        for k, text in enumerate(server.settings.dns if source is not None else ()):
            place = f"{server.pointer}/dns/{k}"
            try:
                target = find_place(site, text).of(4)
            except UnknownPlace:
                yield finding(Says.LEASE_NAMES_NOBODY, place, server.pointer, server=server.label, address=text)
                continue
            went = walk(site, source, target, DNS) if source is not None and target is not None else None
            if went is not None and went.cause is not None:
                yield finding(
                    Says.LEASE_NAMES, place, *went.cause.pointers, cause=went.cause, server=server.label, address=text
                )


def _told_by_hand(site: Site) -> Iterator[Finding]:
    """Hosts whose own name servers do not answer them."""
    for d, device in enumerate(site.design.devices):
        if not isinstance(device, Endpoint) or not device.dns:
            continue
        own = [host_place(site, g) for g in site.net.hosts if g.endpoint == device.name and g.subnet.version == 4]
        test = name_test(site, own[0], device.dns, pointer("devices", d)) if own and own[0] is not None else None
        if test is not None and test.cause is not None:
            yield finding(Says.HOST_NAMES, *test.cause.pointers, cause=test.cause, host=device.name)


def _gatewayless(site: Site, servers: list[LeaseServer]) -> Iterator[Finding]:
    """Servers that hand out no gateway on a link that has one."""
    for server in servers:
        interface = site.net.by_name.get((server.device, server.interface))
        if server.settings.gateway is None and server.settings.ranges and interface is not None and interface.addresses:
            own = str(interface.addresses[0].ip)
            mend = [{"op": "add", "path": f"{server.pointer}/gateway", "value": own}]
            yield finding(Says.LEASE_GATEWAYLESS, server.pointer, mend=mend, server=server.label)


def _held(site: Site, servers: list[LeaseServer]) -> Iterator[Finding]:
    """Hosts with an address of their own that a server may hand to somebody else."""
    for d, device in enumerate(site.design.devices):
        for text in device.addresses if isinstance(device, Endpoint) else []:
            address = parse_interface(text).ip
            for server in servers:
                kept = [parse_span(x) for x in server.settings.exclude]
                spans = [parse_span(x) for x in server.settings.ranges]
                reserved = any(parse_address(r.address) == address for r in server.settings.reservations)
                inside = any(a.version == address.version and int(a) <= int(address) <= int(b) for a, b in spans)
                left_out = any(a.version == address.version and int(a) <= int(address) <= int(b) for a, b in kept)
                if inside and not left_out and not reserved:
                    known = bool(server.settings.exclude)
                    value: object = str(address) if known else [str(address)]
                    path = f"{server.pointer}/exclude" + ("/-" if known else "")
                    mend = [{"op": "add", "path": path, "value": value}]
                    yield finding(
                        Says.LEASE_HOLDS_HOST,
                        pointer("devices", d),
                        server.pointer,
                        mend=mend,
                        host=device.name,
                        address=address,
                        server=server.label,
                    )


def _unserved(site: Site) -> Iterator[Finding]:
    """Routed VLANs with places for hosts and no server or relay; one that is off is named."""
    entries = list(lease_servers(site.design, off=True))
    silent = {
        v.id for v in site.design.vlans if v.leases == "none" or v.purpose in ("switched", "transit", "management")
    }
    near: dict[int, list[L3Interface]] = {}
    for i in site.net.interfaces:
        if i.attachment:
            near.setdefault(site.segments.all[site.segments.of(i.attachment)].domain, []).append(i)
    for k, segment in enumerate(site.segments.all):
        if segment.kind != "vlan" or set(segment.vlan_ids) & silent:
            continue
        if not any(t.kind in ("edge", "endpoint") for t in segment.attachments) or not any(
            g.gateway for g in site.net.groups_of[k]
        ):
            continue
        domain = near.get(segment.domain, [])
        held = {(i.device, i.name) for i in domain}
        mine = [e for e in entries if (e.device, e.interface) in held]
        if any(e.mode != "off" for e in mine) or not domain:
            continue
        if mine:
            mend = [{"op": "replace", "path": f"{mine[0].pointer}/mode", "value": "server"}]
            yield finding(Says.LEASE_OFF, mine[0].pointer, mend=mend, server=mine[0].label, segment=segment.name)
            continue
        gates = [
            i for i in domain if any(str(g.gateway) == str(a.ip) for g in site.net.groups_of[k] for a in i.addresses)
        ]
        if gates:
            places = [p for i in gates for p in (i.pointer, f"{site.item_of(i.device)}/dhcp")]
            yield finding(Says.LEASE_MISSING, *places, segment=segment.name)


def _reservations(site: Site, server: LeaseServer) -> Iterator[Finding]:
    """An address kept for one host that a range hands to others, or that lies outside the subnet."""
    interface = site.net.by_name.get((server.device, server.interface))
    kept = [parse_span(x) for x in server.settings.exclude]
    for i, entry in enumerate(server.settings.reservations):
        address, place = parse_address(entry.address), f"{server.pointer}/reservations/{i}"
        if interface is not None and not any(address in a.network for a in interface.addresses):
            yield finding(
                Says.LEASE_KEPT_OUTSIDE, place, server.pointer, server=server.label, address=address, host=entry.name
            )
        twice = [e for e in server.settings.reservations[:i] if e.address == entry.address]
        if twice and not any(low <= address <= high for low, high in kept):  # type: ignore[operator]
            yield finding(
                Says.LEASE_KEPT_TWICE,
                place,
                server.pointer,
                server=server.label,
                address=address,
                one=twice[0].name,
                two=entry.name,
            )


def _range(site: Site, server: LeaseServer, low: int, high: int, text: str, place: str) -> Iterator[Finding]:
    interface = site.net.by_name.get((server.device, server.interface))
    addresses = interface.addresses if interface is not None else ()
    inside = any(int(a.network[0]) < low and high < int(a.network[-1]) for a in addresses)
    if not inside:
        cause = misaddressed(site.segments, interface, parse_span(text)[0]) if interface is not None else None
        places = cause.pointers if cause is not None else (place, server.pointer)
        yield finding(Says.LEASE_OUTSIDE, *places, cause=cause, server=server.label, range=text)
    own = {int(a.ip): Says.LEASE_OWN for a in addresses}
    if server.settings.gateway:
        own[int(parse_address(server.settings.gateway))] = Says.LEASE_GATEWAY
    kept = [parse_span(x) for x in server.settings.exclude]
    for number, says in own.items():
        if low <= number <= high and not any(int(a) <= number <= int(b) for a, b in kept):
            address = type(parse_span(text)[0])(number)
            known = bool(server.settings.exclude)
            path = f"{server.pointer}/exclude" + ("/-" if known else "")
            value: object = str(address) if known else [str(address)]
            yield finding(
                says,
                place,
                server.pointer,
                mend=[{"op": "add", "path": path, "value": value}],
                server=server.label,
                range=text,
                address=address,
            )


def _two(site: Site, servers: list[LeaseServer]) -> Iterator[Finding]:
    attachments = [
        (s, i.attachment)
        for s in servers
        if (i := site.net.by_name.get((s.device, s.interface))) and i.attachment and i.up
    ]
    for k, (one, here) in enumerate(attachments):
        for two, there in attachments[k + 1 :]:
            if here is there or (site.fabric.delivers(here, there) and site.fabric.delivers(there, here)):
                name = site.segments.all[site.segments.of(here)].name
                mend = [{"op": "add", "path": f"{two.pointer}/mode", "value": "yield"}]
                yield finding(
                    Says.LEASE_TWO, two.pointer, one.pointer, mend=mend, segment=name, one=one.label, two=two.label
                )
