"""Hosts and their gateways: who stands in a segment, what is on its link, and where it sends everything else (docs/semantics.md, "Hosts")."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from ipaddress import IPv6Interface, IPv6Network

from anabasis.design import Design
from anabasis.design.devices import BridgingBox, Endpoint, Outside
from anabasis.design.notation import (
    PRIVATE,
    Address,
    Interface,
    Network,
    is_private,
    parse_address,
    parse_interface,
    parse_prefix,
    pointer,
)
from anabasis.design.ports import VirtualPort
from anabasis.fabric import Attachment, Segment, Segments
from anabasis.facts import Cause, Layer, Values, Wrong, because
from anabasis.once import once
from anabasis.routing.interfaces import L3Interface, routes_packets
from anabasis.routing.spans import Intervals, span_of, subtract


@dataclass(frozen=True, eq=False)
class HostGroup:
    """Hosts of one segment that send alike: any host of a subnet, one endpoint, or everything behind an outside."""

    segment: int
    domain: int
    subnet: Network
    """What is on their link; for an outside, one of its prefixes."""
    first: Address
    last: Address
    attachment: Attachment | None
    """Where they stand; None = no port of the segment takes a host."""
    gateway: Address | None
    cause: Cause | None
    """Why they have no gateway."""
    pointer: str
    """The item that decides the gateway, or the lack of one."""
    endpoint: str | None = None
    behind: str | None = None
    """The outside they are behind."""
    stray: Cause | None = None
    """Why an endpoint stands where its address does not belong."""
    assumed: bool = False
    """Nothing says which gateway they use, and there is only one; or their address is formed, and nothing says of what."""
    on_link: bool = True
    """Whether they send to their subnet straight; of IPv6 only what a router announces is on the link (RFC 5942 section 4)."""

    @property
    def can_use(self) -> bool:
        """Tell whether its gateway is on its link: a host sends to no gateway outside its own subnet (RFC 1122 section 3.3.1.2).

        A router that announces itself is always on the link (RFC 4861 section 6.3.4).
        """
        if self.gateway is None or self.endpoint is None:
            return self.gateway is not None
        return self.gateway in self.subnet or (self.gateway.version == 6 and self.assumed)

    def holds(self, address: Address) -> bool:
        """Tell whether an address lies in the group's span."""
        return address.version == self.first.version and int(self.first) <= int(address) <= int(self.last)


def stand_of(segment: Segment) -> Attachment | None:
    """Return where a host of a segment that nobody named stands: on an edge port, else where any attachment is."""
    order = {"edge": 0, "endpoint": 1, "interface": 2, "outside": 3}
    return min(segment.attachments, key=lambda t: order[t.kind], default=None)


@dataclass(frozen=True)
class Leased:
    """What a client was handed (RFC 2131): as an address of its own, with the server's gateway."""

    address: Interface
    gateway: Address | None
    server: str
    pointer: str
    """The server's entry."""
    assumed: bool = False


Leases = Mapping[tuple[str, str], Leased]
"""(endpoint, its interface) -> what it was handed."""


def host_groups(segments: Segments, interfaces: list[L3Interface], leases: Leases) -> list[HostGroup]:
    """Return all host groups: by segment, endpoints before the rest of their subnet.

    Where no device that routes stands in the domain, hosts still send to the interface that has an address of their subnet somewhere else: they are
    cut off from their gateway, and the walk says by what (docs/semantics.md).
    """
    out: list[HostGroup] = []
    routing = {d.name for d in segments.fabric.design.devices if routes_packets(d)}
    able = [i for i in interfaces if i.attachment is not None and i.device in routing]
    handed = _handing(segments.fabric.design)
    standing: dict[int, list[L3Interface]] = {}
    for i in able:
        if i.attachment is not None:
            standing.setdefault(segments.all[segments.of(i.attachment)].domain, []).append(i)
    meant = _MeantFor(segments, interfaces)
    index = {d.name: n for n, d in enumerate(segments.fabric.design.devices)}
    for s, segment in enumerate(segments.all):
        if segment.kind == "outside":
            out += _behind(segments, s, segment)
            continue
        inside = standing.get(segment.domain, [])
        known = _Gateways(
            handed,
            inside or able,
            [(i, "" if i.device in routing else segments.fabric.item_of(i.device)) for i in meant.of(segment)],
        )
        out += _endpoints(segments, s, segment, known, _Gateways(handed, able, known.silent), leases, index)
        for subnet in _apart([parse_prefix(n) for n in segment.subnets]):
            stand = stand_of(segment)
            chosen = _by_tunnel(stand, subnet) or known.choose(segment, subnet)
            ends = subnet, subnet[0], subnet[-1], stand
            near = known.announces(subnet)
            out.append(HostGroup(s, segment.domain, *ends, *chosen[:3], assumed=chosen[3], on_link=near))
    return out


