"""What a firewall does to one packet: zones, translations, rules, answers (concepts, section 5)."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from anabasis.design.notation import Address
from anabasis.fabric import Crossing
from anabasis.policy import Policy
from anabasis.reach.places import Place, number_to_address, receiver
from anabasis.reach.site import Site
from anabasis.reach.trip import Header, Session, Trip
from anabasis.routing import L3Interface


def zone_fits(trip: Trip, policy: Policy, interface: L3Interface) -> bool:
    """No zone, or one of the wrong kind: nothing passes (concepts, sections 5 and 10)."""
    problem = policy.zone_problem(interface.zone, "routed", interface.label)
    if problem is None:
        return True
    places = [p for p in (problem[1], interface.pointer) if p]
    trip.stop("zone", problem[0], *places, device=policy.device, stage="interface")
    return False


def enter(site: Site, trip: Trip, policy: Policy, zone: str) -> None:
    """Step 2: change the destination of a packet that opens a session, or change a reply back, as its session says."""
    trip.asked, trip.entry, trip.known = trip.header, None, None
    if trip.sessions is None:
        _translate_destination(site, trip, policy, zone)
        return
    trip.known = trip.session_at(policy.device)
    if trip.known is not None:
        _restore(site, trip, trip.known, policy.pointer)


def _restore(site: Site, trip: Trip, session: Session, pointer: str) -> None:
    back = session.reply
    if back == trip.header:
        return
    said = f"{session.device} changes the reply back: {_change(trip.header, back)}"
    trip.note(session.device, "translation", "nat", said, pointer, "changed back")
    _become(site, trip, back)


def _become(site: Site, trip: Trip, header: Header) -> None:
    if header.destination != trip.header.destination:
        home = trip.home
        same = home is not None and home.address == header.destination
        trip.target = home if home and same else receiver(site, header.destination, trip.target.prefers)
    trip.header = header


def _change(old: Header, new: Header) -> str:
    parts = []
    if new.source != old.source:
        parts.append(f"source {old.source} becomes {new.source}")
    if new.destination != old.destination:
        parts.append(f"destination {old.destination} becomes {new.destination}")
    if new.service != old.service:
        parts.append(f"port {old.service[1]} becomes {new.service[1]}")
    return ", ".join(parts)


def _numbers(header: Header) -> tuple[int, int, int, tuple[int, int]]:
    return header.source.version, int(header.source), int(header.destination), header.service


def _translate_destination(site: Site, trip: Trip, policy: Policy, zone: str) -> None:
    header = trip.header
    for entry in policy.translations:
        if entry.changes_destination and entry.enters(zone) and entry.matches(*_numbers(header)):
            target = _mapped(header.destination, entry.destination.of) if entry.destination else header.destination
            service = entry.service.of(header.service) if entry.service else header.service
            new = replace(header, destination=target, service=service)
            said = f"{policy.device}: translation {entry.name!r}: {_change(header, new) or 'changes nothing'}"
            trip.note(policy.device, "translation", "nat", said, entry.pointer, entry.name)
            trip.decided_by.append(entry.pointer)
            trip.entry = entry
            _become(site, trip, new)
            return


def _mapped(address: Address, change: Callable[[int], int]) -> Address:
    return number_to_address(address.version, change(int(address)))


def filtered(trip: Trip, policy: Policy, ingress: L3Interface, egress: L3Interface) -> bool:
    """Steps 1 and 5 between two interfaces. Returns whether the packet passes."""
    if not zone_fits(trip, policy, egress):
        return False
    if trip.sessions is not None:
        return _reply_passes(trip, policy, egress.pointer, trip.known)
    return _judge(trip, policy, ingress.zone or "", egress.zone or "")


def leave(trip: Trip, policy: Policy, ingress: L3Interface, egress: L3Interface) -> bool:
    """Step 6, and what the firewall remembers. Returns whether the packet passes."""
    if trip.sessions is not None:
        return True
    asked, header = trip.asked or trip.header, trip.header
    for entry in policy.translations:
        if not entry.changes_source or not entry.enters(ingress.zone or "") or not entry.leaves(egress.zone or ""):
            continue
        if entry is trip.entry if entry.changes_destination else entry.matches(*_numbers(header)):
            source = _hidden_behind(egress, header.source.version)
            if entry.source is not None:
                source = _mapped(header.source, entry.source.of)
            if source is None:
                reason = f"{policy.device}: translation {entry.name!r} gives the address of {egress.name}, which has none of IPv{header.source.version}"
                trip.stop("nat", reason, entry.pointer, egress.pointer, device=policy.device, stage="translation")
                return False
            trip.header = replace(header, source=source)
            said = f"{policy.device}: translation {entry.name!r}: {_change(header, trip.header) or 'changes nothing'}"
            trip.note(policy.device, "translation", "nat", said, entry.pointer, entry.name)
            if entry.pointer not in trip.decided_by:
                trip.decided_by.append(entry.pointer)
            break
    trip.crossed.append(Session(policy.device, asked, trip.header))
    return True


def _hidden_behind(egress: L3Interface, version: int) -> Address | None:
    return next((a.ip for a in egress.addresses if a.version == version), None)


def cross(site: Site, trip: Trip, crossing: Crossing) -> bool:
    """A filtering point at layer 2: only zones and rules apply (concepts, section 5)."""
    policy = site.policies.of[crossing.device]
    for zone, label in ((crossing.from_zone, crossing.entered), (crossing.to_zone, crossing.left)):
        problem = policy.zone_problem(zone, crossing.kind, label)
        if problem:
            trip.stop("zone", problem[0], problem[1] or crossing.pointer, crossing.pointer, device=crossing.device)
            return False
    if trip.sessions is not None:
        return _reply_passes(trip, policy, crossing.pointer, trip.session_at(policy.device))
    if not _judge(trip, policy, crossing.from_zone or "", crossing.to_zone or ""):
        return False
    trip.crossed.append(Session(policy.device, trip.header, trip.header))
    return True


def _reply_passes(trip: Trip, policy: Policy, place: str, session: Session | None) -> bool:
    """A reply passes where its session is known."""
    name = policy.device
    if session is None:
        reason = f"{name} gets a reply to a request it has never seen, and drops it"
        trip.stop("return", reason, place, device=name, stage="rule")
        return False
    trip.crossed.append(session)
    trip.note(name, "rule", "rule", f"{name} knows the session and lets the reply pass", policy.pointer, "session")
    return True


def _judge(trip: Trip, policy: Policy, from_zone: str, to_zone: str) -> bool:
    """Rules between two zones, in order."""
    zones = f"{from_zone} to {to_zone}"
    for rule in policy.lines(from_zone, to_zone):
        if rule.matches(*_numbers(trip.header)):
            return _verdict(trip, policy, rule.action, f"rule {rule.name!r} ({zones})", rule.pointer, rule.name)
    action, at = policy.default(from_zone, to_zone)
    return _verdict(trip, policy, action, f"no rule matches {zones}; the default", at, "default")


def _verdict(trip: Trip, policy: Policy, action: str, what: str, pointer: str, label: str) -> bool:
    if action != "permit":
        verb = "drops it" if action == "drop" else "refuses it"
        trip.stop("rule", f"{policy.device}: {what} {verb}", pointer, device=policy.device, stage="rule")
        return False
    trip.decided_by.append(pointer)
    trip.note(policy.device, "rule", "rule", f"{policy.device}: {what} permits it", pointer, label)
    return True


def answer(site: Site, trip: Trip, device: str, ingress: L3Interface | None, own: L3Interface) -> None:
    """The target is the box itself (concepts, section 5, step 3)."""
    policy = site.policies.of.get(device)
    header = trip.header
    text = f"{device} answers on {header.destination} ({own.name})"
    if trip.sessions is not None:
        _reply_to_box(trip, device, own, text)
        return
    if policy is None or ingress is None:
        trip.arrive("answered", device, text, own.pointer)
        return
    lists = policy.answers.get(own.answers or "")
    if lists is None:
        trip.stop("answers", f"{own.label} answers nothing", own.pointer, device=device, stage="answers")
    elif not lists.allows(header.source.version, int(header.source), header.service):
        reason = f"the answers {lists.name!r} of {own.label} do not name this service for {header.source}"
        trip.stop("answers", reason, lists.pointer, device=device, stage="answers")
    elif own is not ingress and not policy.answers_across:
        reason = f"{device} does not answer across interfaces"
        trip.stop("answers", reason, policy.pointer + "/answers_across", device=device, stage="answers")
    elif own.zone == ingress.zone or filtered(trip, policy, ingress, own):
        trip.crossed.append(Session(device, trip.asked or header, header))
        trip.arrive("answered", device, text, own.pointer, lists.pointer)


def _reply_to_box(trip: Trip, device: str, own: L3Interface, text: str) -> None:
    """A reply that a box itself asked for; any other that comes to its address belongs to nobody."""
    if trip.home is None or trip.home.interface is None:
        reason = f"{device} gets a reply to its own address {trip.header.destination} that belongs to no session"
        trip.stop("return", reason, own.pointer, device=device, stage="answers")
        return
    trip.arrive("answered", device, text, own.pointer)


def own_reply(site: Site, trip: Trip, box: Place) -> None:
    """A box sends the reply itself: it knows its session, and changes it back where it had changed the request."""
    assert box.interface is not None
    device = box.interface.device
    session = trip.session_at(device)
    if session is not None:
        trip.crossed.append(session)
        _restore(site, trip, session, box.interface.pointer)
