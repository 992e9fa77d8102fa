"""The journey of one packet in one direction: host, frame, route, rule, and so on to its end (docs/semantics.md, "Frames and segments" to "Policy")."""

from __future__ import annotations

from anabasis.causes import Cause, Layer, Values, Wrong, because
from anabasis.design.devices import Outside
from anabasis.design.notation import is_private
from anabasis.fabric import Attachment, Segment
from anabasis.policy import Policy
from anabasis.routing import HostGroup, L3Interface, Lookup, TableRoute, kept_apart, look_up, routes_packets
from anabasis.site import Place, Site
from anabasis.trace.carrying import to_link, to_one_of
from anabasis.trace.filtering import answer, between, enter, filtered, leave, own_reply, zone_fits
from anabasis.trace.lowest_cause import hop_nobody, lowest, no_gateway, no_place, table_item
from anabasis.trace.state import At, Exit, Forks, Header, Lookup3, Trip


def request(site: Site, source: Place, target: Place, header: Header, forks: Forks) -> Trip:
    """Send a packet that opens a session of its own."""
    return _travel(site, Trip(source, target, header, None, None, forks))


def reply(site: Site, asked: Trip, source: Place, forks: Forks) -> Trip:
    """Send the reply to a packet that arrived, from whoever received it."""
    header = Header(asked.header.destination, asked.header.source, asked.header.service)
    same = asked.source.address == header.destination
    target = asked.source if same else Place(str(header.destination), header.destination, None, None, None)
    return _travel(site, Trip(source, target, header, tuple(asked.crossed), asked.source, forks))


def _travel(site: Site, trip: Trip) -> Trip:
    at = _set_out(site, trip)
    seen: set[At] = set()
    while at is not None:
        if at in seen:
            guilty = [h.pointer for h in trip.hops if h.stage == "route"][-2:]
            trip.stop(because(Layer.ROUTE, Wrong.LOOP, *guilty, device=at.device), at.device, "route")
            break
        seen.add(at)
        at = _pass(site, trip, at)
    if trip.outcome == "stopped":
        found = lowest(site, trip)
        if found is not None and found is not trip.cause:
            last = trip.hops.pop()
            trip.stop(found, last.device, last.stage, last.zones)
    return trip


def _set_out(site: Site, trip: Trip) -> At | None:
    """What the sender does first (docs/semantics.md, "Hosts"): on its link straight to the target, else to its gateway."""
    source, text = trip.source, str(trip.header.source)
    if source.interface is not None:
        said = f"{source.label} sends from its own address {source.address}"
        trip.note(source.interface.device, "host", "gateway", said, source.interface.pointer, text)
        if trip.sessions is not None:
            own_reply(site, trip, source)
        return At(source.interface.device, source.interface.vrf, None, trip.header)
    group = source.group
    assert group is not None
    assert source.segment is not None
    segment = site.segments.all[source.segment]
    address = trip.header.destination
    if group.behind:
        said = f"{source.address} sends from behind {group.behind}"
        trip.note(group.behind, "host", "gateway", said, segment.pointer, text)
        return At(group.behind, "main", None, trip.header)
    if source.attachment is None:
        cause = no_place(site, segment)
        trip.stop(cause, segment.name, "host")
        return None
    place = source.attachment.device
    if source.address in site.net.contested:
        trip.stop(site.net.contested[source.address], place, "host")
        return None
    if address.version == group.subnet.version and group.on_link and address in group.subnet:
        said = f"{address} is on the link of {source.address}: sent straight to it"
        trip.note(place, "host", "gateway", said, group.pointer, text)
        return to_link(site, trip, source.attachment, place, group.pointer)
    gateway = group.gateway
    if (
        gateway is None
        or not group.can_use
        or (group.stray is not None and not _heard_by_gateway(site, group, source.attachment))
    ):
        cause = group.stray or group.cause or _without(group, segment)
        trip.stop(cause, place, "host")
        return None
    assumed = ", assumed: nothing says so, and it is the only one there" if group.assumed else ""
    said = f"{address} is elsewhere: {source.label} ({source.address}) sends to its gateway {group.gateway}{assumed}"
    trip.note(place, "host", "gateway", said, group.pointer, text)
    holders = site.net.gateways(gateway) or site.net.silent_outsides(gateway, source.attachment)
    if not holders:
        trip.stop(no_gateway(site, group, segment), place, "host")
        return None
    return to_one_of(site, trip, source.attachment, holders)


