"""Leases (RFC 2131): what every client in the design is handed, or what keeps it from being. The one place where that is worked out.

Plug in asks it about a laptop, the site stands its clients on it, and so do walk, sweep, findings and expectations.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from ipaddress import IPv4Address, IPv4Interface, IPv4Network

from anabasis.design.devices import BridgingBox, Endpoint
from anabasis.design.notation import PROTOCOLS, parse_address, parse_prefix, parse_span
from anabasis.errors import UnknownPlace
from anabasis.fabric import Attachment, LinkPort, meant_by_hosts, own_line, why_apart
from anabasis.facts import Cause, Layer, Values, Wrong, because
from anabasis.policy import LeaseServer, lease_servers
from anabasis.routing import L3Interface, Leased, misaddressed
from anabasis.site import Handed, Site, find_place, own_place
from anabasis.trace import Walk, walk

DHCP_PORT = (PROTOCOLS["udp"], 67)


def clients(site: Site) -> Iterator[tuple[Endpoint, Attachment]]:
    """Yield the endpoints that ask for a lease, each with where it stands, in the order of the document."""
    devices = {d.name: d for d in site.design.devices if isinstance(d, Endpoint) and d.dhcp}
    for name, device in devices.items():
        for attachment in site.fabric.attachments:
            if attachment.device == name and not (attachment.settings and attachment.settings.addresses):
                yield device, attachment


def hand_out(site: Site) -> dict[tuple[str, str], Handed]:
    """Return what every client is handed: in the order of the document, each an address of its own."""
    taken = {int(a) for a in site.net.owned if a.version == 4}
    taken |= {
        int(g.first)
        for g in site.net.hosts
        if g.endpoint and g.attachment and g.subnet.version == 4 and (g.endpoint, g.attachment.name) not in site.handed
    }
    out: dict[tuple[str, str], Handed] = {}
    leased: set[int] = set()
    for device, attachment in clients(site):
        handed = ask(site, device, attachment, Taken(frozenset(taken | leased), frozenset(leased)))
        out[device.name, attachment.name] = handed
        if handed.leased is not None:
            leased.add(int(handed.leased.address.ip))
    return out


@dataclass(frozen=True)
class Taken:
    """The addresses that others have, as numbers."""

    held: frozenset[int]
    leased: frozenset[int]
    """Those of them that were handed out: all that a server knows which does not ask."""

    def known_to(self, server: LeaseServer, own: L3Interface) -> frozenset[int]:
        """Return those that a server will not offer: what it finds when it asks, else what it has leased, and its own."""
        return self.held if server.settings.probes else self.leased | {int(a.ip) for a in own.addresses}


def ask(site: Site, host: Endpoint, attachment: Attachment, taken: Taken) -> Handed:
    """Return what one client is handed where it stands."""
    answers = list(answering(site, attachment))
    if not answers:
        return Handed(None, unheard(site, attachment))
    several = tuple(s.label for s, _ in answers) if len(answers) > 1 else ()
    server, interface = answers[0]
    if server.mode == "relay":
        return _relayed(site, server, interface, taken, several)
    return _served(site, host, server, interface, taken, several)


def _served(
    site: Site,
    host: Endpoint,
    server: LeaseServer,
    interface: L3Interface,
    taken: Taken,
    several: tuple[str, ...],
) -> Handed:
    subnets = [a.network for a in interface.addresses if isinstance(a, IPv4Interface)]
    kept, known = server.reserved(host.name, host.hardware), taken.known_to(server, interface)
    address = kept if kept is not None and int(kept) not in known else server.free(known, subnets)
    subnet = next((n for n in subnets if address is not None and address in n), None)
    if address is None or subnet is None:
        values: Values = {"server": server.label, "subnet": ", ".join(map(str, subnets)) or "none"}
        wrong = Wrong.NOTHING_FREE if server.ranges(subnets) else Wrong.RANGE_OUTSIDE
        first = next((parse_span(text)[0] for text in server.settings.ranges), None)
        under = misaddressed(site.segments, interface, first) if wrong == Wrong.RANGE_OUTSIDE and first else None
        if under is not None:
            return Handed(None, under, server, several)
        cause = because(Layer.ANSWERS, wrong, f"{server.pointer}/ranges", server.pointer, values=values)
        return Handed(None, cause, server, several)
    gateway = parse_address(server.settings.gateway) if server.settings.gateway else None
    lease = IPv4Interface(f"{address}/{subnet.prefixlen}")
    return Handed(Leased(lease, gateway, server.label, server.pointer), None, server, several, options(server))


def options(server: LeaseServer) -> dict[str, str]:
    """Return what is handed out beside address and gateway."""
    settings = server.settings
    given = {
        "dns": ", ".join(settings.dns),
        "ntp": ", ".join(settings.ntp),
        "lease_s": str(settings.lease_s or ""),
        "boot_server": settings.boot_server or "",
        "boot_file": settings.boot_file or "",
    }
    return {k: v for k, v in (given | settings.options).items() if v}


def answering(site: Site, attachment: Attachment) -> Iterator[tuple[LeaseServer, L3Interface]]:
    """Yield the servers and relays that hear a request and whose answer is heard; one that yields, last and alone."""
    yielding = []
    answered = False
    for server in lease_servers(site.design):
        interface = site.net.by_name.get((server.device, server.interface))
        if (
            interface is None
            or interface.attachment is None
            or not _heard_both_ways(site, attachment, interface.attachment)
        ):
            continue  # who is not heard answers nobody, whatever the reason
        if silence(site, attachment, interface) is not None:
            continue
        if server.mode == "yield":
            yielding.append((server, interface))
        else:
            answered = True
            yield server, interface
    if not answered:
        yield from yielding[:1]


def _heard_both_ways(site: Site, one: Attachment, two: Attachment) -> bool:
    return site.fabric.delivers(one, two) and site.fabric.delivers(two, one)


def silence(site: Site, attachment: Attachment, interface: L3Interface) -> Cause | None:
    """Return why a request does not get to a server's interface, or its answer not back; None where both do.

    Over filtering points, rules on udp/67 from 0.0.0.0 to 255.255.255.255 apply.
    """
    if interface.cause is not None:
        return interface.cause.root
    if interface.attachment is None:
        return because(Layer.GATEWAY, Wrong.NO_INTERFACE, interface.pointer, interface=interface.label)
    for start, goal in ((attachment, interface.attachment), (interface.attachment, attachment)):
        if not site.fabric.delivers(start, goal):
            return why_apart(site.fabric, start, goal).cause
    policy = site.policies.of.get(interface.device)
    if policy is not None:
        problem = policy.zone_problem(interface.zone, "routed", interface.label, interface.pointer)
        if problem is not None:
            return problem
    carriage = site.fabric.carry(attachment, interface.attachment)
    for crossing in carriage.crossings if carriage is not None else ():
        policy = site.policies.of[crossing.device]
        ends = (crossing.from_zone, crossing.entered), (crossing.to_zone, crossing.left)
        for (zone, label), at in zip(ends, crossing.sides, strict=True):
            problem = policy.zone_problem(zone, crossing.kind, label, at)
            if problem is not None:
                return problem
        zones = crossing.from_zone or "", crossing.to_zone or ""
        rule = next((r for r in policy.lines(*zones) if r.matches(4, 0, 2**32 - 1, DHCP_PORT)), None)
        action, at = (rule.action, rule.pointer) if rule is not None else policy.default(*zones)
        if action != "permit":
            values: Values = {"device": policy.device, "zones": " to ".join(zones), "action": f"{action}s"}
            if rule is None:
                return because(Layer.RULE, Wrong.DEFAULT_DROPS, at, values=values)
            return because(Layer.RULE, Wrong.RULE_DROPS, at, values=values | {"rule": rule.name})
    return None


def unheard(site: Site, attachment: Attachment) -> Cause:
    """Return why nobody answers a client: towards each server that its VLAN or subnet says should hear it, as any packet is explained."""
    own = own_line(site.fabric, attachment)
    if own is not None:
        return own
    meant = list(_meant(site, attachment))
    for server, interface in meant:
        if server.mode != "off":
            cause = silence(site, attachment, interface)
            if cause is not None:
                return cause
    for server, interface in meant:
        if server.mode == "off":
            at = (f"{server.pointer}/mode", server.pointer)
            return because(Layer.ANSWERS, Wrong.SERVER_OFF, *at, interface=interface.label)
    segment = site.segments.all[site.segments.of(attachment)]
    guilty = [p for i in _gateways(site, attachment) for p in (i.pointer, f"{site.item_of(i.device)}/dhcp")]
    return because(Layer.ANSWERS, Wrong.NO_SERVER, *guilty, segment.pointer, segment=segment.name)


def _vlans(site: Site, attachment: Attachment) -> list[int]:
    """Return the VLANs that a client's frames may be meant for, the likeliest first."""
    line = site.fabric.ports[attachment.box, attachment.port] if attachment.port else None
    near: LinkPort | None = line
    if line is not None and attachment.kind != "edge":
        near = site.fabric.ports.get(line.peer) if line.peer else None
    seen = set[tuple[str, str]]()
    while near is not None and near.spot in site.fabric.inline_pairs and near.spot not in seen:
        seen.add(near.spot)
        other = site.fabric.inline_pairs[near.spot][0]
        near = site.fabric.ports.get(other.peer) if other.peer else None
    if near is None or not (near.settings.untagged or near.settings.tagged or near.settings.pvid):
        return []
    return [near.settings.translate.get(attachment.form, attachment.form)] if attachment.form else meant_by_hosts(near)