def _by_tunnel(stand: Attachment | None, subnet: Network) -> Chosen | None:
    """Hosts behind a tunnel that somebody else's network takes answer into it: to the address of its end here; None of any other hosts."""
    settings = stand.settings if stand is not None else None
    if stand is None or not isinstance(settings, VirtualPort) or str(subnet) not in settings.beyond:
        return None
    own = next((i for a in settings.addresses if (i := parse_interface(a)).version == subnet.version), None)
    if own is None:
        values: Values = {"segment": settings.name, "subnet": str(subnet)}
        return None, because(Layer.GATEWAY, Wrong.NO_GATEWAY, stand.pointer, values=values), stand.pointer, False
    return own.ip, None, stand.pointer, True


def _apart(subnets: list[Network]) -> list[Network]:
    """Return the subnets that hosts are in, none inside another: an interface with a longer mask makes no other hosts.

    Of IPv4 the wider one is what hosts have; of IPv6 the narrower, which is the one that can be announced (RFC 4291 section 2.5.1).
    """
    return [n for n in subnets if not any(_inside(n, m) if n.version == 4 else _inside(m, n) for m in subnets)]


def _inside(one: Network, other: Network) -> bool:
    return one.version == other.version and one != other and one.subnet_of(other)  # type: ignore[arg-type]


class _MeantFor:
    """Which interfaces stand in a segment, or are named by a VLAN of its broadcast domain and may be down: who may have been meant as its gateway."""

    def __init__(self, segments: Segments, interfaces: list[L3Interface]) -> None:
        self._interfaces = interfaces
        self._at: dict[int, int] = {}
        self._called: dict[str, list[int]] = {}
        self._ids: dict[int, set[int]] = {}
        for n, i in enumerate(interfaces):
            if i.attachment is not None:
                self._at[i.attachment.index] = n
            for name in {i.name.rpartition(".")[2], i.name}:
                self._called.setdefault(name, []).append(n)
        for segment in segments.all:
            self._ids.setdefault(segment.domain, set()).update(segment.vlan_ids)

    def of(self, segment: Segment) -> list[L3Interface]:
        """Return them, in document order."""
        found = {self._at[t.index] for t in segment.attachments if t.index in self._at}
        for vlan in self._ids[segment.domain]:
            found.update(*(self._called.get(name, ()) for name in (f"vlan{vlan}", str(vlan))))
        return [self._interfaces[n] for n in sorted(found)]


def _behind(segments: Segments, s: int, segment: Segment) -> Iterator[HostGroup]:
    device = next(d for d in segments.fabric.design.devices if d.name == segment.name)
    assert isinstance(device, Outside)
    for prefix in map(parse_prefix, device.prefixes):
        yield HostGroup(
            s,
            segment.domain,
            prefix,
            prefix[0],
            prefix[-1],
            stand_of(segment),
            None,
            None,
            segment.pointer,
            behind=device.name,
        )