def _pass(site: Site, trip: Trip, at: At) -> At | None:
    """Take the packet through one device; return where it comes out, or None at the journey's end."""
    policy = site.policies.translating.get(at.device)
    if at.ingress is not None and not _come_in(site, trip, policy, at.ingress):
        return None
    vrf, before = at.vrf, list[str]()
    while True:
        route = _choose_route(site, trip, at, vrf)
        if route is None or not route.next_vrf:
            return _forward(site, trip, at, route, policy) if route else None
        before.append(vrf)
        vrf = route.next_vrf
        if vrf in before:
            values: Values = {"vrfs": ", ".join(before), "device": at.device}
            trip.stop(because(Layer.ROUTE, Wrong.VRF_LOOP, route.pointer, values=values), at.device, "route")
            return None


def _choose_route(site: Site, trip: Trip, at: At, vrf: str) -> TableRoute | None:
    """Look the destination up in one VRF; return the route to follow, or None where the journey ends here."""
    address, name = trip.header.destination, at.device
    found = look_up(site.net.tables[name, vrf], address)
    trip.missed = trip.missed or found.missed
    if not found.shared:
        trip.lookups.append(Lookup3(name, vrf, at.ingress, address, None))
        _no_route(site, trip, name, vrf, found)
        return None
    route = found.shared[trip.forks.pick(len(found.shared))] if len(found.shared) > 1 else found.shared[0]
    trip.lookups.append(Lookup3(name, vrf, at.ingress, address, route))
    if route.origin == "local" and address in site.net.contested and trip.sessions is None:
        trip.stop(site.net.contested[address], name, "answers")
        return None
    if route.origin == "local":
        answer(site, trip, name, at.ingress, site.net.by_name[name, route.interface or ""])
        return None
    standing = next((i for i in site.net.interfaces if i.device == name and address in i.standing), None)
    if standing is not None:
        values: Values = {"interface": standing.label, "address": str(address)}
        trip.stop(because(Layer.ANSWERS, Wrong.NO_ACCEPT_MODE, standing.pointer, values=values), name, "answers")
        return None
    if at.ingress is not None and not routes_packets(site.net.devices[name]):
        values = {"device": name, "address": ", ".join(str(a.ip) for a in at.ingress.addresses)}
        cause = because(Layer.GATEWAY, Wrong.ROUTING_OFF, _at(site, name, "routing"), values=values)
        trip.stop(cause, name, "route")
        return None
    trip.note(name, "route", "route", _route_text(route, len(found.shared)), route.pointer, str(route.to))
    return route


def _come_in(site: Site, trip: Trip, policy: Policy | None, ingress: L3Interface) -> bool:
    device = site.net.devices[ingress.device]
    zone = f" (zone {ingress.zone})" if ingress.zone else ""
    layer = "zone" if policy and policy.filters else "gateway"
    trip.note(ingress.device, "interface", layer, f"{ingress.label} receives it{zone}", ingress.pointer, ingress.name)
    if policy:
        if not zone_fits(trip, policy, ingress):
            return False
        enter(site, trip, policy, policy.side(ingress))
    if isinstance(device, Outside) and not device.accepts_private and is_private(trip.header.source):
        source = trip.header.source
        values: Values = {"outside": ingress.device, "address": str(source)}
        place = _at(site, ingress.device, "accepts_private")
        trip.stop(because(Layer.NAT, Wrong.PRIVATE_DROPPED, place, values=values), ingress.device, "interface")
        return False
    return True


