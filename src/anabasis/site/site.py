"""One site as both engines see it: layers 1 to 3 and the policies, computed once from a checked design."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from ipaddress import IPv4Address, IPv6Address

from anabasis.design import Design, Tree
from anabasis.design.devices import Device, Firewall
from anabasis.design.notation import Address, looks_like_address, parse_prefix
from anabasis.design.routes import Route
from anabasis.fabric import ALL_WELL, Conditions, Fabric, Segments, build_fabric, compute_segments
from anabasis.once import changed, once
from anabasis.policy import Policies, build_policies
from anabasis.routing import (
    L3Interface,
    Network3,
    Table,
    TableRoute,
    build_network,
    look_up,
    on_overlay,
    routes_packets,
    speaks,
)
from anabasis.site.handed import Handed
from anabasis.site.hellos import hellos_through


def number_to_address(version: int, value: int) -> Address:
    """Return an address from its number."""
    return IPv4Address(value) if version == 4 else IPv6Address(value)


def rerouted(one: Design, two: Design, hears: bool = True) -> set[str] | None:
    """Return the devices whose static routes are not the same in two designs; None where more than routes and rules differs.

    `hears`: whether the rules let routers hear what they heard.
    """
    if one.vlans != two.vlans or one.cables != two.cables or len(one.devices) != len(two.devices):
        return None
    moved = [(a, b) for a, b in zip(one.devices, two.devices, strict=True) if _without_rules(a) != _without_rules(b)]
    if on_overlay(one) and moved:
        return None  # what one table knows, others are told
    if speaks(one) and not hears:
        return None  # what a filter lets through, others learn
    if any(_without_routes(a) != _without_routes(b) for a, b in moved):
        return None
    if one.addresses != two.addresses:  # a route to an address set goes with it
        named = {d.name for d in (*one.devices, *two.devices) if any(_to_a_set(r) for r in _routes(d))}
        if named and (on_overlay(one) or speaks(one)):
            return None
        return {a.name for a, _ in moved} | named
    return {a.name for a, _ in moved}


def _routes(device: Device) -> Iterator[Route]:
    yield from getattr(device, "routes", [])
    for vrf in getattr(device, "vrfs", []):
        yield from vrf.routes


def _to_a_set(route: Route) -> bool:
    return not looks_like_address(route.to)


def _without_rules(device: Device) -> Device:
    return device.model_copy(update={"rules": []}) if isinstance(device, Firewall) else device


def _without_routes(device: Device) -> Device:
    bare = [v.model_copy(update={"routes": []}) for v in getattr(device, "vrfs", [])]
    return _without_rules(device).model_copy(update={"vrfs": bare} if bare else {})


@dataclass(frozen=True)
class Site:
    """Everything below reach."""

    design: Design
    segments: Segments
    net: Network3
    policies: Policies
    conditions: Conditions = ALL_WELL
    """What has failed, and which units are active."""
    handed: Mapping[tuple[str, str], Handed] = field(default_factory=dict, compare=False, repr=False)
    """(endpoint, its interface) -> what became of its request for a lease."""
    _zones_at: dict[str, list[frozenset[str]]] = field(default_factory=dict, compare=False, repr=False)
    """What `zones_at` has found already: rules have no say in it."""

    @once
    def written(self) -> Tree:
        """Return the document as it is written, for edits to be tried on; nobody changes it in place."""
        tree: Tree = self.design.model_dump(mode="json", by_alias=True, exclude_unset=True)
        return tree

    @once
    def overlaid(self) -> bool:
        """Tell whether any box takes part in an overlay."""
        return on_overlay(self.design)

    @once
    def purposes(self) -> list[frozenset[str]]:
        """Return by segment what its VLANs are for."""
        of = {v.id: v.purpose for v in self.design.vlans if v.purpose is not None}
        return [frozenset(of[i] for i in s.vlan_ids if i in of) for s in self.segments.all]

    @once
    def zones(self) -> list[str | None]:
        """Return by segment the zone a firewall sees its hosts in: that of its interface there or in their subnet, else of its route to them."""
        walls = [i for i in self.net.interfaces if i.device in self.policies.of and i.zone]
        here: dict[int, str | None] = {}
        for interface in walls:
            if interface.attachment is not None and interface.attachment.index in self.segments.of_attachment:
                here.setdefault(self.segments.of_attachment[interface.attachment.index], interface.zone)
        near = sorted((a.version, int(a.ip), n) for n, i in enumerate(walls) for a in i.addresses)
        return [
            here.get(k) or self._zone_near(k, walls, near) or self._zone_routed(k)
            for k in range(len(self.segments.all))
        ]

    @property
    def zones_at(self) -> dict[str, list[frozenset[str]]]:
        """Return by firewall, then by segment, the zones in which that firewall meets its hosts: a segment has a zone per firewall.

        It is that of the firewall's interface in the segment, else that of its route to the hosts; behind another firewall as well.
        """
        for name in self.policies.of:
            if name not in self._zones_at:
                self._zones_at[name] = self._zones_of(name)
        return self._zones_at

    def _zones_of(self, firewall: str) -> list[frozenset[str]]:
        walls = [i for i in self.net.interfaces if i.device == firewall and i.zone]
        near = sorted((a.version, int(a.ip), n) for n, i in enumerate(walls) for a in i.addresses)
        here: dict[int, set[str]] = {}
        for i in walls:
            if i.attachment is not None and i.attachment.index in self.segments.of_attachment and i.zone:
                here.setdefault(self.segments.of_attachment[i.attachment.index], set()).add(i.zone)
        tables = [(vrf, t) for (device, vrf), t in self.net.tables.items() if device == firewall]
        out: list[frozenset[str]] = []
        for k in range(len(self.segments.all)):
            zone = None if k in here else self._zone_near(k, walls, near)
            out.append(frozenset(here.get(k) or ((zone,) if zone else self._zones_routed(firewall, k, tables))))
        return out

    def _zones_routed(self, firewall: str, segment: int, tables: list[tuple[str, Table]]) -> Iterator[str]:
        """Yield the zones that routes of a firewall lead to the hosts of a segment by."""
        for group in self.net.groups_of[segment]:
            spans = self.net.host_spans(group)
            address = number_to_address(group.subnet.version, spans[0][0]) if spans else group.subnet[0]
            for vrf, table in tables:
                route = look_up(table, address).winner
                egress = self.net.by_name.get((firewall, route.interface or "")) if route is not None else None
                if egress is not None and egress.vrf == vrf and egress.zone:
                    yield egress.zone

    def _zone_near(self, segment: int, walls: list[L3Interface], near: Sequence[tuple[int, int, int]]) -> str | None:
        """Find an interface with an address in a subnet: one that is down, or cut off, still says where its hosts belong.

        `near`: (version, address, number in `walls`) of every address of the interfaces, sorted.
        """
        if self.segments.all[segment].kind == "outside":
            return None
        found: list[int] = []
        for subnet in map(parse_prefix, self.segments.all[segment].subnets):
            low, high = int(subnet.network_address), int(subnet.broadcast_address)
            first, last = (
                bisect_left(near, (subnet.version, low, -1)),
                bisect_left(near, (subnet.version, high + 1, -1)),
            )
            found += [n for _, _, n in near[first:last]]
        return walls[min(found)].zone if found else None

    def _zone_routed(self, segment: int) -> str | None:
        for group in self.net.groups_of[segment]:
            for (device, vrf), table in self.net.tables.items():
                route = look_up(table, group.subnet[0]).winner if device in self.policies.of else None
                egress = self.net.by_name.get((device, route.interface or "")) if route else None
                if egress is not None and egress.vrf == vrf and egress.zone:
                    return egress.zone
        return None

    def connected_to(self, address: Address) -> list[TableRoute]:
        """Return the connected routes of boxes that route, in force or not, that take an address in."""
        number, width = int(address), 32 if address.version == 4 else 128
        found: list[tuple[int, TableRoute]] = []
        for length in self._lengths[address.version]:
            found += self._connected.get((address.version, length, number >> (width - length)), [])
        return [route for _, route in sorted(found, key=lambda x: x[0])]

    @once
    def _connected(self) -> dict[tuple[int, int, int], list[tuple[int, TableRoute]]]:
        """Return connected routes with their number among all, by version, prefix length, and the bits of the prefix."""
        out: dict[tuple[int, int, int], list[tuple[int, TableRoute]]] = {}
        routing = (t for t in self.net.tables.values() if routes_packets(self.net.devices[t.device]))
        every = (r for t in routing for r in t.routes if r.origin == "connected")
        for n, route in enumerate(every):
            net = route.to
            bits = int(net.network_address) >> (net.max_prefixlen - net.prefixlen)
            out.setdefault((net.version, net.prefixlen, bits), []).append((n, route))
        return out

    @once
    def _lengths(self) -> dict[int, list[int]]:
        return {v: sorted({length for version, length, _ in self._connected if version == v}) for v in (4, 6)}

    def stands_on(self, other: Site) -> bool:
        """Tell whether everything below the rules is that of another state: layers 1 to 3, zones and translations."""
        return self.net is other.net and self._translates_as(other)

    def _translates_as(self, other: Site) -> bool:
        mine, theirs = self.policies.translating, other.policies.translating
        if self.policies.steering != other.policies.steering:
            return False
        return mine.keys() == theirs.keys() and all(
            (p.translations, p.zone_kinds) == (theirs[name].translations, theirs[name].zone_kinds)
            for name, p in mine.items()
        )

    def routes_alone_differ(self, other: Site) -> bool:
        """Tell whether all that forwarding asks for is that of another state, but for the static routes of some devices."""
        return self.net.interfaces is other.net.interfaces and self._translates_as(other)

    def described_by(self, design: Design) -> Site:
        """Return the same site for a design that differs in notes alone."""
        segments = changed(self.segments, fabric=self.fabric.described_by(design))
        net = changed(self.net, drop=("devices",), segments=segments)
        return changed(self, drop=("written",), design=design, segments=segments, net=net)

    def item_of(self, device: str) -> str:
        """Return the pointer of a device."""
        return self._items[device]

    @once
    def _items(self) -> dict[str, str]:
        return {d.name: f"/devices/{i}" for i, d in enumerate(self.design.devices)}

    @property
    def fabric(self) -> Fabric:
        """Return layers 1 and 2."""
        return self.segments.fabric


def bare_site(
    design: Design, conditions: Conditions = ALL_WELL, before: Site | None = None, fabric: Fabric | None = None
) -> Site:
    """Climb from the document to the policies, nobody holding a lease yet.

    `before`: another state; layers 1 to 3 are taken over where they are the same and its conditions are, else policies and tables that are. `fabric`: layers 1 and 2, where they are known.
    """
    policies = build_policies(
        design, (before.design, before.policies) if before is not None else None, conditions.tunnels
    )
    if before is not None and before.conditions == conditions and policies.claims == before.policies.claims:
        domain = before.net.ospf
        moved = rerouted(design, before.design, domain is None or domain.hears_as(hellos_through(policies)))
        site = _on(before, design, policies, moved) if moved is not None else None
        if site is not None:
            return site
    segments = compute_segments(fabric or build_fabric(design, conditions))
    known = before.net if before is not None else None
    net = build_network(segments, conditions, policies.claims, hellos=hellos_through(policies), before=known)
    return Site(design, segments, net, policies, conditions)


def with_leases(site: Site, handed: Mapping[tuple[str, str], Handed]) -> Site:
    """Return a site whose clients stand with what they were handed."""
    leases = {k: h.leased for k, h in handed.items() if h.leased is not None}
    known = {k: h.leased for k, h in site.handed.items() if h.leased is not None}
    if leases == known:
        return replace(site, handed=handed) if handed else site
    hellos = hellos_through(site.policies)
    net = build_network(site.segments, site.conditions, site.policies.claims, leases, hellos, site.net)
    return replace(site, net=net, handed=handed, _zones_at={})


def _on(before: Site, design: Design, policies: Policies, rerouted: set[str]) -> Site | None:
    """Return a site on the cables, segments and interfaces of another state: only the tables of devices with other routes are anew.

    None where others learn of those routes.
    """
    if not rerouted:
        known = before._zones_at
        return Site(design, before.segments, before.net, policies, before.conditions, before.handed, known)
    segments = replace(before.segments, fabric=before.fabric.described_by(design))
    net = before.net.with_routes(segments, rerouted)
    return Site(design, segments, net, policies, before.conditions, before.handed) if net is not None else None