def _endpoints(
    segments: Segments,
    s: int,
    segment: Segment,
    known: _Gateways,
    anywhere: _Gateways,
    leases: Leases,
    index: dict[str, int],
) -> Iterator[HostGroup]:
    """An endpoint keeps its address and its subnet wherever it stands, and however thoroughly it is cut off. `index`: of devices, by name."""
    design = segments.fabric.design
    for attachment in segment.attachments:
        device = design.devices[index[attachment.device]]
        if not isinstance(device, Endpoint):
            continue
        at = pointer("devices", index[attachment.device])
        texts = [*device.addresses, *(attachment.settings.addresses if attachment.settings else [])]
        held: list[tuple[Interface, Leased | None]] = [(parse_interface(t), None) for t in texts]
        lease = leases.get((device.name, attachment.name))
        held += [(lease.address, lease)] if lease is not None else []
        formed = _formed(device, index[attachment.device], segment, known) if not any(":" in t for t in texts) else None
        held += [(formed, None)] if formed is not None else []
        for interface, leased in held:
            stray = _stray(segments, device, at, attachment, segment, interface)
            near = anywhere if stray is not None or not segment.subnets else known
            gateway, cause, where, assumed = _gateway_of(device, at, segment, interface, leased, near)
            subnet = known.link_of(interface)
            yield HostGroup(
                s,
                segment.domain,
                subnet,
                interface.ip,
                interface.ip,
                attachment,
                gateway,
                cause,
                where,
                endpoint=device.name,
                stray=stray,
                assumed=assumed or interface is formed,
                on_link=known.announces(subnet),
            )


def _formed(device: Endpoint, index: int, segment: Segment, known: _Gateways) -> IPv6Interface | None:
    """Return the address that a client forms of the first prefix it hears announced: of its hardware address (RFC 4291 appendix A), else by the order of the document."""
    here = {n for n in map(parse_prefix, segment.subnets)}
    prefix = next((p for p in known.announced if p in here), None) if device.dhcp else None
    if prefix is None:
        return None
    tail = interface_id(device.hardware) if device.hardware else FORMED_FROM + index
    return IPv6Interface((int(prefix.network_address) + tail, 64))


FORMED_FROM = 0x1000
"""Where the addresses begin that are formed by the order of the document: beyond those people give by hand."""


def interface_id(hardware: str) -> int:
    """Return the modified EUI-64 of a hardware address (RFC 4291 appendix A)."""
    octets = bytes.fromhex(hardware.replace(":", "").replace("-", ""))
    return int.from_bytes(bytes((octets[0] ^ 2, *octets[1:3], 0xFF, 0xFE, *octets[3:])), "big")


def _stray(
    segments: Segments, device: Endpoint, at: str, attachment: Attachment, segment: Segment, interface: Interface
) -> Cause | None:
    """Return why an endpoint stands where its address does not belong; None where it does, or where no subnet is."""
    same = [n for n in map(parse_prefix, segment.subnets) if n.version == interface.version]
    if not same or any(interface.ip in n for n in same):
        return None
    port = segments.fabric.ports[attachment.box, attachment.port] if attachment.port else None
    near = segments.fabric.ports.get(port.peer) if port is not None and port.peer else None
    values: Values = {"host": device.name, "address": str(interface), "segment": segment.name}
    said = values | {"subnets": ", ".join(map(str, same))}
    own = (f"{at}/addresses", at)
    cables = [m.cable or "" for m in near.members] if near is not None else []
    guilty = (*own, *([near.pointer] if near is not None else []), *cables)
    gateway = _own_gateway(device, interface.version)
    if near is not None and not segment.vlan_ids and gateway is not None and gateway in interface.network:
        # its address and its gateway are of one mind, against the one setting of a link without a plan
        guilty = (near.pointer, *own, *cables)
    return because(Layer.VLAN, Wrong.HOST_ELSEWHERE, *guilty, values=said)


Chosen = tuple[Address | None, Cause | None, str, bool]
"""(gateway, why there is none, deciding item, assumed)."""