def _meant(site: Site, attachment: Attachment) -> Iterator[tuple[LeaseServer, L3Interface]]:
    """Yield the servers that should hear a client, those of the likeliest VLAN first."""
    servers = [
        (s, i) for s in lease_servers(site.design, off=True) if (i := site.net.by_name.get((s.device, s.interface)))
    ]
    vlans = _vlans(site, attachment)
    for vlan in vlans:
        subnets = [parse_prefix(n) for v in site.design.vlans if v.id == vlan for n in v.subnets]
        for server, interface in servers:
            named = interface.name == f"vlan{vlan}" or interface.name.endswith(f".{vlan}")
            if named or any(a.ip in n for a in interface.addresses for n in subnets if n.version == a.version):
                yield server, interface
    if not vlans:
        mates = {t.index for t in site.segments.all[site.segments.of(attachment)].attachments}
        yield from ((s, i) for s, i in servers if i.attachment is not None and i.attachment.index in mates)


def _gateways(site: Site, attachment: Attachment) -> Iterator[L3Interface]:
    """Yield the interfaces of a client's VLAN: where a server would stand."""
    vlans = _vlans(site, attachment)
    mates = {t.index for t in site.segments.all[site.segments.of(attachment)].attachments}
    for interface in site.net.interfaces:
        named = any(interface.name == f"vlan{v}" or interface.name.endswith(f".{v}") for v in vlans)
        near = named or (interface.attachment is not None and interface.attachment.index in mates)
        if near and isinstance(site.net.devices[interface.device], BridgingBox):
            yield interface


