"""Layer 3 of a site under given conditions: interfaces, tables and hosts, in one immutable value."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import accumulate

from anabasis.design import Design
from anabasis.design.devices import Device, Endpoint, Outside
from anabasis.design.notation import Address, parse_interface, parse_prefix
from anabasis.design.overlay import sides, stretched
from anabasis.design.ports import VirtualPort
from anabasis.fabric import ALL_WELL, Attachment, Conditions, Segments
from anabasis.facts import Cause, Layer, Wrong, because
from anabasis.once import once
from anabasis.routing.claims import Claim, Claims
from anabasis.routing.hosts import HostGroup, Leases, host_groups, host_spans
from anabasis.routing.interfaces import L3Interface, l3_interfaces, routes_packets
from anabasis.routing.ospf import Hellos, Known, Ospf
from anabasis.routing.spans import Intervals, span_of, subtract
from anabasis.routing.tables import Earlier, Table, TableRoute, build_tables, known_of, with_learnt
from anabasis.routing.tenants import with_told
from anabasis.routing.vrrp import elect


@dataclass(frozen=True)
class Network3:
    """Layer 3 of a site."""

    segments: Segments
    interfaces: list[L3Interface]
    tables: dict[tuple[str, str], Table]
    hosts: list[HostGroup] = field(repr=False)
    claims: Claims = field(repr=False)
    ospf: Ospf | None = field(default=None, repr=False)
    """Who are neighbours and what they tell each other, where anybody speaks it."""
    _spans: dict[HostGroup, Intervals] = field(default_factory=dict, compare=False, repr=False)
    """What `host_spans` has found already: who stands where."""

    @once
    def devices(self) -> dict[str, Device]:
        """Return device by name."""
        return {d.name: d for d in self.segments.fabric.design.devices}

    @once
    def by_attachment(self) -> dict[Attachment, L3Interface]:
        """Return the interface that stands at an attachment."""
        return {i.attachment: i for i in self.interfaces if i.attachment is not None}

    @once
    def by_name(self) -> dict[tuple[str, str], L3Interface]:
        """Return interface by (device, name)."""
        return {(i.device, i.name): i for i in self.interfaces}

    @once
    def of_device(self) -> dict[str, list[L3Interface]]:
        """Return the interfaces of each device, in document order."""
        out: dict[str, list[L3Interface]] = {name: [] for name in self.devices}
        for i in self.interfaces:
            out[i.device].append(i)
        return out

    @once
    def standing(self) -> dict[tuple[str, Address], L3Interface]:
        """Return by device and virtual address the interface that is elected for it, the first in document order."""
        return {(i.device, a): i for i in reversed(self.interfaces) for a in i.standing}

    @once
    def _next_door(self) -> dict[L3Interface, tuple[L3Interface, ...]]:
        return {}

    def next_door(self, near: L3Interface) -> tuple[L3Interface, ...]:
        """Return the interfaces of other boxes that route, are up, and hear frames of an interface on its link."""
        if near not in self._next_door:
            start = near.attachment
            heard = self.segments.fabric.reached(start) if start is not None else ()
            found = sorted(
                self.number_at[k] for k in heard if k in self.number_at and start is not None and k != start.index
            )
            others = (self.interfaces[n] for n in found)
            self._next_door[near] = tuple(
                i for i in others if i.device != near.device and i.up and routes_packets(self.devices[i.device])
            )
        return self._next_door[near]

    @once
    def number_at(self) -> dict[int, int]:
        """Return the index of an attachment -> the number of the interface there, in document order."""
        return {i.attachment.index: n for n, i in enumerate(self.interfaces) if i.attachment is not None}

    @once
    def owned(self) -> frozenset[Address]:
        """Return every address that some box holds itself; no host can have it."""
        return frozenset(a for i in self.interfaces for a in (*(x.ip for x in i.addresses), *i.virtual, *i.units_all))

    @once
    def strays(self) -> frozenset[Address]:
        """Return the addresses of endpoints that have no place in the site at all; they are still nobody else's."""
        endpoints = (d for d in self.segments.fabric.design.devices if isinstance(d, Endpoint))
        held = {parse_interface(text).ip for d in endpoints for text in d.addresses}
        return frozenset(held - {g.first for g in self.hosts if g.endpoint})

    @once
    def contested(self) -> dict[Address, Cause]:
        """Return the addresses that several hosts or boxes of one broadcast domain hold: who answers is luck."""
        holders: dict[tuple[int, Address], dict[str, str]] = {}
        served: dict[tuple[int, Address], L3Interface] = {}
        for i in self.interfaces:
            if i.attachment is not None and i.up:
                domain = self.segments.all[self.segments.of(i.attachment)].domain
                for a in i.addresses:
                    if i in self.beside and served.setdefault((domain, a.ip), i) is not i:
                        continue
                    holders.setdefault((domain, a.ip), {})[i.label] = i.pointer
        for g in self.hosts:
            if g.endpoint and g.attachment is not None:
                at = next(k for k, d in enumerate(self.segments.fabric.design.devices) if d.name == g.endpoint)
                holders.setdefault((g.domain, g.first), {})[g.endpoint] = f"/devices/{at}"
        return {
            address: because(
                Layer.GATEWAY, Wrong.HELD_TWICE, *at.values(), address=str(address), names=" and ".join(at)
            )
            for (_, address), at in holders.items()
            if len(at) > 1
        }

    @once
    def groups_of(self) -> dict[int, list[HostGroup]]:
        """Return host groups by segment."""
        out: dict[int, list[HostGroup]] = {s: [] for s in range(len(self.segments.all))}
        for group in self.hosts:
            out[group.segment].append(group)
        return out

    @once
    def _inside(self) -> dict[int, tuple[list[int], list[int], list[HostGroup]]]:
        """Return the host groups of the site's own subnets, by family: sorted by the first number, beside the highest last number so far."""
        out: dict[int, tuple[list[int], list[int], list[HostGroup]]] = {}
        for version in (4, 6):
            mine = [g for g in self.hosts if not g.behind and g.subnet.version == version]
            mine.sort(key=lambda g: int(g.subnet.network_address))
            lasts = accumulate((int(g.subnet.broadcast_address) for g in mine), max)
            out[version] = [int(g.subnet.network_address) for g in mine], list(lasts), mine
        return out

    def hosts_in(self, version: int, low: int, high: int) -> list[HostGroup]:
        """Return the host groups that have addresses in an interval of numbers; none where it lies in no one subnet of the site's own."""
        firsts, lasts, groups = self._inside[version]
        near = groups[bisect_left(lasts, low) : bisect_right(firsts, high)]
        held = [g for g in near if any(a <= high and low <= b for a, b in self.host_spans(g))]
        return held if any(a <= low and high <= b for a, b in (span_of(g.subnet) for g in held)) else []

    @once
    def _held(self) -> dict[int, list[int]]:
        """Return the addresses no host can have as numbers, by family, sorted."""
        held = self.owned | self.strays | self.contested.keys()
        return {v: sorted(int(a) for a in held if a.version == v) for v in (4, 6)}

    @once
    def _endpoints(self) -> dict[int, list[HostGroup]]:
        """Return the groups of endpoints by domain, strays aside."""
        out: dict[int, list[HostGroup]] = {}
        for g in self.hosts:
            if g.endpoint and g.stray is None:
                out.setdefault(g.domain, []).append(g)
        return out

    @once
    def _strays(self) -> list[HostGroup]:
        """Return the groups of endpoints that stand where their address does not belong: it is no other host's anywhere."""
        return [g for g in self.hosts if g.endpoint and g.stray is not None]

    def host_spans(self, group: HostGroup) -> Intervals:
        """Return the addresses that hosts of a group may have, as numbers."""
        if group not in self._spans:
            spans = host_spans(group, self.hosts, [*self._endpoints.get(group.domain, ()), *self._strays], self._held)
            self._spans[group] = spans if group.behind else subtract(spans, self.claims.spans(group.subnet.version))
        return self._spans[group]

    @once
    def _holders(self) -> dict[Address, list[L3Interface]]:
        out: dict[Address, list[L3Interface]] = {}
        for interface in self.interfaces:
            for address in dict.fromkeys((*(a.ip for a in interface.addresses), *interface.standing, *interface.units)):
                out.setdefault(address, []).append(interface)
        return out

    def holders(self, address: Address) -> list[L3Interface]:
        """Return the interfaces that answer for an address as their own, or as elected for it, in document order."""
        return self._holders.get(address, [])

    def gateways(self, address: Address, near: Attachment | None = None) -> list[L3Interface]:
        """Return those of the holders of an address whose box routes; seen from an attachment, those before which no overlay lies come first."""
        return self._nearest([i for i in self.holders(address) if routes_packets(self.devices[i.device])], near)

    def answering(self, address: Address, near: Attachment | None = None) -> list[L3Interface]:
        """Return the interfaces that answer for an address on a link without being a host: they hold it, or claim it for a translation."""
        return self._nearest(self.holders(address) or self.claims.claimants(address), near)

    def _nearest(self, holders: list[L3Interface], near: Attachment | None) -> list[L3Interface]:
        """Of the gateways of one address that serve a stretched VLAN together, the one of the box at hand answers (RFC 9135 section 4.1)."""
        if len(holders) < 2 or near is None or not self.beside.intersection(holders):
            return holders
        return sorted(holders, key=lambda i: self._over(near, i))

    def _over(self, near: Attachment, interface: L3Interface) -> int:
        """Return how far an interface is: 0 without the overlay, 1 over it, 2 where frames do not get."""
        fabric = self.segments.fabric
        carriage = fabric.carry(near, interface.attachment) if interface.attachment is not None else None
        return 2 if carriage is None else int(fabric.over_overlay(carriage))

    @once
    def beside(self) -> frozenset[L3Interface]:
        """Return the interfaces that are gateways of a stretched VLAN and share an address with those of other boxes."""
        irbs = {
            (side.device, f"vlan{held.irb}")
            for side in sides(self.segments.fabric.design)
            for held, _, _ in stretched(side)
            if held.irb is not None
        }
        mine = [i for i in self.interfaces if (i.device, i.name) in irbs]
        held: dict[Address, list[L3Interface]] = {}
        for i in mine:
            for a in i.addresses:
                held.setdefault(a.ip, []).append(i)
        return frozenset(i for of in held.values() if len(of) > 1 for i in of)

    def next_hop_holders(self, hop: Address, egress: L3Interface) -> list[L3Interface]:
        """Return the interfaces of devices that route which answer for a next hop.

        An outside without an address of its own answers for any address of its link that nobody else holds (docs/semantics.md).
        """
        holders = [i for i in self.gateways(hop, egress.attachment) if i is not egress]
        if holders or egress.attachment is None:
            return holders
        return self.silent_outsides(hop, egress.attachment)

    def onto(self, route: TableRoute, egress: L3Interface) -> tuple[L3Interface, ...] | None:
        """Return who is to take a packet that follows a route out by an interface; None = whoever has its destination.

        A tunnel is a point-to-point link: a route into it needs no next hop, since there is one other end.
        """
        if route.hop is not None:
            return tuple(self.next_hop_holders(route.hop, egress))
        if egress.kind in ("tunnel", "overlay") and route.origin != "connected" and egress.attachment is not None:
            port = self.segments.fabric.ports[egress.attachment.box, egress.name]
            if isinstance(port.settings, VirtualPort) and port.settings.beyond:
                return None  # somebody else's network takes it: whoever has the destination there
            far = self.segments.fabric.at_port.get((port.peer, 0)) if port.peer else None
            return (self.by_attachment[far],) if far is not None and far in self.by_attachment else ()
        return None

    def silent_outsides(self, hop: Address, near: Attachment) -> list[L3Interface]:
        """Return the outsides without an address of their own that stand in the segment of an attachment and answer for a free address there."""
        here = self.segments.of_attachment.get(near.index)
        if hop in self.owned or here is None:
            return []
        return [
            i
            for i in self.interfaces
            if not i.addresses
            and i.attachment is not None
            and i.attachment.kind == "outside"
            and isinstance(self.devices[i.device], Outside)
            and self.segments.of_attachment.get(i.attachment.index) == here
            and any(hop in parse_prefix(n) for n in self.segments.all[here].subnets)
        ]

    def with_routes(self, segments: Segments, devices: set[str]) -> Network3 | None:
        """Return layer 3 of a design that differs in the static routes of some devices only: their tables are anew, the rest stays.

        None where any of that is told to others, who learn it.
        """
        own = build_tables(segments, self.interfaces, devices)
        if self.ospf is not None:
            known: dict[tuple[str, str], list[Known]] = {key: [] for key in own}
            if not self.ospf.knows_as(known | known_of(own)):
                return None
            own = with_learnt(segments, own, self.ospf)
        tables = self.tables | own
        return Network3(segments, self.interfaces, tables, self.hosts, self.claims, self.ospf, self._spans)


