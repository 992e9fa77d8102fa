"""Why a packet goes astray: the lowest thing that is wrong, not the box that noticed.

A missing route is named on the box that should have it: one whose lookup falls to a shorter prefix or to nothing, while a neighbour of it
leads on to the destination. What then happens to the packet (a loop, an outside that keeps or drops it) is a symptom.
"""

from __future__ import annotations

from anabasis.design.devices import Firewall, RoutingBox
from anabasis.design.notation import Address, is_private
from anabasis.design.routes import Vrf
from anabasis.design.rules import Translating
from anabasis.fabric import Segment
from anabasis.facts import Cause, Layer, Values, Wrong, because
from anabasis.routing import (
    HostGroup,
    L3Interface,
    TableRoute,
    look_up,
    misaddressed,
    routes_packets,
)
from anabasis.site import Site
from anabasis.trace.packet import Exit, RouteLookup
from anabasis.trace.tenants import has_tenants, not_told, of_a_tenant
from anabasis.trace.trip import Trip

MOST_HOPS = 32
"""How many boxes a packet may pass before a way is taken for none."""
SYMPTOMS = frozenset(
    (Wrong.LOOP, Wrong.KEPT, Wrong.PRIVATE_DROPPED, Wrong.NO_ROUTE, Wrong.NOBODY_THERE, Wrong.BEHIND_OTHER, Wrong.CLAIMED, Wrong.NO_SESSION)
)  # fmt: skip
"""What a packet that went the wrong way ends in."""
BELOW = frozenset((Layer.LINK, Layer.VLAN, Layer.ISOLATION, Layer.UNDERLAY))
"""Layers below the tables of tenants."""


def lowest(site: Site, trip: Trip) -> Cause | None:
    """Return the lowest cause of a stop: what the trip says, unless that is a symptom of something below it."""
    cause = trip.cause
    if cause is None:
        return None
    missed = trip.missed
    if missed is not None and missed.cause is not None and cause.root.layer not in (Layer.LINK, Layer.VLAN):
        values: Values = {"device": missed.device, "to": str(missed.to)}
        return because(Layer.ROUTE, Wrong.ROUTE_INACTIVE, missed.pointer, under=missed.cause, values=values)
    target = trip.target.group
    stray = target.stray if target is not None else None
    if stray is not None and cause.root.wrong in SYMPTOMS:
        return stray
    if cause.root.layer not in BELOW and (tenant := of_a_tenant(site, trip)) is not None:
        return tenant
    if cause.root.wrong not in SYMPTOMS and not (cause.layer == Layer.RULE and _strayed(site, trip)):
        return cause
    return _elsewhere(site, trip) or stray or _untranslated(site, trip, cause) or cause


def _strayed(site: Site, trip: Trip) -> bool:
    """Tell whether a firewall stopped a packet that should never have come by it: it was on its way to an outside, and its goal is not there."""
    if any(has_tenants(site, k.device) and k.vrf != "main" for k in trip.lookups):
        return False  # tenants meet past the firewall, and nowhere else
    target, last = trip.target.group, trip.lookups[-1] if trip.lookups else None
    if target is None or target.behind or last is None or last.route is None:
        return False
    return last.route.to.prefixlen < target.subnet.prefixlen


def _elsewhere(site: Site, trip: Trip) -> Cause | None:
    """Return which box, or interface, should have led the packet to its destination."""
    target = trip.target
    if target.group is not None and not target.group.behind and target.segment is not None:
        gone = _unserved(site, target.group, site.segments.all[target.segment])
        if gone is not None:
            return gone
    for lookup in trip.lookups:
        found = _should_know(site, lookup)
        if found is not None:
            return found
    return None


def _unserved(site: Site, group: HostGroup, segment: Segment) -> Cause | None:
    """Return why no box has a connected route that takes in a host: its interface is down, mistyped, too narrow, or there is none."""
    address = group.first if group.endpoint else group.subnet[-2] if group.subnet.num_addresses > 2 else group.first
    connected = site.connected_to(address)
    if any(r.active for r in connected):
        return None
    down = next(iter(connected), None)
    if down is not None and down.cause is not None:
        return down.cause.root
    for interface in site.net.interfaces:
        wrong = misaddressed(site.segments, interface, address)
        if wrong is not None and routes_packets(site.net.devices[interface.device]) and not interface.management:
            return wrong
    if segment.kind != "outside" and group.cause is not None and group.gateway is None:
        return group.cause
    if group.endpoint and group.gateway is not None and _serving(site, segment) and not site.net.holders(group.gateway):
        return no_gateway(site, group, segment)
    return None