def _relayed(site: Site, server: LeaseServer, interface: L3Interface, taken: Taken, several: tuple[str, ...]) -> Handed:
    """A relay asks its servers from its own address. Where the design does not say what they hand out, the first free address is assumed."""
    own = next((a for a in interface.addresses if isinstance(a, IPv4Interface)), None)
    tried: list[tuple[str, Walk]] = []
    for text in server.settings.servers:
        went = _asked(site, interface, own, text)
        if went is not None and went.cause is None and own is not None:
            return _assumed(site, server, own, text, taken, several)
        if went is not None:
            tried.append((text, went))
    if tried:
        text, went = tried[0]
        values: Values = {"server": server.label, "address": text}
        cause = because(Layer.ANSWERS, Wrong.RELAY_UNANSWERED, server.pointer, under=went.cause, values=values)
        return Handed(None, cause, server, several)
    at = f"{server.pointer}/servers"
    return Handed(
        None, because(Layer.ANSWERS, Wrong.RELAY_NOWHERE, at, server.pointer, server=server.label), server, several
    )


def _asked(site: Site, interface: L3Interface, own: IPv4Interface | None, text: str) -> Walk | None:
    """Return what becomes of a relay's question to one server; None where nobody has that address."""
    try:
        target = find_place(site, text).of(4)
    except UnknownPlace:
        return None
    return walk(site, own_place(site, interface, own.ip), target, DHCP_PORT) if own is not None and target else None


def _assumed(
    site: Site, relay: LeaseServer, own: IPv4Interface, text: str, taken: Taken, several: tuple[str, ...]
) -> Handed:
    subnet: IPv4Network = own.network
    for server in lease_servers(site.design):
        holder = next((i for i in site.net.holders(parse_address(text)) if i.device == server.device), None)
        address = server.free(taken.held, [subnet]) if holder is not None and server.mode == "server" else None
        if address is not None:
            gateway = parse_address(server.settings.gateway) if server.settings.gateway else None
            lease = Leased(IPv4Interface(f"{address}/{subnet.prefixlen}"), gateway, text, server.pointer)
            return Handed(lease, None, relay, several, options(server), text)
    free = next((a for a in subnet.hosts() if int(a) not in taken.held), None)
    if free is None:
        values: Values = {"server": relay.label}
        return Handed(None, because(Layer.ANSWERS, Wrong.NOTHING_FREE, relay.pointer, values=values), relay, several)
    lease = Leased(IPv4Interface(f"{IPv4Address(int(free))}/{subnet.prefixlen}"), own.ip, text, relay.pointer, True)
    return Handed(lease, None, relay, several, {}, text)


def relay_problem(site: Site, relay: LeaseServer) -> Cause | None:
    """Return why none of a relay's servers answers it, or None where one does, or where its interface is down."""
    interface = site.net.by_name.get((relay.device, relay.interface))
    if interface is None or not relay.settings.servers:
        at = f"{relay.pointer}/servers"
        return because(Layer.ANSWERS, Wrong.RELAY_NOWHERE, at, relay.pointer, server=relay.label)
    return (
        None
        if interface.cause is not None
        else _relayed(site, relay, interface, Taken(frozenset(), frozenset()), ()).cause
    )
