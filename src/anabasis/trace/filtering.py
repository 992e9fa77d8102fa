"""What a firewall does to one packet: zones, translations, rules, answers (docs/semantics.md, "Policy")."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from anabasis.causes import Cause, Layer, Values, Wrong, because
from anabasis.design.devices import BridgingBox, Outside
from anabasis.design.notation import Address
from anabasis.fabric import Crossing
from anabasis.policy import Policy
from anabasis.routing import L3Interface, kept_apart
from anabasis.site import Place, Site, number_to_address, own_place, receiver
from anabasis.trace.state import Exit, Header, Session, Trip


def zone_fits(trip: Trip, policy: Policy, interface: L3Interface) -> bool:
    """No zone, or one of the wrong kind: nothing passes."""
    if not policy.filters:
        return True
    problem = policy.zone_problem(interface.zone, "routed", interface.label, interface.pointer)
    if problem is not None:
        trip.stop(problem, policy.device, "interface")
    return problem is None


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
    if not policy.filters:
        trip.crossed += [trip.known] if trip.known is not None else []
        return True
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
    trip.exits.append(Exit(policy.device, ingress, egress, header))
    changed = trip.entry is not None
    for entry in policy.translations:
        if not entry.changes_source or not entry.enters(policy.side(ingress)) or not entry.leaves(policy.side(egress)):
            continue
        if entry is trip.entry if entry.changes_destination else entry.matches(*_numbers(header)):
            source = _hidden_behind(egress, header.source.version)
            if entry.source is not None:
                source = _mapped(header.source, entry.source.of)
            if source is None:
                values: Values = {"device": policy.device, "entry": entry.name, "interface": egress.name}
                said = values | {"family": header.source.version}
                cause = because(Layer.NAT, Wrong.NOTHING_TO_GIVE, egress.pointer, entry.pointer, values=said)
                trip.stop(cause, policy.device, "translation")
                return False
            trip.header = replace(header, source=source)
            text = f"{policy.device}: translation {entry.name!r}: {_change(header, trip.header) or 'changes nothing'}"
            trip.note(policy.device, "translation", "nat", text, entry.pointer, entry.name)
            if entry.pointer not in trip.decided_by:
                trip.decided_by.append(entry.pointer)
            changed = True
            break
    if changed or policy.filters:
        trip.crossed.append(Session(policy.device, asked, trip.header))
    return True


def _hidden_behind(egress: L3Interface, version: int) -> Address | None:
    return next((a.ip for a in egress.addresses if a.version == version), None)


def cross(site: Site, trip: Trip, crossing: Crossing) -> bool:
    """A filtering point at layer 2: only zones and rules apply (docs/semantics.md, "Policy")."""
    policy = site.policies.of[crossing.device]
    ends = (crossing.from_zone, crossing.entered), (crossing.to_zone, crossing.left)
    for (zone, label), at in zip(ends, crossing.sides, strict=True):
        problem = policy.zone_problem(zone, crossing.kind, label, at)
        if problem is not None:
            trip.stop(problem, crossing.device)
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
        trip.stop(because(Layer.RETURN, Wrong.NO_SESSION, place, device=name), name, "rule")
        return False
    trip.crossed.append(session)
    trip.note(name, "rule", "rule", f"{name} knows the session and lets the reply pass", policy.pointer, "session")
    return True


def _judge(trip: Trip, policy: Policy, from_zone: str, to_zone: str) -> bool:
    """Rules between two zones, in order."""
    for rule in policy.lines(from_zone, to_zone):
        if rule.matches(*_numbers(trip.header)):
            values: Values = {"device": policy.device, "rule": rule.name, "zones": f"{from_zone} to {to_zone}"}
            said = values | {"action": VERBS.get(rule.action, "permits")}
            if rule.action != "permit":
                trip.stop(
                    because(Layer.RULE, Wrong.RULE_DROPS, rule.pointer, values=said),
                    policy.device,
                    "rule",
                    (from_zone, to_zone),
                )
                return False
            text = f"{policy.device}: rule {rule.name!r} ({from_zone} to {to_zone}) permits it"
            return _permitted(trip, policy, text, rule.pointer, rule.name, (from_zone, to_zone))
    action, at = policy.default(from_zone, to_zone)
    if action == "permit":
        text = f"{policy.device}: no rule matches {from_zone} to {to_zone}; the default permits it"
        return _permitted(trip, policy, text, at, "default", (from_zone, to_zone))
    values = {"device": policy.device, "zones": f"{from_zone} to {to_zone}", "action": VERBS[action]}
    off = next((r for r in policy.off if r.would(from_zone, to_zone, *_numbers(trip.header))), None)
    cause = because(Layer.RULE, Wrong.DEFAULT_DROPS, at, values=values)
    if off is not None:
        places = (f"{off.pointer}/enabled", at)
        cause = because(Layer.RULE, Wrong.RULE_OFF, *places, values=values | {"rule": off.name})
    trip.stop(cause, policy.device, "rule", (from_zone, to_zone))
    return False


VERBS = {"drop": "drops", "refuse": "refuses"}


def _permitted(trip: Trip, policy: Policy, text: str, at: str, label: str, zones: tuple[str, str]) -> bool:
    trip.decided_by.append(at)
    trip.note(policy.device, "rule", "rule", text, at, label, zones)
    return True


def answer(site: Site, trip: Trip, device: str, ingress: L3Interface | None, own: L3Interface) -> None:
    """The target is the box itself (docs/semantics.md, "Policy")."""
    policy = site.policies.translating.get(device)
    header = trip.header
    text = f"{device} answers on {header.destination} ({own.name})"
    if trip.sessions is not None:
        _reply_to_box(trip, device, own, text)
        return
    if trip.target.interface is None:  # a translation speaks of the address, and left this packet alone
        trip.target = own_place(site, own, header.destination)
    if ingress is None or isinstance(site.net.devices[device], Outside):
        trip.arrive("answered", device, text, own.pointer)
        return
    box = site.net.devices[device]
    across = box.answers_across if isinstance(box, BridgingBox) else "rules"
    lists = site.policies.answered_by(own)
    if lists is None:
        trip.stop(because(Layer.ANSWERS, Wrong.ANSWERS_NOTHING, own.pointer, interface=own.label), device, "answers")
    elif not lists.allows(header.source.version, int(header.source), header.service):
        values: Values = {"answers": lists.name, "interface": own.label, "address": str(header.source)}
        trip.stop(because(Layer.ANSWERS, Wrong.NOT_ANSWERED, lists.pointer, values=values), device, "answers")
    elif own is not ingress and across == "never":
        at = f"{site.item_of(device)}/answers_across"
        trip.stop(because(Layer.ANSWERS, Wrong.NOT_ACROSS, at, device=device), device, "answers")
    elif across == "rules" and kept_apart(box, ingress, own):
        trip.stop(between(site, ingress, own), device, "rule")
    elif policy is None or _across(trip, policy, ingress, own, across):
        if policy is not None and (policy.filters or trip.entry is not None):
            trip.crossed.append(Session(device, trip.asked or header, header))
        trip.arrive("answered", device, text, own.pointer, lists.pointer)


def _across(trip: Trip, policy: Policy, ingress: L3Interface, own: L3Interface, across: str) -> bool:
    """Where ingress and owning interface lie in different zones, rules permit it as well, unless it always answers."""
    return own.zone == ingress.zone or across == "always" or filtered(trip, policy, ingress, own)


def between(site: Site, ingress: L3Interface, egress: L3Interface) -> Cause:
    """Return why nothing passes between two networks of a box that is closed between them."""
    shut = [i for i in (ingress, egress) if not i.routed_to_others]
    at = f"{site.item_of(ingress.device)}/between_networks"
    values: Values = {"device": ingress.device, "ingress": ingress.name, "egress": egress.name}
    said = values | {"shut": " and ".join(i.name for i in shut)}
    return because(Layer.RULE, Wrong.BETWEEN_CLOSED, at, *(f"{i.pointer}/routed_to_others" for i in shut), values=said)


def _reply_to_box(trip: Trip, device: str, own: L3Interface, text: str) -> None:
    """A reply that a box itself asked for; any other that comes to its address belongs to nobody."""
    if trip.home is None or trip.home.interface is None:
        values: Values = {"device": device, "address": str(trip.header.destination)}
        trip.stop(because(Layer.RETURN, Wrong.NO_REQUEST, own.pointer, values=values), device, "answers")
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