def _should_know(site: Site, lookup: RouteLookup) -> Cause | None:
    """Return that a box lacks a route: another VRF of it, or a neighbour, leads to the destination."""
    address, device = lookup.destination, lookup.device
    if _leads(site, device, lookup.vrf, address):
        return None
    told = not_told(site, lookup) if lookup.route is None else None
    if told is not None:
        return told
    own = [i for i in site.net.of_device[device] if i.up]
    apart = [i for i in own if i.vrf != lookup.vrf and i.subnet_of(address)]
    others = [v for (d, v) in site.net.tables if d == device and v != lookup.vrf]
    if _joined(site, device, lookup.vrf) or has_tenants(site, device):
        apart, others = (
            [],
            [],
        )  # routes lead from VRF to VRF, or tables are tenants': what is left out is meant to be apart
    if not apart and any(_leads(site, device, v, address) for v in others):
        apart = [lookup.ingress] if lookup.ingress is not None else [i for i in own if i.vrf != lookup.vrf]
    if apart:
        lone = min(
            apart + ([lookup.ingress] if lookup.ingress is not None else []),
            key=lambda i: sum(j.vrf == i.vrf for j in own),
        )
        values: Values = {"interface": lone.label, "vrf": lone.vrf, "address": str(address)}
        other = lookup.vrf if lone.vrf != lookup.vrf else next(iter(others), "main")
        return because(Layer.ROUTE, Wrong.OTHER_VRF, lone.pointer, values=values | {"other": other})
    untold = unlearnt(site, lookup)
    if untold is not None:
        return untold
    for near in own if routes_packets(site.net.devices[device]) else []:
        if near.vrf != lookup.vrf or near.attachment is None:
            continue
        for next_door in site.net.next_door(near):
            if _leads(site, next_door.device, next_door.vrf, address, (device,)):
                return _lacks(site, lookup, next_door, near)
    return None


def unlearnt(site: Site, lookup: RouteLookup) -> Cause | None:
    """Return why a router that learns its routes has not learnt this one: two that should be neighbours and are not, or a subnet that nobody is told of.

    Tried, the lowest first: if the two were neighbours, it would have a route.
    """
    domain, me, address = site.net.ospf, (lookup.device, lookup.vrf), lookup.destination
    if domain is None or me not in domain.routers:
        return None
    apart = [u for u in domain.unlike if u.version == address.version]
    depth = lookup.route.to.prefixlen if lookup.route is not None else -1
    apart.sort(key=lambda u: u.cause.root.layer != Layer.LINK)
    trials = [(u.cause, [pair]) for u in apart for pair in ((u.one, u.two), (u.two, u.one))]
    trials += [(u.cause, [(v.one, v.two) for v in apart]) for u in apart[:1]]  # one item may keep several apart
    for cause, pairs in trials:
        learnt = domain.with_forced(pairs).learnt[me]
        if any(r.to.version == address.version and r.to.prefixlen > depth and address in r.to for r in learnt):
            return _not_learnt(site, lookup, cause)
    for interface in site.net.interfaces:
        own, router = interface.subnet_of(address), (interface.device, interface.vrf)
        if own is None or not interface.up or router == me:
            continue
        if router not in domain.routers:
            told_in = _spoken_of_in(site, interface)
            if told_in is not None and (interface.device, told_in) in domain.routers:
                values: Values = {"interface": interface.label, "vrf": interface.vrf, "address": str(address)}
                return because(Layer.ROUTE, Wrong.OTHER_VRF, interface.pointer, values=values | {"other": told_in})
            continue
        default = domain.keeps_default(router, address.version) if depth < 0 else None
        if default is not None:
            return _not_learnt(site, lookup, default)
        if not domain.tells(router, own.network):
            return _not_learnt(site, lookup, domain.untold(interface, own.network))
    for router in domain.routers if depth < 0 else ():
        default = domain.keeps_default(router, address.version) if router != me else None
        if default is not None and _leads(site, *router, address, (lookup.device,)):
            return _not_learnt(site, lookup, default)
    lacking = _without_default(site, me, address) if depth < 0 else None
    return _not_learnt(site, lookup, lacking) if lacking is not None else None


