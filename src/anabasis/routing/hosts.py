"""Hosts and their gateways: who stands in a segment, what is on its link, and where it sends everything else (concepts, section 4)."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass

from anabasis.design import Design
from anabasis.design.devices import BridgingBox, Endpoint, Outside
from anabasis.design.notation import (
    PRIVATE,
    Address,
    Network,
    is_private,
    parse_address,
    parse_interface,
    parse_prefix,
    pointer,
)
from anabasis.fabric import Segment, Segments, Tap
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
    tap: Tap | None
    """Where they stand; None = no port of the segment takes a host."""
    gateway: Address | None
    reason: str
    """Why they have no gateway."""
    pointer: str
    """The item that decides the gateway, or the lack of one."""
    endpoint: str | None = None
    behind: str | None = None
    """The outside they are behind."""

    def holds(self, address: Address) -> bool:
        """Tell whether an address lies in the group's span."""
        return address.version == self.first.version and int(self.first) <= int(address) <= int(self.last)


def stand_of(segment: Segment) -> Tap | None:
    """Return where a host of a segment that nobody named stands: on an edge port, else where any attachment is."""
    order = {"edge": 0, "endpoint": 1, "interface": 2, "outside": 3}
    return min(segment.taps, key=lambda t: order[t.kind], default=None)


def host_groups(segments: Segments, interfaces: list[L3Interface]) -> list[HostGroup]:
    """Return all host groups: by segment, endpoints before the rest of their subnet.

    Where no device that routes stands in the domain, hosts still send to the interface that has an address of their subnet somewhere else: they are
    cut off from their gateway, and the walk says by what (docs/semantics.md).
    """
    out: list[HostGroup] = []
    routing = {d.name for d in segments.fabric.design.devices if routes_packets(d)}
    able = [i for i in interfaces if i.tap is not None and i.device in routing]
    handed = _handing(segments.fabric.design)
    standing: dict[int, list[L3Interface]] = {}
    for i in able:
        if i.tap is not None:
            standing.setdefault(segments.all[segments.of(i.tap)].domain, []).append(i)
    for s, segment in enumerate(segments.all):
        if segment.kind == "outside":
            out += _behind(segments, s, segment)
            continue
        inside = standing.get(segment.domain, [])
        beyond = [] if inside else able
        out += _endpoints(segments, s, segment, inside or beyond, handed)
        for subnet in map(parse_prefix, segment.subnets):
            gateway, reason, at = choose_gateway(handed, segment, subnet, inside or beyond)
            out.append(
                HostGroup(s, segment.domain, subnet, subnet[0], subnet[-1], stand_of(segment), gateway, reason, at)
            )
    return out


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
            "",
            segment.pointer,
            behind=device.name,
        )


def _endpoints(
    segments: Segments, s: int, segment: Segment, inside: list[L3Interface], handed: Handed
) -> Iterator[HostGroup]:
    design = segments.fabric.design
    index = {d.name: n for n, d in enumerate(design.devices)}
    for tap in segment.taps:
        device = design.devices[index[tap.device]]
        if not isinstance(device, Endpoint):
            continue
        at = pointer("devices", index[tap.device])
        texts = [*device.addresses, *(tap.settings.addresses if tap.settings else [])]
        for interface in map(parse_interface, texts):
            if not any(
                interface.ip in parse_prefix(n) for n in segment.subnets if parse_prefix(n).version == interface.version
            ):
                continue  # a host with an address of some other subnet is a finding, no member of this one
            own = _own_gateway(device, interface.version)
            gateway, reason, where = (
                (own, "", at + "/gateway") if own else choose_gateway(handed, segment, interface.network, inside)
            )
            yield HostGroup(
                s,
                segment.domain,
                interface.network,
                interface.ip,
                interface.ip,
                tap,
                gateway,
                reason,
                where,
                endpoint=device.name,
            )


def _own_gateway(device: Endpoint, version: int) -> Address | None:
    given = device.gateway if isinstance(device.gateway, list) else [device.gateway] if device.gateway else []
    return next((g for g in map(parse_address, given) if g.version == version), None)


def choose_gateway(
    handed: Handed, segment: Segment, subnet: Network, inside: list[L3Interface]
) -> tuple[Address | None, str, str]:
    """Return (gateway, why there is none, deciding item) for a host of a subnet: what a lease hands out, else the only one there is."""
    leased = _handed_out(handed, subnet, inside)
    if leased:
        return leased[0], "", leased[1]
    virtual = {a: i for i in inside for a in i.virtual if a.version == subnet.version and a in subnet}
    if len(virtual) == 1:  # routers that share one virtual address stand by for each other (RFC 9568)
        return next((a, "", i.pointer) for a, i in virtual.items())
    found = [(a.ip, i) for i in inside for a in i.addresses if a.version == subnet.version and a.ip in subnet]
    if len({address for address, _ in found}) > 1:
        names = ", ".join(f"{i.label} ({a})" for a, i in found)
        return None, f"{segment.name} has several gateways and no choice: {names}", segment.pointer
    if not found:
        return None, f"no device that routes has an address of {subnet} in {segment.name}", segment.pointer
    return found[0][0], "", found[0][1].pointer


Handed = dict[tuple[str, str], list[tuple[tuple[int, int], Address]]]


def _handing(design: Design) -> Handed:
    """Return (device, interface) -> the gateways it hands out, each with (device index, entry index)."""
    out: Handed = defaultdict(list)
    for d, device in enumerate(design.devices):
        for i, lease in enumerate(device.dhcp if isinstance(device, BridgingBox) else []):
            if lease.mode in ("server", "yield") and lease.gateway:
                out[device.name, lease.interface].append(((d, i), parse_address(lease.gateway)))
    return out


def _handed_out(handed: Handed, subnet: Network, inside: list[L3Interface]) -> tuple[Address, str] | None:
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


def host_spans(group: HostGroup, groups: list[HostGroup], owned: dict[int, list[int]]) -> Intervals:
    """Return the addresses hosts of a group may have, in order.

    `owned`: by family, sorted, the addresses some box holds. Left out: those; the network and broadcast address of an IPv4 subnet (RFC 1122 section 3.2.1.3); endpoints with a
    group of their own; behind an outside also every subnet inside the design, and private space unless its prefix is private itself.
    """
    version = group.subnet.version
    spans: Intervals = [(int(group.first), int(group.last))]
    held = owned[version]
    holes = [(a, a) for a in held[bisect_left(held, spans[0][0]) : bisect_right(held, spans[0][1])]]
    if group.endpoint:
        return subtract(spans, holes)
    holes += [
        (int(g.first), int(g.last))
        for g in groups
        if g.endpoint and g.domain == group.domain and g.subnet.version == version
    ]
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
