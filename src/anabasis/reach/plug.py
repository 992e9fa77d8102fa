"""Plug in: a laptop on a port. Which VLAN, which segment, who answers its DHCP request, what it gets, what it then reaches.

The laptop is put into the design as an endpoint of its own and the site is computed anew, so every answer is that of the two engines.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict, dataclass
from ipaddress import IPv4Interface, ip_address, ip_network

from anabasis.design import Design, Tree, parse_design
from anabasis.design.devices import Device
from anabasis.design.notation import PROTOCOLS, Address, end_asked, parse_end
from anabasis.design.references import port_names, unit_names
from anabasis.errors import Problem, UnknownPlace, nearest
from anabasis.fabric import ALL_WELL, Conditions, Tap, forwarding_units
from anabasis.fabric.frames import UNTAGGED
from anabasis.policy.leases import LeaseServer, lease_servers
from anabasis.reach.places import Place, find_place, own_place
from anabasis.reach.site import Site, build_site
from anabasis.reach.sweep import Sweep
from anabasis.reach.walk import Walk, walk
from anabasis.routing import L3Interface

LAPTOP = "plugged-in laptop"
DHCP_PORT = (PROTOCOLS["udp"], 67)


@dataclass(frozen=True)
class Plug:
    """What the laptop finds."""

    vlan: int | None
    segment: str | None
    address: str | None
    """What it is handed; None where nobody hands out one."""
    gateway: str | None
    server: str | None
    options: dict[str, str]
    """DNS, NTP, lease time and further options handed out with it."""
    static: str | None
    """Where nobody hands out an address: a free one of the subnet, with which `reaches` is computed."""
    reaches: list[str]
    layer: str | None
    reason: str
    decided_by: list[str]

    def as_dict(self) -> dict[str, object]:
        """Return it for JSON (command-line promise, `plug`)."""
        return asdict(self)


def plug(design: Design, place: str, tag: int | None = None, conditions: Conditions = ALL_WELL) -> Plug:
    """Plug a laptop into `device:port`, its frames untagged or in a tag. Raises UnknownPlace where there is no such port."""
    box, port = _find(design, place, conditions)
    site = build_site(with_laptop(design, box, port, tag, [], None), conditions)
    tap = next((t for t in site.fabric.taps if t.device == LAPTOP and t.form == (tag or UNTAGGED)), None)
    line = site.fabric.ports.get((box, port))
    if line is None:
        return _stopped("link", f"{box}:{port} is a member of a bundle: it takes no host by itself", [])
    if tap is None or not line.up:
        return _stopped("link", line.reason or f"{line.label} takes no host", [line.blame])
    vlan, why = _vlan_of(site, line.spot, tag)
    if why:
        return _stopped("vlan", why, [line.pointer])
    segment = site.segments.all[site.segments.of(tap)]
    name = _outer_name(design, site, tap, conditions)
    answers = list(_answering(site, tap))
    if not answers:
        static = _static_address(site, tap)
        reached = _reached(design, box, port, tag, static, None, conditions)
        reason = f"no DHCP server answers in {name}"
        return Plug(vlan, name, None, None, None, {}, static, reached, "answers", reason, [segment.pointer])
    server, interface = answers[0]
    return _leased(design, site, (box, port, tag), (vlan, name), server, interface, len(answers), conditions)


def _find(design: Design, place: str, conditions: Conditions) -> tuple[str, str]:
    box, port = end_asked(place)
    boxes: dict[str, tuple[str, Device]] = {}
    for device in design.devices:
        for unit in unit_names(device):
            boxes[unit] = (unit, device)
        active = forwarding_units(device, conditions)
        boxes.setdefault(device.name, (active[0] if active else unit_names(device)[0], device))
    if box not in boxes:
        names = list(boxes)
        raise UnknownPlace(
            [Problem("", "there is no device of this name", repr(box), ", ".join(names[:14]), nearest(box, names))]
        )
    unit, device = boxes[box]
    if port not in port_names(device):
        names = port_names(device)
        problem = Problem(
            "", f"{box} has no port of this name", repr(port), ", ".join(names[:14]), nearest(port, names)
        )
        raise UnknownPlace([problem])
    return unit, port


def with_laptop(
    design: Design, box: str, port: str, tag: int | None, addresses: list[str], gateway: str | None
) -> Design:
    """Return the design with the laptop on the port, in the place of whatever is plugged in there."""
    tree: Tree = design.model_dump(mode="json", by_alias=True, exclude_unset=True)
    tree["cables"] = [c for c in tree.get("cables", []) if (box, port) not in (parse_end(c[0]), parse_end(c[1]))]
    tree["cables"].append([f"{box}:{port}", f"{LAPTOP}:1"])
    laptop: Tree = {"name": LAPTOP, "kind": "endpoint", "ports": [{"name": "1"}]}
    laptop["ports"] = (
        [{"name": "1", "subinterfaces": [{"tag": tag, "addresses": addresses}]}] if tag else [{"name": "1"}]
    )
    if not tag:
        laptop["addresses"] = addresses
    if gateway:
        laptop["gateway"] = gateway
    tree["devices"] = [*tree.get("devices", []), laptop]
    return parse_design(tree)


def _vlan_of(site: Site, spot: tuple[str, str], tag: int | None) -> tuple[int | None, str]:
    """Return the VLAN the port puts the laptop's frames into, or why it drops them; (None, "") where no VLAN is in play."""
    port = site.fabric.ports[spot]
    if not port.bridges or site.fabric.tables[port.box] is None:
        return None, ""
    vlan, why = site.fabric.classify((spot, tag or UNTAGGED))
    said = f"tag {tag}" if tag else "untagged frames"
    return vlan, f"{port.label} drops {said}: {why}" if vlan is None else ""