def _spoken_of_in(site: Site, interface: L3Interface) -> str | None:
    """Return another VRF of a box whose OSPF speaks of an interface; None where none does."""
    vrfs: list[Vrf] = getattr(site.net.devices[interface.device], "vrfs", [])
    spoken = (v.name for v in vrfs if v.ospf and interface.name in {i.interface for i in v.ospf.interfaces})
    return next((name for name in spoken if name != interface.vrf), None)


def _without_default(site: Site, me: tuple[str, str], address: Address) -> Cause | None:
    """Return that the one router that would announce its default route to the others has none itself."""
    domain = site.net.ospf
    others = [r for r in (domain.routers if domain is not None else ()) if r != me]
    telling = [r for r in others if domain is not None and domain.settings(r).announce_default == "when-known"]
    if len(telling) != 1:
        return None
    device, vrf = telling[0]
    table = site.net.tables.get((device, vrf))
    held = (
        [r for r in table.routes if r.to.prefixlen == 0 and r.to.version == address.version]
        if table is not None
        else []
    )
    if not _is_beyond(site, address) and not (held and _leads(site, device, vrf, address, (me[0],))):
        return None  # its default would not have led there
    if held and all(r.cause is not None for r in held):
        lost: Values = {"device": device, "to": str(held[0].to)}
        return because(Layer.ROUTE, Wrong.ROUTE_INACTIVE, held[0].pointer, under=held[0].cause, values=lost)
    if not _is_beyond(site, address):
        return None
    values: Values = {"device": device, "address": str(address), "vrf": vrf}
    return because(Layer.ROUTE, Wrong.NO_ROUTE, table_item(site, device, vrf), site.item_of(device), values=values)


def _not_learnt(site: Site, lookup: RouteLookup, under: Cause) -> Cause:
    values: Values = {"device": lookup.device, "address": str(lookup.destination), "vrf": lookup.vrf}
    at = f"{table_item(site, lookup.device, lookup.vrf)}/ospf"
    return because(Layer.ROUTE, Wrong.NO_ROUTE, at, under=under, values=values)


def _joined(site: Site, device: str, vrf: str) -> bool:
    """Tell whether routes lead out of a VRF into another of its box, or into it."""
    tables = [t for (d, _), t in site.net.tables.items() if d == device]
    return any(r.next_vrf and vrf in (r.vrf, r.next_vrf) for t in tables for r in t.routes)


def _lacks(site: Site, lookup: RouteLookup, next_door: L3Interface, near: L3Interface) -> Cause:
    version = lookup.destination.version
    hop = next((str(a.ip) for a in next_door.addresses if a.version == version and near.subnet_of(a.ip)), "")
    values: Values = {"device": lookup.device, "address": str(lookup.destination), "vrf": lookup.vrf, "hop": hop}
    route = lookup.route
    if route is not None and route.origin == "static" and (route.to.prefixlen or _is_beyond(site, lookup.destination)):
        said = values | {"to": str(route.to), "by": route.goes_to or route.interface or ""}
        return because(Layer.ROUTE, Wrong.ROUTE_ASTRAY, route.pointer, values=said)
    guilty = (table_item(site, lookup.device, lookup.vrf), site.item_of(lookup.device))
    return because(Layer.ROUTE, Wrong.NO_ROUTE, *guilty, values=values)


def _is_beyond(site: Site, address: Address) -> bool:
    """Tell whether an address lies in no subnet of the site: then a default route is what should lead there."""
    return not site.segments.holds(address)


def table_item(site: Site, device: str, vrf: str) -> str:
    """Return the pointer of a routing table as written: its VRF, or the box where the document has none."""
    at = site.item_of(device)
    names = [v.name for v in getattr(site.net.devices[device], "vrfs", [])]
    return f"{at}/vrfs/{names.index(vrf)}" if vrf in names else at