def _gateway_of(
    device: Endpoint, at: str, segment: Segment, interface: Interface, leased: Leased | None, near: _Gateways
) -> Chosen:
    """Return what an endpoint sends to: its own setting, what it was handed, else the only one there is."""
    where = f"{at}/gateway"
    if device.gateway == "none":
        return None, because(Layer.GATEWAY, Wrong.HOST_WITHOUT, where, host=device.name), where, False
    own = _own_gateway(device, interface.version)
    if own is not None:
        if own not in near.link_of(interface):
            values: Values = {"host": device.name, "gateway": str(own)}
            return own, because(Layer.GATEWAY, Wrong.GATEWAY_BEYOND, where, at, values=values), where, False
        return own, None, where, False
    if leased is not None:
        if leased.gateway is None:
            values = {"server": leased.server, "address": str(leased.address.ip)}
            cause = because(Layer.GATEWAY, Wrong.LEASE_WITHOUT_GATEWAY, leased.pointer, values=values)
            return None, cause, leased.pointer, False
        return leased.gateway, None, f"{leased.pointer}/gateway", False
    return near.choose(segment, interface.network)


def gateways_of(device: Endpoint) -> list[str]:
    """Return the gateways an endpoint is set to, one a family; none where it has none or learns it."""
    if isinstance(device.gateway, list):
        return device.gateway
    return [device.gateway] if device.gateway and device.gateway != "none" else []


def _own_gateway(device: Endpoint, version: int) -> Address | None:
    return next((g for g in map(parse_address, gateways_of(device)) if g.version == version), None)


@dataclass(frozen=True, eq=False)
class _Gateways:
    """The interfaces that hosts of a domain may use as their gateway."""

    handed: LeaseRanges
    inside: list[L3Interface]
    silent: list[tuple[L3Interface, str]]
    """Others that may have been meant, each with the pointer of its box where that does not route."""
    """Who may have been meant: interfaces of the VLAN without an address that fits, or whose box does not route."""

    @once
    def announced(self) -> dict[IPv6Network, L3Interface]:
        """Return the IPv6 prefixes that are announced to hosts, in document order, each with the first that does."""
        out: dict[IPv6Network, L3Interface] = {}
        for interface in self.inside:
            for prefix in interface.announced:
                out.setdefault(prefix, interface)
        return out

    def announces(self, subnet: Network) -> bool:
        """Tell whether hosts take a subnet to be on their link: of IPv6, what is announced (RFC 5942 section 4)."""
        return subnet.version == 4 or subnet in self.announced

    def link_of(self, own: Interface) -> Network:
        """Return what a host with an address takes to be on its link: its own subnet; of IPv6 the announced prefix that holds it."""
        return next((p for p in self.announced if own.version == 6 and own.ip in p), own.network)

    def choose(self, segment: Segment, subnet: Network) -> Chosen:
        """Return the gateway of a host of a subnet: what a lease hands out, else the only one there is."""
        leased = _handed_out(self.handed, subnet, self.inside)
        if leased:
            return leased[0], None, leased[1], False
        usable = [i for i in self.inside if not i.management and (subnet.version == 4 or i.announced or i.virtual)]
        virtual = {a: i for i in usable for a in i.virtual if a.version == subnet.version and a in subnet}
        if len(virtual) == 1:  # routers that share one virtual address stand by for each other (RFC 9568)
            return next((a, None, i.pointer, True) for a, i in virtual.items())
        found = [(a.ip, i) for i in usable for a in i.addresses if a.version == subnet.version and a.ip in subnet]
        if len({address for address, _ in found}) > 1:
            names = ", ".join(f"{i.label} ({a})" for a, i in found)
            guilty = (i.pointer for _, i in found)
            cause = because(Layer.GATEWAY, Wrong.SEVERAL_GATEWAYS, *guilty, segment=segment.name, names=names)
            return None, cause, segment.pointer, False
        if not found:
            cause = self.missing(segment, subnet)
            return None, cause, cause.pointers[0] if cause.pointers else segment.pointer, False
        return found[0][0], None, found[0][1].pointer, True

    def missing(self, segment: Segment, subnet: Network) -> Cause:
        """Return why no box routes for a subnet: one does not route, or has another address there, or none."""
        values: Values = {"segment": segment.name, "subnet": str(subnet)}
        for interface in self.inside if subnet.version == 6 else []:
            if not interface.announced and any(a.ip in subnet for a in interface.addresses if a.version == 6):
                said: Values = values | {"interface": interface.label}
                return because(
                    Layer.GATEWAY, Wrong.NOT_ANNOUNCED, f"{interface.pointer}/announce", interface.pointer, values=said
                )
        for interface, idle in self.silent:
            fits = next((a for a in interface.addresses if a.version == subnet.version and a.ip in subnet), None)
            if fits is not None and idle and not interface.management:
                said = {"device": interface.device, "address": str(fits.ip)}
                return because(Layer.GATEWAY, Wrong.ROUTING_OFF, f"{idle}/routing", interface.pointer, values=said)
            if fits is not None and interface.cause is not None:
                return interface.cause.root
        for interface, idle in self.silent:
            same = [str(a) for a in interface.addresses if a.version == subnet.version]
            if not idle and not any(a.ip in subnet for a in interface.addresses if a.version == subnet.version):
                wrong = Wrong.ADDRESS_MISTYPED if same else Wrong.ADDRESS_MISSING
                said = values | {"interface": interface.label, "has": ", ".join(same)}
                return because(Layer.GATEWAY, wrong, interface.pointer, values=said)
        return because(Layer.GATEWAY, Wrong.NO_GATEWAY, segment.pointer, values=values)