def _outer_name(design: Design, site: Site, tap: Tap, conditions: Conditions) -> str:
    """Return the segment as the design itself calls it, without the laptop."""
    mates = {t.label for t in site.segments.all[site.segments.of(tap)].taps if t is not tap}
    known = build_site(design, conditions).segments
    best = max(known.all, key=lambda s: len(mates & {t.label for t in s.taps}), default=None)
    if best is not None and mates & {t.label for t in best.taps}:
        return best.name
    return site.segments.all[site.segments.of(tap)].name


def _answering(site: Site, tap: Tap) -> Iterator[tuple[LeaseServer, L3Interface]]:
    """Yield the servers and relays that hear the laptop's request and whose answer it hears; one that yields, last and alone."""
    yielding = []
    answered = False
    for server in lease_servers(site.design):
        interface = site.net.by_name.get((server.device, server.interface))
        if interface is None or interface.tap is None or not interface.up:
            continue
        if _passes(site, tap, interface.tap) and site.fabric.delivers(interface.tap, tap):
            if server.mode == "yield":
                yielding.append((server, interface))
            else:
                answered = True
                yield server, interface
    if not answered:
        yield from yielding[:1]


def _passes(site: Site, start: Tap, goal: Tap) -> bool:
    """Tell whether a DHCP request gets there: over filtering points, rules on udp/67 from 0.0.0.0 to 255.255.255.255 apply."""
    carriage = site.fabric.carry(start, goal)
    if carriage is None:
        return False
    for crossing in carriage.crossings:
        policy = site.policies.of[crossing.device]
        if any(policy.zone_problem(z, crossing.kind, "") for z in (crossing.from_zone, crossing.to_zone)):
            return False
        zones = crossing.from_zone or "", crossing.to_zone or ""
        action = next(
            (r.action for r in policy.lines(*zones) if r.matches(4, 0, 2**32 - 1, DHCP_PORT)), policy.default(*zones)[0]
        )
        if action != "permit":
            return False
    return True


def _taken(site: Site) -> frozenset[int]:
    used = {int(a) for a in site.net.owned if a.version == 4}
    return frozenset(used | {int(g.first) for g in site.net.hosts if g.endpoint and g.subnet.version == 4})


def _static_address(site: Site, tap: Tap) -> str | None:
    """Return a free address of the laptop's segment, the last one, where people put such things."""
    taken = _taken(site)
    for text in site.segments.all[site.segments.of(tap)].subnets:
        subnet = ip_network(text)
        if subnet.version == 4 and subnet.num_addresses > 3:
            free = int(subnet.broadcast_address) - 1
            while free in taken:
                free -= 1
            return f"{ip_address(free)}/{subnet.prefixlen}"
    return None


