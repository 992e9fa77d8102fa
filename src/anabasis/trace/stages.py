"""What a box does to one packet, stage by stage, in the order of docs/semantics.md, "The pipeline".

Every stage takes the journey, and what is known of the packet's passage through this box; it says whether the packet goes on, and writes
down what it did. `through_box` is the line they make. A filter at layer 2 has but the first and the fifth: `cross_filter`.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from anabasis.design.devices import BridgingBox, Device, Outside
from anabasis.design.filters import filter_key, tunnel_key
from anabasis.design.notation import Address, is_private
from anabasis.fabric import Crossing
from anabasis.facts import (
    Arrives,
    Cause,
    FollowsRoute,
    KnowsSession,
    Layer,
    MeetsFilter,
    Permits,
    Receives,
    Restores,
    Translates,
    Values,
    Wrong,
    because,
)
from anabasis.policy import BACK, THERE, Policy, Translation
from anabasis.routing import L3Interface, Lookup, TableRoute, kept_apart, look_up, routes_packets
from anabasis.site import Place, Site, number_to_address, own_place, receiver
from anabasis.trace.lowest_cause import hop_nobody, table_item
from anabasis.trace.packet import Exit, Header, InBox, OnLink, RouteLookup, Session
from anabasis.trace.trip import Trip


@dataclass
class Passage:
    """One packet in one box."""

    at: InBox
    policy: Policy | None
    """What the box translates, and where it has zones, its rules."""
    asked: Header
    """The header as it came in."""
    entry: Translation | None = None
    """The translation that changed its destination here."""
    session: Session | None = None
    """The session it belongs to here, where it is a reply."""

    @property
    def device(self) -> str:
        """Return the name of the box."""
        return self.at.device


def through_box(site: Site, trip: Trip, at: InBox) -> OnLink | None:
    """Take a packet through one box; None = its journey ends here."""
    p = Passage(at, site.policies.translating.get(at.device), trip.header)
    if not come_in(site, trip, p):
        return None
    translate_destination(site, trip, p)
    if not private_source_taken(site, trip, p):
        return None
    route = follow_routes(site, trip, p)
    if route is None:
        return None
    egress = leave_by(site, trip, p, route)
    if egress is None:
        return None
    if not pass_rules(trip, p, egress) or not translate_source(trip, p, egress):
        return None
    return onto_link(site, trip, p, route, egress)


# 1. The interface it comes in by, and its zone


def come_in(site: Site, trip: Trip, p: Passage) -> bool:
    """Take the packet at an interface. One without a zone, or with one of the wrong kind, lets nothing pass."""
    ingress = p.at.ingress
    if ingress is None:
        return True
    filters = p.policy is not None and p.policy.filters
    zone = ingress.zone or None
    trip.note(Receives("received", p.device, ingress.pointer, ingress.label, ingress.name, zone, filters))
    fits = p.policy is None or zone_fits(trip, p.policy, ingress)
    return fits and all(meets_filter(site, trip, ingress, key) for key in ingress.filters_in)


def meets_filter(site: Site, trip: Trip, interface: L3Interface, key: str) -> bool:
    """Tell whether the stateless filter at an interface lets the packet pass, a reply by itself; or, of a tunnel, whether it carries it."""
    policy = site.policies.stateless.get(key)
    if policy is None:
        return True
    header, between = trip.header, BACK if trip.is_reply else THERE
    source, destination = int(header.source), int(header.destination)
    ends = (destination, source) if trip.is_reply else (source, destination)
    rule, cause = policy.decide(*between, (header.source.version, *ends, header.service))
    tunnel = key == tunnel_key(interface.device, interface.name)
    crossing = key, *between
    if cause is not None:
        values: Values = {"device": interface.device, "filter": key.removeprefix(filter_key(interface.device, ""))}
        if tunnel:
            values = {"device": interface.device, "tunnel": interface.name}
            told: Values = values | {"source": str(header.source), "destination": str(header.destination)}
            lost = because(Layer.TUNNEL, Wrong.TUNNEL_SELECTORS, policy.pointer, values=told)
        else:
            wrong = Wrong.FILTER_LACKS if rule is None else Wrong.FILTER_DROPS
            what = "the reply" if trip.is_reply else "it"
            lost = because(
                Layer.RULE, wrong, policy.pointer if rule is None else rule.pointer, values=values | {"what": what}
            )
        trip.stop(lost, interface.device, "rule", crossing=crossing)
        return False
    assert rule is not None
    trip.decided(rule.pointer)
    name = interface.name if tunnel else rule.name
    trip.note(MeetsFilter("filter", interface.device, rule.pointer, name, tunnel, crossing))
    return True


def zone_fits(trip: Trip, policy: Policy, interface: L3Interface) -> bool:
    """Tell whether an interface of a firewall is in a zone that routes."""
    if not policy.filters:
        return True
    problem = policy.zone_problem(interface.zone, "routed", interface.label, interface.pointer)
    if problem is not None:
        trip.stop(problem, policy.device, "interface")
    return problem is None


# 2. Translation of the destination; of a reply, back to what its session asked


def translate_destination(site: Site, trip: Trip, p: Passage) -> None:
    """Change the destination of a packet that opens a session: the first translation that matches. Change a reply back as its session says."""
    if p.policy is None or p.at.ingress is None:
        return
    if trip.is_reply:
        p.session = trip.session_at(p.device)
        if p.session is not None:
            restore(site, trip, p.session, p.policy.pointer)
        return
    header, zone = trip.header, p.policy.side(p.at.ingress)
    for entry in p.policy.translations:
        if entry.changes_destination and entry.enters(zone) and entry.matches(*header.numbers):
            target = mapped(header.destination, entry.destination.of) if entry.destination else header.destination
            service = entry.service.of(header.service) if entry.service else header.service
            new = replace(header, destination=target, service=service)
            changes = tuple(header.changed_to(new))
            trip.note(Translates("translation", p.device, entry.pointer, entry.name, changes))
            trip.decided(entry.pointer)
            p.entry = entry
            become(site, trip, new)
            return


def restore(site: Site, trip: Trip, session: Session, pointer: str) -> None:
    """Change a reply back to what whoever asked expects."""
    changes = tuple(trip.header.changed_to(session.reply))
    if changes:
        trip.note(Restores("changed-back", session.device, pointer, changes))
        become(site, trip, session.reply)


def become(site: Site, trip: Trip, header: Header) -> None:
    """Give the packet another header; it may be for somebody else then."""
    if header.destination != trip.header.destination:
        home = trip.home
        same = home is not None and home.address == header.destination
        trip.target = home if home and same else receiver(site, header.destination, trip.meant)
    trip.header = header


def mapped(address: Address, change: Callable[[int], int]) -> Address:
    """Return what a map makes of an address."""
    return number_to_address(address.version, change(int(address)))


def private_source_taken(site: Site, trip: Trip, p: Passage) -> bool:
    """Tell whether an outside takes a source that belongs to nobody there (RFC 1918, RFC 4193)."""
    device = site.net.devices[p.device]
    if p.at.ingress is None or not isinstance(device, Outside) or device.accepts_private:
        return True
    if not is_private(trip.header.source):
        return True
    values: Values = {"outside": p.device, "address": str(trip.header.source)}
    at = f"{site.item_of(p.device)}/accepts_private"
    trip.stop(because(Layer.NAT, Wrong.PRIVATE_DROPPED, at, values=values), p.device, "interface")
    return False


# 3. The box itself is asked


def answer(site: Site, trip: Trip, p: Passage, own: L3Interface) -> None:
    """The destination is an address of the box: its answers decide, and rules where it lies in another zone."""
    if trip.is_reply:
        _answer_reply(trip, p.device, own)
        return
    meant = trip.target.interface
    if meant is None or (meant is not own and meant in site.net.beside):
        # a translation speaks of the address, and left this packet alone; or the gateway at hand answers for all of them
        trip.target = own_place(site, own, trip.header.destination)
    ingress = p.at.ingress
    if ingress is None or isinstance(site.net.devices[p.device], Outside):
        trip.arrive(_answers(trip, p.device, own), own.pointer)
        return
    problem = _unanswered(site, trip, p, ingress, own)
    if problem is not None:
        trip.stop(problem, p.device, "rule" if problem.wrong == Wrong.BETWEEN_CLOSED else "answers")
        return
    apart = own.zone != ingress.zone and _across(site.net.devices[p.device]) != "always"
    if p.policy is not None and apart and not pass_rules(trip, p, own):
        return
    if p.policy is not None and (p.policy.filters or p.entry is not None):
        trip.crossed.append(Session(p.device, p.asked, trip.header))
    lists = site.policies.answered_by(own)
    trip.arrive(_answers(trip, p.device, own), own.pointer, *([lists.pointer] if lists is not None else []))


def _unanswered(site: Site, trip: Trip, p: Passage, ingress: L3Interface, own: L3Interface) -> Cause | None:
    """Return why a box does not answer on one of its addresses, rules aside."""
    header, lists = trip.header, site.policies.answered_by(own)
    heard = site.policies.listening.get(p.device, ())
    if any(x.hears(own, header.destination, header.source, header.service) for x in heard):
        return None  # a tunnel that ends here
    across = _across(site.net.devices[p.device])
    if lists is None:
        return because(Layer.ANSWERS, Wrong.ANSWERS_NOTHING, own.pointer, interface=own.label)
    if not lists.allows(header.source.version, int(header.source), header.service):
        values: Values = {"answers": lists.name, "interface": own.label, "address": str(header.source)}
        return because(Layer.ANSWERS, Wrong.NOT_ANSWERED, lists.pointer, values=values)
    if own is not ingress and across == "never":
        return because(Layer.ANSWERS, Wrong.NOT_ACROSS, f"{site.item_of(p.device)}/answers_across", device=p.device)
    if across == "rules" and kept_apart(site.net.devices[p.device], ingress, own):
        return between(site, ingress, own)
    return None


def _across(device: Device) -> str:
    """Return when a box answers on an address of another interface than the packet came in by."""
    return device.answers_across if isinstance(device, BridgingBox) else "rules"


def _answers(trip: Trip, device: str, own: L3Interface) -> Arrives:
    address = str(trip.header.destination)
    return Arrives("arrives", device, own.pointer, "answered", "own-address", address, own.name)


def _answer_reply(trip: Trip, device: str, own: L3Interface) -> None:
    """A reply that a box itself asked for; any other that comes to its address belongs to nobody."""
    if trip.home is None or trip.home.interface is None:
        values: Values = {"device": device, "address": str(trip.header.destination)}
        trip.stop(because(Layer.RETURN, Wrong.NO_REQUEST, own.pointer, values=values), device, "answers")
        return
    trip.arrive(_answers(trip, device, own), own.pointer)


# 4. The route, through one VRF after another


def follow_routes(site: Site, trip: Trip, p: Passage) -> TableRoute | None:
    """Look the destination up, through other VRFs where routes lead there; None where the journey ends here."""
    vrf, before = p.at.vrf, list[str]()
    while True:
        route = choose_route(site, trip, p, vrf)
        if route is None or not route.next_vrf:
            return route
        before.append(vrf)
        vrf = route.next_vrf
        if vrf in before:
            values: Values = {"vrfs": ", ".join(before), "device": p.device}
            trip.stop(because(Layer.ROUTE, Wrong.VRF_LOOP, route.pointer, values=values), p.device, "route")
            return None


def choose_route(site: Site, trip: Trip, p: Passage, vrf: str) -> TableRoute | None:
    """Look the destination up in one VRF, longest prefix first (RFC 1812 section 5.2.4.3); None where the journey ends here."""
    address = trip.header.destination
    found = look_up(site.net.tables[p.device, vrf], address)
    equal = found.shared
    route = (equal[trip.choices.pick(len(equal))] if len(equal) > 1 else equal[0]) if equal else None
    trip.lookups.append(RouteLookup(p.device, vrf, p.at.ingress, address, route))
    if route is not None and route.origin == "local":
        if address in site.net.contested and not trip.is_reply:
            trip.stop(site.net.contested[address], p.device, "answers")
        else:
            answer(site, trip, p, site.net.by_name[p.device, route.interface or ""])
        return None
    standing = site.net.standing.get((p.device, address))
    if standing is not None:
        values: Values = {"interface": standing.label, "address": str(address)}
        trip.stop(because(Layer.ANSWERS, Wrong.NO_ACCEPT_MODE, standing.pointer, values=values), p.device, "answers")
        return None
    steered, passed_by = steered_by(site, trip, p, vrf)
    if steered is not None:
        route, equal = steered, (steered,)
        trip.lookups[-1] = replace(trip.lookups[-1], route=route)
    trip.missed = trip.missed or passed_by or (found.missed if steered is None else None)
    if route is None:
        trip.stop(_no_route(site, trip, p.device, vrf, found), p.device, "route")
        return None
    if p.at.ingress is not None and not routes_packets(site.net.devices[p.device]):
        values = {"device": p.device, "address": ", ".join(str(a.ip) for a in p.at.ingress.addresses)}
        cause = because(Layer.GATEWAY, Wrong.ROUTING_OFF, f"{site.item_of(p.device)}/routing", values=values)
        trip.stop(cause, p.device, "route")
        return None
    egress = site.net.by_name.get((p.device, route.interface or ""))
    into = egress is not None and egress.kind in ("tunnel", "overlay") and route.origin != "connected"
    trip.note(replace(followed(route, p.device, len(equal), into), steers=steered is not None))
    return route


def steered_by(site: Site, trip: Trip, p: Passage, vrf: str) -> tuple[TableRoute | None, TableRoute | None]:
    """Return the policy route that takes the packet before the table is asked, and the first one passed over because it is inactive.

    Policy routes are those of the VRF it came in by, in their order.
    """
    header, ingress = trip.header, p.at.ingress.name if p.at.ingress is not None else ""
    passed_by: TableRoute | None = None
    for route in site.net.tables[p.device, vrf].steering if vrf == p.at.vrf else ():
        told = site.policies.steering[route.pointer]
        fits = header.destination.version == route.to.version and header.destination in route.to
        takes = told.takes(header.source.version, int(header.source), header.service, trip.is_reply)
        if fits and takes and told.enters(ingress):
            if route.active:
                return route, passed_by
            passed_by = passed_by or route
    return None, passed_by


def followed(route: TableRoute, device: str, equal: int, into: bool) -> FollowsRoute:
    """Return the step of following a route; `into`: into a tunnel, or to another table on an overlay."""
    at, to = route.pointer, str(route.to)
    if route.discard:
        return FollowsRoute("route", device, at, to, "nowhere")
    if route.next_vrf:
        return FollowsRoute("route", device, at, to, "to-vrf", vrf=route.next_vrf)
    if route.origin == "behind":
        return FollowsRoute("route", device, at, to, "behind")
    if route.hop is None and into:
        return FollowsRoute("route", device, at, to, "into", route.interface or "", equal=equal)
    if route.hop is None:
        return FollowsRoute("route", device, at, to, "on-link", route.interface or "")
    via = str(route.via or route.hop)
    return FollowsRoute("route", device, at, to, "to-hop", route.interface or "", "", via, str(route.hop), equal)


def _no_route(site: Site, trip: Trip, device: str, vrf: str, found: Lookup) -> Cause:
    lost = found.losers[0] if found.losers else None
    values: Values = {"device": device, "address": str(trip.header.destination), "vrf": vrf}
    under = lost.cause if lost is not None else None
    guilty = (lost.pointer,) if lost is not None else (table_item(site, device, vrf), site.item_of(device))
    return because(Layer.ROUTE, Wrong.NO_ROUTE, *guilty, under=under, values=values)


def leave_by(site: Site, trip: Trip, p: Passage, route: TableRoute) -> L3Interface | None:
    """Return the interface a route leads out by; None where the packet goes no further."""
    if route.discard:
        values: Values = {"device": p.device, "to": str(route.to)}
        trip.stop(because(Layer.ROUTE, Wrong.DISCARDED, route.pointer, values=values), p.device, "route")
        return None
    if route.origin == "behind":
        _behind(trip, p.device, route)
        return None
    egress = site.net.by_name[p.device, route.interface or ""]
    address = trip.header.destination
    if route.hop is None and any(i.device == p.device for i in site.net.claims.claimants(address)):
        values = {"device": p.device, "address": str(address)}
        cause = because(Layer.NAT, Wrong.CLAIMED, f"{site.item_of(p.device)}/nat", values=values)
        trip.stop(cause, p.device, "translation")
        return None
    if p.at.ingress is not None and kept_apart(site.net.devices[p.device], p.at.ingress, egress):
        trip.stop(between(site, p.at.ingress, egress), p.device, "rule")
        return None
    return egress


def _behind(trip: Trip, device: str, route: TableRoute) -> None:
    """An outside has the destination behind it, or says so."""
    target, address = trip.target, str(trip.header.destination)
    if target.group is not None and target.group.behind == device:
        trip.arrive(Arrives("arrives", device, route.pointer, "delivered", "behind", address, device))
        return
    values: Values = {"device": device, "address": address, "to": str(route.to)}
    trip.stop(because(Layer.ROUTE, Wrong.KEPT, route.pointer, values=values), device, "route")


def between(site: Site, ingress: L3Interface, egress: L3Interface) -> Cause:
    """Return why nothing passes between two networks of a box that is closed between them."""
    shut = [i for i in (ingress, egress) if not i.routed_to_others]
    at = f"{site.item_of(ingress.device)}/between_networks"
    values: Values = {"device": ingress.device, "ingress": ingress.name, "egress": egress.name}
    said = values | {"shut": " and ".join(i.name for i in shut)}
    return because(Layer.RULE, Wrong.BETWEEN_CLOSED, at, *(f"{i.pointer}/routed_to_others" for i in shut), values=said)


# 5. Rules


def pass_rules(trip: Trip, p: Passage, egress: L3Interface) -> bool:
    """Tell whether rules between the zones of two interfaces let the packet pass; a reply passes where its session is known."""
    policy, ingress = p.policy, p.at.ingress
    if policy is None or ingress is None:
        return True
    if not policy.filters:
        trip.crossed += [p.session] if p.session is not None else []
        return True
    if not zone_fits(trip, policy, egress):
        return False
    if trip.is_reply:
        return reply_passes(trip, policy, egress.pointer, p.session)
    return first_match(trip, policy, ingress.zone or "", egress.zone or "")


def first_match(trip: Trip, policy: Policy, from_zone: str, to_zone: str) -> bool:
    """Tell whether the first rule that matches permits the packet; else the default decides."""
    device, zones = policy.device, (from_zone, to_zone)
    rule, cause = policy.decide(from_zone, to_zone, trip.header.numbers)
    if cause is not None:
        trip.stop(cause, device, "rule", zones)
        return False
    at, name = (rule.pointer, rule.name) if rule is not None else (policy.default(from_zone, to_zone)[1], None)
    return _permitted(trip, Permits("permit", device, at, name, zones))


def _permitted(trip: Trip, step: Permits) -> bool:
    trip.decided_by.append(step.pointer)
    trip.note(step)
    return True


def reply_passes(trip: Trip, policy: Policy, place: str, session: Session | None) -> bool:
    """Tell whether a firewall knows the session that a reply belongs to."""
    if session is None:
        cause = because(Layer.RETURN, Wrong.NO_SESSION, place, device=policy.device)
        trip.stop(cause, policy.device, "rule")
        return False
    trip.crossed.append(session)
    trip.note(KnowsSession("session", policy.device, policy.pointer))
    return True


def cross_filter(site: Site, trip: Trip, crossing: Crossing) -> bool:
    """Tell whether a filtering point at layer 2 lets the packet pass: only zones and rules apply there."""
    policy = site.policies.of[crossing.device]
    ends = (crossing.from_zone, crossing.entered), (crossing.to_zone, crossing.left)
    for (zone, label), at in zip(ends, crossing.sides, strict=True):
        problem = policy.zone_problem(zone, crossing.kind, label, at)
        if problem is not None:
            trip.stop(problem, crossing.device)
            return False
    if trip.is_reply:
        return reply_passes(trip, policy, crossing.pointer, trip.session_at(policy.device))
    if not first_match(trip, policy, crossing.from_zone or "", crossing.to_zone or ""):
        return False
    trip.crossed.append(Session(policy.device, trip.header, trip.header))
    return True


# 6. Translation of the source, and what the box remembers


def translate_source(trip: Trip, p: Passage, egress: L3Interface) -> bool:
    """Change the source of a packet that opens a session: the first translation that matches. Tell whether there is an address to give."""
    ingress, policy = p.at.ingress, p.policy
    if ingress is None or (trip.is_reply and policy is not None):
        return True
    header = trip.header
    trip.exits.append(Exit(p.device, ingress, egress, header))
    if policy is None:
        return True
    entry = next((e for e in policy.translations if _takes_source(e, policy, p, egress, header)), None)
    if entry is not None:
        source = mapped(header.source, entry.source.of) if entry.source is not None else None
        source = source or _own_address(egress, header.source.version)
        if source is None:
            values: Values = {"device": p.device, "entry": entry.name, "interface": egress.name}
            said = values | {"family": header.source.version}
            cause = because(Layer.NAT, Wrong.NOTHING_TO_GIVE, egress.pointer, entry.pointer, values=said)
            trip.stop(cause, p.device, "translation")
            return False
        trip.header = replace(header, source=source)
        changes = tuple(header.changed_to(trip.header))
        trip.note(Translates("translation", p.device, entry.pointer, entry.name, changes))
        trip.decided(entry.pointer)
    if policy.filters or p.entry is not None or entry is not None:
        trip.crossed.append(Session(p.device, p.asked, trip.header))
    return True


def _takes_source(entry: Translation, policy: Policy, p: Passage, egress: L3Interface, header: Header) -> bool:
    ingress = p.at.ingress
    if ingress is None or not entry.changes_source:
        return False
    if not entry.enters(policy.side(ingress)) or not entry.leaves(policy.side(egress)):
        return False
    return entry is p.entry if entry.changes_destination else entry.matches(*header.numbers)


def _own_address(egress: L3Interface, version: int) -> Address | None:
    """Return the address of an interface behind which it hides others."""
    return next((a.ip for a in egress.addresses if a.version == version), None)


def own_reply(site: Site, trip: Trip, box: Place) -> None:
    """A box sends a reply itself: it knows its session, and changes it back where it had changed the request."""
    assert box.interface is not None
    session = trip.session_at(box.interface.device)
    if session is not None:
        trip.crossed.append(session)
        restore(site, trip, session, box.interface.pointer)


# 7. Onto the link


def onto_link(site: Site, trip: Trip, p: Passage, route: TableRoute, egress: L3Interface) -> OnLink | None:
    """Hand the packet to the link of an interface: for the next hop, or for whoever has the destination."""
    if egress.attachment is None:
        cause = because(Layer.GATEWAY, Wrong.NO_INTERFACE, egress.pointer, interface=egress.label)
        trip.stop(cause, p.device, "route")
        return None
    if not all(meets_filter(site, trip, egress, key) for key in egress.filters_out):
        return None
    holders = site.net.onto(route, egress)
    if holders is not None and not holders:
        trip.stop(hop_nobody(site, route, egress), p.device, "route")
        return None
    return OnLink(egress.attachment, p.device, route.pointer, holders)