def _no_route(site: Site, trip: Trip, device: str, vrf: str, found: Lookup) -> None:
    lost = found.losers[0] if found.losers else None
    values: Values = {"device": device, "address": str(trip.header.destination), "vrf": vrf}
    under = lost.cause if lost is not None else None
    at = table_item(site, device, vrf)
    guilty = (lost.pointer,) if lost is not None else (at, _at(site, device))
    trip.stop(because(Layer.ROUTE, Wrong.NO_ROUTE, *guilty, under=under, values=values), device, "route")


def _forward(site: Site, trip: Trip, at: At, route: TableRoute, policy: Policy | None) -> At | None:
    if route.discard:
        values: Values = {"device": at.device, "to": str(route.to)}
        trip.stop(because(Layer.ROUTE, Wrong.DISCARDED, route.pointer, values=values), at.device, "route")
        return None
    if route.origin == "behind":
        _behind(trip, at, route)
        return None
    assert route.interface is not None
    egress = site.net.by_name[at.device, route.interface]
    if route.hop is None and any(i.device == at.device for i in site.net.claims.claimants(trip.header.destination)):
        values = {"device": at.device, "address": str(trip.header.destination)}
        trip.stop(
            because(Layer.NAT, Wrong.CLAIMED, _at(site, at.device, "nat"), values=values), at.device, "translation"
        )
        return None
    if at.ingress is not None and kept_apart(site.net.devices[at.device], at.ingress, egress):
        trip.stop(between(site, at.ingress, egress), at.device, "rule")
        return None
    if policy is None and at.ingress is not None:
        trip.exits.append(Exit(at.device, at.ingress, egress, trip.header))
    if policy and at.ingress is not None:
        passes = filtered(trip, policy, at.ingress, egress) and leave(trip, policy, at.ingress, egress)
        if not passes:
            return None
    if egress.attachment is None:
        trip.stop(
            because(Layer.GATEWAY, Wrong.NO_INTERFACE, egress.pointer, interface=egress.label), at.device, "route"
        )
        return None
    if route.hop is None:
        return to_link(site, trip, egress.attachment, at.device, route.pointer)
    holders = site.net.next_hop_holders(route.hop, egress)
    if not holders:
        trip.stop(hop_nobody(site, route, egress), at.device, "route")
        return None
    return to_one_of(site, trip, egress.attachment, holders)


def _behind(trip: Trip, at: At, route: TableRoute) -> None:
    target, address = trip.target, trip.header.destination
    if target.group is not None and target.group.behind == at.device:
        trip.arrive("delivered", at.device, f"{address} is behind {at.device}", route.pointer)
    else:
        values: Values = {"device": at.device, "address": str(address), "to": str(route.to)}
        trip.stop(because(Layer.ROUTE, Wrong.KEPT, route.pointer, values=values), at.device, "route")


def _route_text(route: TableRoute, shared: int) -> str:
    if route.discard:
        return f"{route.to} is discarded"
    if route.next_vrf:
        return f"{route.to} leads to VRF {route.next_vrf}"
    if route.origin == "behind":
        return f"{route.to} is {route.device}'s own"
    if route.hop is None:
        return f"{route.to} is on the link of {route.interface}"
    several = f", one of {shared} equal routes" if shared > 1 else ""
    through = f" (through {route.hop})" if route.via and route.hop != route.via else ""
    return f"{route.to} goes to next hop {route.via or route.hop}{through} by {route.interface}{several}"


def _without(group: HostGroup, segment: Segment) -> Cause:
    values: Values = {"subnet": str(group.subnet), "segment": segment.name}
    if group.gateway is None:
        return because(Layer.GATEWAY, Wrong.NO_GATEWAY, group.pointer, values=values)
    said: Values = {"host": group.endpoint or segment.name, "gateway": str(group.gateway)}
    return because(Layer.GATEWAY, Wrong.GATEWAY_BEYOND, group.pointer, values=said)


def _heard_by_gateway(site: Site, group: HostGroup, attachment: Attachment) -> bool:
    holders = site.net.gateways(group.gateway) if group.gateway is not None else []
    return any(i.attachment is not None and site.fabric.delivers(attachment, i.attachment) for i in holders)


def _at(site: Site, device: str, key: str = "") -> str:
    return site.item_of(device) + (f"/{key}" if key else "")