def _leased(
    design: Design,
    site: Site,
    port: tuple[str, str, int | None],
    where: tuple[int | None, str],
    server: LeaseServer,
    interface: L3Interface,
    count: int,
    conditions: Conditions,
) -> Plug:
    more = f"; {count} servers answer here, and which one is first is luck" if count > 1 else ""
    if server.mode == "relay":
        return _relayed(site, where, server, interface, more)
    subnets = [a.network for a in interface.addresses if a.version == 4]
    address = server.free(_taken(site))
    if address is None or not any(address in n for n in subnets):
        reason = f"{server.label} has no free address to hand out{more}"
        return Plug(*where, None, None, server.label, {}, None, [], "answers", reason, [server.pointer])
    subnet = next(n for n in subnets if address in n)
    lease = IPv4Interface(f"{address}/{subnet.prefixlen}")
    reached = _reached(design, *port, str(lease), server.settings.gateway, conditions)
    reason = f"{server.label} hands out {address}{more}"
    if server.settings.gateway is None:
        reason += ", but no gateway"
    options = _options(server)
    return Plug(
        *where,
        str(address),
        server.settings.gateway,
        server.label,
        options,
        None,
        reached,
        None,
        reason,
        [server.pointer],
    )


def _options(server: LeaseServer) -> dict[str, str]:
    settings = server.settings
    given = {
        "dns": ", ".join(settings.dns),
        "ntp": ", ".join(settings.ntp),
        "lease_s": str(settings.lease_s or ""),
        "boot_server": settings.boot_server or "",
        "boot_file": settings.boot_file or "",
    }
    return {k: v for k, v in (given | settings.options).items() if v}


def _relayed(site: Site, where: tuple[int | None, str], server: LeaseServer, interface: L3Interface, more: str) -> Plug:
    """A relay asks its servers from its own address; what they hand out stands in no design."""
    own = next((a.ip for a in interface.addresses if a.version == 4), None)
    tried: list[tuple[str, Walk]] = []
    for text in server.settings.servers:
        target = _host_at(site, ip_address(text))
        if own is not None and target is not None:
            went = walk(site, own_place(site, interface, own), target, DHCP_PORT)
            if went.outcome != "stopped":
                reason = f"{server.label} relays to {text}, which answers; what it hands out stands in no design{more}"
                return Plug(*where, None, None, text, {}, None, [], None, reason, [server.pointer])
            tried.append((text, went))
    if tried:
        text, went = tried[0]
        reason = f"{server.label} relays to {text}, which does not answer: {went.reason}"
        return Plug(*where, None, None, None, {}, None, [], went.layer, reason, [server.pointer, *went.decided_by])
    reason = f"{server.label} relays to no server that the design knows"
    return Plug(*where, None, None, None, {}, None, [], "answers", reason, [server.pointer])


def relay_problem(site: Site, relay: LeaseServer) -> str | None:
    """Return why none of a relay's servers answers it, or None where one does."""
    interface = site.net.by_name.get((relay.device, relay.interface))
    if interface is None or not relay.settings.servers:
        return "it names no server" if interface is not None else "its interface does not route"
    if not interface.up:
        return None  # that is a finding of its own
    found = _relayed(site, (None, ""), relay, interface, "")
    return None if found.server else found.reason.removeprefix(f"{relay.label} relays to ")


def _host_at(site: Site, address: Address) -> Place | None:
    try:
        return find_place(site, str(address)).of(address.version)
    except UnknownPlace:
        return None


def _reached(
    design: Design,
    box: str,
    port: str,
    tag: int | None,
    address: str | None,
    gateway: str | None,
    conditions: Conditions,
) -> list[str]:
    """Return the segments some flow of the laptop gets to, its own and transits aside."""
    if address is None:
        return []
    site = build_site(with_laptop(design, box, port, tag, [address], gateway), conditions)
    own = next((g for g in site.net.hosts if g.endpoint == LAPTOP), None)
    if own is None:
        return []
    sweep = Sweep(site, own.segment)
    number = int(own.first)
    return [
        segment.name
        for b, segment in enumerate(site.segments.all)
        if b != own.segment
        and segment.kind != "transit"
        and any(low <= number <= high for x in sweep.flows(own.segment, b).boxes for low, high in x.sources)
    ]


def _stopped(layer: str, reason: str, places: list[str]) -> Plug:
    return Plug(None, None, None, None, None, {}, None, [], layer, reason, places)