def _leads(site: Site, device: str, vrf: str, address: Address, seen: tuple[str, ...] = ()) -> bool:
    """Tell whether tables lead a packet from a box to whoever has an address; frames and rules aside."""
    while device not in seen and len(seen) < MOST_HOPS:
        seen = (*seen, device)
        visited: list[str] = []
        route = None
        while vrf not in visited:
            visited.append(vrf)
            table = site.net.tables.get((device, vrf))
            route = look_up(table, address).winner if table is not None else None
            if route is None or route.next_vrf is None:
                break
            vrf = route.next_vrf
        if route is None or route.discard or route.next_vrf:
            return False
        if route.origin == "behind":
            return _is_beyond(site, address)
        if route.hop is None:
            return True
        egress = site.net.by_name.get((device, route.interface or ""))
        holders = site.net.next_hop_holders(route.hop, egress) if egress is not None else []
        if not holders:
            return False
        device, vrf = holders[0].device, holders[0].vrf
    return False


def no_gateway(site: Site, group: HostGroup, segment: Segment) -> Cause:
    """Return why nobody answers for a gateway: its box does not route, the interface has another address, or the setting is wrong."""
    gateway = group.gateway
    assert gateway is not None
    for holder in site.net.holders(gateway):
        if not routes_packets(site.net.devices[holder.device]):
            values: Values = {"device": holder.device, "address": str(gateway)}
            at = site.item_of(holder.device)
            return because(Layer.GATEWAY, Wrong.ROUTING_OFF, f"{at}/routing", holder.pointer, values=values)
    if group.cause is not None:
        return group.cause
    serving = _serving(site, segment)
    if any(i.subnet_of(gateway) for i in serving):  # the subnet has its gateway, and this is another address
        values = {"gateway": str(gateway)}
        return because(Layer.GATEWAY, Wrong.GATEWAY_NOBODY, group.pointer, values=values)
    meant = _meant_for(site, segment)
    for i in meant:
        if any(a.ip in group.subnet for a in i.addresses if a.version == group.subnet.version):
            continue
        has = [str(a) for a in i.addresses if a.version == gateway.version]
        wrong = Wrong.ADDRESS_MISTYPED if has else Wrong.ADDRESS_MISSING
        values = {"interface": i.label, "has": ", ".join(has), "subnet": str(group.subnet), "segment": segment.name}
        return because(Layer.GATEWAY, wrong, i.pointer, group.pointer, values=values)
    return because(Layer.GATEWAY, Wrong.GATEWAY_NOBODY, group.pointer, gateway=str(gateway))


def _serving(site: Site, segment: Segment) -> list[L3Interface]:
    """Return the interfaces of routing boxes in the broadcast domain of a segment."""
    of = site.segments
    return [
        i
        for i in site.net.interfaces
        if i.attachment is not None
        and of.all[of.of(i.attachment)].domain == segment.domain
        and routes_packets(site.net.devices[i.device])
    ]


def _meant_for(site: Site, segment: Segment) -> list[L3Interface]:
    """Return the interfaces that stand in a segment, or carry its VLAN, on boxes that route."""
    names = {f"vlan{v}" for v in segment.vlan_ids}
    tags = {str(v) for v in segment.vlan_ids}
    routing = [i for i in site.net.interfaces if routes_packets(site.net.devices[i.device])]
    inside = _serving(site, segment)
    return inside or [i for i in routing if i.name in names or i.name.rpartition(".")[2] in tags]