def speaks(design: Design) -> bool:
    """Tell whether any router of a design learns routes."""
    return any(v.ospf is not None for d in design.devices for v in getattr(d, "vrfs", []))


def on_overlay(design: Design) -> bool:
    """Tell whether any box of a design takes part in an overlay."""
    return any(
        getattr(d, "mac_vrfs", None) or any(v.on_overlay for v in getattr(d, "vrfs", [])) for d in design.devices
    )


def build_network(
    segments: Segments,
    conditions: Conditions = ALL_WELL,
    claims: Sequence[Claim] = (),
    leases: Leases | None = None,
    hellos: Hellos = lambda crossing, source, target: None,
    before: Network3 | None = None,
) -> Network3:
    """Compute layer 3 of a site. `before`: another state; a table that comes out the same is the same.

    `claims`: what its firewalls answer for because they translate it; `leases`: what clients were handed; `hellos`: why a filter on the way
    between two routers stops what they tell each other.
    """
    interfaces = elect(segments.fabric, l3_interfaces(segments.fabric, conditions))
    earlier = Earlier(before.segments, before.of_device, before.tables) if before is not None else None
    tables = build_tables(segments, interfaces, earlier=earlier)
    domain = Ospf(segments, interfaces, known_of(tables), hellos) if speaks(segments.fabric.design) else None
    if domain is not None:
        tables = with_learnt(segments, tables, domain)
    hosts = host_groups(segments, interfaces, leases or {})
    if on_overlay(segments.fabric.design):
        tables = with_told(segments, interfaces, tables, hosts)
    if before is not None:
        tables = {k: t if (known := before.tables.get(k)) is None or known != t else known for k, t in tables.items()}
    held = {a.ip for i in interfaces for a in i.addresses} | {g.first for g in hosts if g.endpoint}
    return Network3(segments, interfaces, tables, hosts, Claims(list(claims), interfaces, frozenset(held)), domain)