LeaseRanges = dict[tuple[str, str], list[tuple[tuple[int, int], Address]]]


def _handing(design: Design) -> LeaseRanges:
    """Return (device, interface) -> the gateways it hands out, each with (device index, entry index)."""
    out: LeaseRanges = defaultdict(list)
    for d, device in enumerate(design.devices):
        for i, lease in enumerate(device.dhcp if isinstance(device, BridgingBox) else []):
            if lease.mode in ("server", "yield") and lease.gateway:
                out[device.name, lease.interface].append(((d, i), parse_address(lease.gateway)))
    return out


def _handed_out(handed: LeaseRanges, subnet: Network, inside: list[L3Interface]) -> tuple[Address, str] | None:
    here = {k for x in inside for k in handed.get((x.device, x.name), ()) if k[1] in subnet}
    if not here:
        return None
    (d, i), gateway = min(here)
    return gateway, pointer("devices", d, "dhcp", i, "gateway")


NO_HOST = tuple(
    map(
        parse_prefix,
        (
            "0.0.0.0/8",
            "127.0.0.0/8",
            "169.254.0.0/16",
            "224.0.0.0/3",
            "::/3",
            "fe80::/10",
            "ff00::/8",
        ),
    )
)
"""Addresses no host out there is reached by: this network, loopback, link-local, multicast, reserved (RFC 6890; RFC 4291 section 2.4)."""


def host_spans(
    group: HostGroup, groups: list[HostGroup], endpoints: list[HostGroup], owned: dict[int, list[int]]
) -> Intervals:
    """Return the addresses hosts of a group may have, in order.

    `endpoints`: those of the groups that are of endpoints, of the same domain or strays; `owned`: by family, sorted, the addresses some box holds. Left out: those; the network and broadcast address of an IPv4 subnet (RFC 1122 section 3.2.1.3); endpoints with a
    group of their own; behind an outside also every subnet inside the design, and private space unless its prefix is private itself.
    """
    version = group.subnet.version
    spans: Intervals = [(int(group.first), int(group.last))]
    held = owned[version]
    holes = [(a, a) for a in held[bisect_left(held, spans[0][0]) : bisect_right(held, spans[0][1])]]
    if group.endpoint:
        return subtract(spans, holes)
    holes += [(int(g.first), int(g.last)) for g in endpoints if g.subnet.version == version]
    if group.behind:
        kept_out = list(NO_HOST) + ([] if is_private(group.first) and is_private(group.last) else list(PRIVATE))
        holes += [span_of(p) for p in kept_out if p.version == version]
        holes += [span_of(g.subnet) for g in groups if g.subnet.version == version and _more_specific(g, group)]
    elif version == 4 and group.subnet.prefixlen < 31:
        holes += [(spans[0][0], spans[0][0]), (spans[0][1], spans[0][1])]
    return subtract(spans, holes)


def _more_specific(other: HostGroup, group: HostGroup) -> bool:
    if other.behind == group.behind or other.endpoint:
        return False
    return other.behind is None or other.subnet.prefixlen > group.subnet.prefixlen