def hop_nobody(site: Site, route: TableRoute, egress: L3Interface) -> Cause:
    """Return why nobody answers for a next hop: its box does not route, or the interface that should have it has another address."""
    assert route.hop is not None
    for holder in site.net.holders(route.hop):
        if not routes_packets(site.net.devices[holder.device]):
            values: Values = {"device": holder.device, "address": str(route.hop)}
            return because(Layer.GATEWAY, Wrong.ROUTING_OFF, f"{site.item_of(holder.device)}/routing", values=values)
    if egress.attachment is not None:
        for near in site.net.next_door(egress):
            has = [str(a) for a in near.addresses if a.version == route.hop.version]
            subnet = egress.subnet_of(route.hop)
            if subnet is not None and not any(
                a.ip in subnet.network for a in near.addresses if a.version == route.hop.version
            ):
                wrong = Wrong.ADDRESS_MISTYPED if has else Wrong.ADDRESS_MISSING
                segment = site.segments.all[site.segments.of(egress.attachment)].name
                values = {
                    "interface": near.label,
                    "has": ", ".join(has),
                    "subnet": str(subnet.network),
                    "segment": segment,
                }
                return because(Layer.GATEWAY, wrong, near.pointer, route.pointer, values=values)
    down = next((i for i in site.net.interfaces if any(a.ip == route.hop for a in i.addresses) and not i.up), None)
    if down is not None and down.cause is not None:
        return down.cause.root
    return because(Layer.ROUTE, Wrong.HOP_NOBODY, f"{route.pointer}/via", route.pointer, hop=str(route.hop))


def _untranslated(site: Site, trip: Trip, cause: Cause) -> Cause | None:
    """A private source let out to an outside: the last firewall on the way should have translated it."""
    if cause.root.wrong != Wrong.PRIVATE_DROPPED or not trip.exits:
        return None
    left = _should_translate(site, trip.exits)
    device = site.net.devices[left.device]
    if not isinstance(device, Firewall | RoutingBox):
        return None
    sides = [(i.zone or "") if isinstance(device, Firewall) else i.name for i in (left.ingress, left.egress)]
    at, outside = site.item_of(left.device), str(cause.root.value("outside"))
    base: Values = {"device": left.device, "outside": outside, "address": str(left.header.source)}
    for i, entry in enumerate(device.nat):
        miss = _miss(site, entry, left, sides)
        if miss is not None:
            wrong, what = miss
            values = base | {"entry": entry.name, "what": what}
            return because(Layer.NAT, wrong, f"{at}/nat/{i}", values=values)
    zones = {"from_zone": sides[0], "to_zone": sides[1]}
    return because(Layer.NAT, Wrong.NOT_TRANSLATED, f"{at}/nat", at, values=base | zones)


def no_place(site: Site, segment: Segment) -> Cause:
    """Return why no host stands in a segment: a port is there for it and the table of its box lacks the VLAN, else no port is."""
    for vlan in segment.vlan_ids:
        for port in site.fabric.ports.values():
            if port.bridges and vlan in port.settings.member_of and not site.fabric.carries(port.box, vlan):
                at = f"{site.item_of(port.device)}/vlans"
                return because(Layer.VLAN, Wrong.NOT_IN_TABLE, at, port.pointer, vlan=vlan, device=port.device)
    return because(Layer.VLAN, Wrong.NO_PLACE, segment.pointer, segment=segment.name)


def _should_translate(site: Site, exits: list[Exit]) -> Exit:
    """Return where a source ought to have been translated: at the last firewall, else the last box that translates at all, else the first that leads from private into public addresses."""
    for known in (site.policies.of, site.policies.translating):
        found = [e for e in exits if e.device in known]
        if found:
            return found[-1]
    public = (e for e in exits if any(not is_private(a.ip) for a in e.egress.addresses))
    return next(public, exits[-1])


def _miss(site: Site, entry: Translating, left: Exit, sides: list[str]) -> tuple[Wrong, str] | None:
    """Return how a translation of sources just misses a packet; None where it was never meant for it."""
    if entry.source_to is None:
        return None
    number = int(left.header.source)
    spans = site.policies.terms.addresses(entry.sources)
    holds = any(f == left.header.source.version and low <= number <= high for f, low, high in spans)
    wanted = (sides[0], entry.from_), (sides[1], entry.to)
    fits = [side in names or "any" in names for side, names in wanted]
    if not entry.enabled:
        return (Wrong.TRANSLATION_OFF, "") if holds and all(fits) else None
    if holds and not all(fits):
        return Wrong.TRANSLATION_MISSES, " to ".join(sides)
    if all(fits) and not holds:
        return Wrong.TRANSLATION_MISSES, str(left.header.source)
    return None
