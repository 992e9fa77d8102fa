"""The journey of one packet in one direction: host, frame, route, rule, and so on to its end (concepts, sections 3 to 5)."""

from __future__ import annotations

from dataclasses import dataclass, field

from anabasis.design.devices import Outside
from anabasis.fabric import Crossing, LinkPort, Tap, why_apart
from anabasis.policy import Policy, Service
from anabasis.reach.places import Place
from anabasis.reach.site import Site
from anabasis.routing import L3Interface, TableRoute, look_up
from anabasis.routing.hosts import is_private
from anabasis.routing.interfaces import routes_packets


@dataclass(frozen=True)
class Hop:
    """One step: on which device, at which stage, what happened, and the item of the design behind it."""

    device: str
    stage: str
    """`host`, `cable`, `frame`, `interface`, `route`, `rule`, `answers` or `delivered`."""
    layer: str
    """How high the step is on the climb: `link`, `vlan`, `gateway`, `route`, `zone`, `rule` or `answers`."""
    text: str
    pointer: str
    label: str = ""
    """The text in a word or two."""
    stopped: bool = False


@dataclass
class Trip:
    """A journey while it is made."""

    source: Place
    target: Place
    service: Service
    sessions: frozenset[str] | None
    """Firewalls that know the session; None = the packet opens one."""
    hops: list[Hop] = field(default_factory=list)
    crossed: list[str] = field(default_factory=list)
    outcome: str = ""
    layer: str | None = None
    reason: str = ""
    decided_by: list[str] = field(default_factory=list)
    missed: TableRoute | None = None
    """The first longer route passed over because it was inactive."""

    def note(self, device: str, stage: str, layer: str, text: str, pointer: str, label: str = "") -> None:
        """Add a step."""
        self.hops.append(Hop(device, stage, layer, text, pointer, label))

    def stop(self, layer: str, reason: str, *pointers: str, device: str = "", stage: str = "") -> None:
        """End the journey short of its goal."""
        self.outcome, self.layer, self.reason = "stopped", layer, reason
        self.decided_by = list(dict.fromkeys(p for p in pointers if p is not None))
        where = device or (self.hops[-1].device if self.hops else self.source.label)
        self.hops.append(
            Hop(where, stage or "frame", layer, reason, self.decided_by[0] if self.decided_by else "", "stops", True)
        )

    def arrive(self, outcome: str, device: str, text: str, pointer: str, *decided_by: str) -> None:
        """End the journey at its goal."""
        self.outcome, self.layer, self.reason = outcome, None, text
        self.decided_by += [p for p in decided_by if p not in self.decided_by]
        self.note(
            device,
            "delivered" if outcome == "delivered" else "answers",
            "link" if outcome == "delivered" else "answers",
            text,
            pointer,
            outcome,
        )


@dataclass(frozen=True)
class At:
    """Where the packet is: inside a device, come in by an interface (None = sent by the box itself), looked up in a VRF."""

    device: str
    vrf: str
    ingress: L3Interface | None


def travel(site: Site, source: Place, target: Place, service: Service, sessions: frozenset[str] | None = None) -> Trip:
    """Send a packet from source to target; `sessions` names the firewalls that know it as a reply."""
    trip = Trip(source, target, service, sessions)
    at = _set_out(site, trip)
    seen: set[At] = set()
    while at is not None:
        if at in seen:
            trip.stop(
                "route",
                f"the packet comes to {at.device} again: a routing loop",
                *[h.pointer for h in trip.hops if h.stage == "route"][-2:],
                device=at.device,
                stage="route",
            )
            break
        seen.add(at)
        at = _pass(site, trip, at)
    return trip


def _set_out(site: Site, trip: Trip) -> At | None:
    """What the sender does first (concepts, section 4): on its link straight to the target, else to its gateway."""
    source, target = trip.source, trip.target
    if source.interface is not None:
        if trip.sessions is not None and source.interface.device in trip.sessions:
            trip.crossed.append(source.interface.device)
        trip.note(
            source.interface.device,
            "host",
            "gateway",
            f"{source.label} sends from its own address {source.address}",
            source.interface.pointer,
            str(source.address),
        )
        return At(source.interface.device, source.interface.vrf, None)
    group = source.group
    assert group is not None
    assert source.segment is not None
    segment = site.segments.all[source.segment]
    if group.behind:
        trip.note(
            group.behind,
            "host",
            "gateway",
            f"{source.address} sends from behind {group.behind}",
            segment.pointer,
            str(source.address),
        )
        return At(group.behind, "main", None)
    if source.tap is None:
        trip.stop(
            "vlan", f"no port puts a host into {segment.name}", segment.pointer, device=segment.name, stage="host"
        )
        return None
    if target.address.version == group.subnet.version and target.address in group.subnet:
        trip.note(
            source.tap.device,
            "host",
            "gateway",
            f"{target.address} is on the link of {source.address}: sent straight to it",
            group.pointer,
            str(source.address),
        )
        return _to_link(site, trip, source.tap, source.tap.device, group.pointer)
    if group.gateway is None:
        trip.stop(
            "gateway",
            f"{source.label} has no gateway: {group.reason}",
            group.pointer,
            device=source.tap.device,
            stage="host",
        )
        return None
    trip.note(
        source.tap.device,
        "host",
        "gateway",
        f"{target.address} is elsewhere: {source.label} ({source.address}) sends to its gateway {group.gateway}",
        group.pointer,
        str(source.address),
    )
    holders = [i for i in site.net.interfaces if i.holds(group.gateway) and routes_packets(site.net.devices[i.device])]
    holders = holders or site.net.silent_outsides(group.gateway, source.tap)
    if not holders:
        trip.stop(
            "gateway",
            f"nobody holds the gateway address {group.gateway}",
            group.pointer,
            device=source.tap.device,
            stage="host",
        )
        return None
    return _to_one_of(site, trip, source.tap, holders)


def _to_one_of(site: Site, trip: Trip, start: Tap, holders: list[L3Interface]) -> At | None:
    """Carry the frame to the first of several interfaces that hears it."""
    taps = [(i, i.tap) for i in holders if i.tap is not None]
    for interface, tap in taps:
        if site.fabric.delivers(start, tap):
            if not _frames(site, trip, start, tap):
                return None
            return At(interface.device, interface.vrf, interface)
    if not taps:
        trip.stop("gateway", f"{holders[0].label} is no interface on a link", holders[0].pointer)
        return None
    _blocked(site, trip, start, taps[0][1])
    return None


def _blocked(site: Site, trip: Trip, start: Tap, goal: Tap) -> None:
    why = why_apart(site.fabric, start, goal)
    for port, vlan in why.trail:
        _cable(site, trip, port)
        trip.note(
            port.device, "frame", "vlan", f"{port.label} takes the frame into VLAN {vlan}", port.pointer, f"VLAN {vlan}"
        )
    trip.stop(why.layer, why.reason, why.pointer, device=_device_at(site, why.pointer))


def _frames(site: Site, trip: Trip, start: Tap, goal: Tap) -> bool:
    """Write down the frame's way, port by port. Returns whether it passes every filtering point on it."""
    fabric = site.fabric
    carriage = fabric.carry(start, goal)
    assert carriage is not None
    for (spot, form), crossing in carriage.steps:
        if crossing is not None and not _cross(site, trip, crossing):
            return False
        port = fabric.ports[spot]
        wire = "without a tag" if form == 0 else f"with tag {form}"
        _cable(site, trip, port)
        if port.bridges:
            vlan, _ = fabric.classify((spot, form))
            inside = "" if fabric.tables[port.box] is None else f" into VLAN {vlan}"
            text = f"{port.label} takes the frame {wire}{inside}"
            trip.note(port.device, "frame", "vlan", text, port.pointer, f"VLAN {vlan}")
        elif port.mode == "inline":
            trip.note(port.device, "frame", "vlan", f"{port.label} takes the frame {wire}", port.pointer, "inline")
    if carriage.last is not None and not _cross(site, trip, carriage.last):
        return False
    if goal.kind == "edge" and goal.port:
        end: LinkPort = fabric.ports[goal.box, goal.port]
        trip.note(goal.device, "frame", "vlan", f"{end.label} sends the frame out", end.pointer, end.label)
    return True


def _cross(site: Site, trip: Trip, crossing: Crossing) -> bool:
    """A filtering point at layer 2: only zones and rules apply (concepts, section 5)."""
    policy = site.policies.of[crossing.device]
    for zone, label in ((crossing.from_zone, crossing.entered), (crossing.to_zone, crossing.left)):
        problem = policy.zone_problem(zone, crossing.kind, label)
        if problem:
            trip.stop("zone", problem[0], problem[1] or crossing.pointer, crossing.pointer, device=crossing.device)
            return False
    return _judge(trip, policy, crossing.from_zone or "", crossing.to_zone or "", crossing.pointer)


def _cable(site: Site, trip: Trip, port: LinkPort) -> None:
    """Write down the cable by which a frame comes to a port, where there is one."""
    cable = next((m.cable for m in port.members if m.up and m.cable), None)
    if cable and port.peer:
        text = f"over the cable from {site.fabric.ports[port.peer].label} to {port.label}"
        trip.note(port.device, "cable", "link", text, cable, port.label)


def _to_link(site: Site, trip: Trip, start: Tap, device: str, pointer: str) -> At | None:
    """Hand the packet to the target itself, which is on the link of `start`."""
    target = trip.target
    if target.interface is not None:
        return _to_one_of(site, trip, start, [target.interface])
    goal = target.tap
    assert target.segment is not None
    segment = site.segments.all[target.segment]
    if target.group is not None and target.group.behind:
        trip.stop(
            "route",
            f"{target.address} is behind {target.group.behind}, but {device} takes it for on its link",
            pointer,
            device=device,
            stage="route",
        )
    elif goal is None:
        trip.stop("vlan", f"no port puts a host into {segment.name}", segment.pointer, device=device)
    elif not site.fabric.delivers(start, goal):
        _blocked(site, trip, start, goal)
    elif _frames(site, trip, start, goal):
        trip.arrive("delivered", goal.device, f"{target.address} in {segment.name} receives it", goal.pointer)
    return None


def _pass(site: Site, trip: Trip, at: At) -> At | None:
    """Take the packet through one device; return where it comes out, or None at the journey's end."""
    device, ingress = site.net.devices[at.device], at.ingress
    policy = site.policies.of.get(at.device)
    if ingress is not None:
        trip.note(
            at.device,
            "interface",
            "zone" if policy else "gateway",
            f"{ingress.label} receives it" + _zone_text(ingress),
            ingress.pointer,
            ingress.name,
        )
        if policy and not _zone_fits(trip, policy, ingress):
            return None
        if isinstance(device, Outside) and not device.accepts_private and is_private(trip.source.address):
            trip.stop(
                "nat",
                f"{at.device} drops private sources such as {trip.source.address}: it needs translation here, or a route back there",
                _at(site, at.device, "accepts_private"),
                device=at.device,
                stage="interface",
            )
            return None
    found = look_up(site.net.tables[at.device, at.vrf], trip.target.address)
    route = found.winner
    trip.missed = trip.missed or found.missed
    if route is None:
        lost = found.losers[0] if found.losers else None
        reason = f"{at.device} has no route to {trip.target.address} in VRF {at.vrf}" + (
            f": {lost.to} is inactive, {lost.reason}" if lost else ""
        )
        trip.stop(
            lost.layer if lost else "route",
            reason,
            lost.blame if lost else _at(site, at.device),
            device=at.device,
            stage="route",
        )
        return None
    if route.origin == "local":
        _own_address(site, trip, at, route, policy)
        return None
    if ingress is not None and not routes_packets(device):
        trip.stop(
            "gateway", f"{at.device} does not route", _at(site, at.device, "routing"), device=at.device, stage="route"
        )
        return None
    trip.note(at.device, "route", "route", _route_text(route), route.pointer, str(route.to))
    return _forward(site, trip, at, route, policy)


def _forward(site: Site, trip: Trip, at: At, route: TableRoute, policy: Policy | None) -> At | None:
    if route.discard:
        trip.stop("route", f"{at.device} discards {route.to}", route.pointer, device=at.device, stage="route")
        return None
    if route.next_vrf:
        return At(at.device, route.next_vrf, at.ingress)
    if route.origin == "behind":
        _behind(trip, at, route)
        return None
    assert route.interface is not None
    egress = site.net.by_name[at.device, route.interface]
    if policy and at.ingress is not None and not _filter(trip, policy, at.ingress, egress):
        return None
    assert egress.tap is not None
    if route.via is None:
        return _to_link(site, trip, egress.tap, at.device, route.pointer)
    holders = site.net.next_hop_holders(route.via, egress)
    if not holders:
        trip.stop("route", f"nobody holds the next hop {route.via}", route.pointer, device=at.device, stage="route")
        return None
    return _to_one_of(site, trip, egress.tap, holders)


def _behind(trip: Trip, at: At, route: TableRoute) -> None:
    target = trip.target
    if target.group is not None and target.group.behind == at.device:
        trip.arrive("delivered", at.device, f"{target.address} is behind {at.device}", route.pointer)
    else:
        trip.stop(
            "route",
            f"{at.device} keeps {target.address}: {route.to} is its own",
            route.pointer,
            device=at.device,
            stage="route",
        )


def _own_address(site: Site, trip: Trip, at: At, route: TableRoute, policy: Policy | None) -> None:
    """The target is the box itself (concepts, section 5, step 3)."""
    own = site.net.by_name[at.device, route.interface or ""]
    text = f"{at.device} answers on {trip.target.address} ({own.name})"
    if policy is None or at.ingress is None or trip.sessions is not None:
        if policy and trip.sessions is not None:
            trip.crossed.append(at.device)
        trip.arrive("answered", at.device, text, own.pointer)
        return
    lists = policy.answers.get(own.answers or "")
    if lists is None:
        trip.stop("answers", f"{own.label} answers nothing", own.pointer, device=at.device, stage="answers")
    elif not lists.allows(trip.source.address.version, int(trip.source.address), trip.service):
        trip.stop(
            "answers",
            f"the answers {lists.name!r} of {own.label} do not name this service for {trip.source.address}",
            lists.pointer,
            device=at.device,
            stage="answers",
        )
    elif own is not at.ingress and not policy.answers_across:
        trip.stop(
            "answers",
            f"{at.device} does not answer across interfaces",
            policy.pointer + "/answers_across",
            device=at.device,
            stage="answers",
        )
    elif own.zone == at.ingress.zone or _filter(trip, policy, at.ingress, own):
        if at.device not in trip.crossed:
            trip.crossed.append(at.device)
        trip.arrive("answered", at.device, text, own.pointer, lists.pointer)


def _filter(trip: Trip, policy: Policy, ingress: L3Interface, egress: L3Interface) -> bool:
    """Zones and rules of a firewall (concepts, section 5, steps 1 and 5). Returns whether the packet passes."""
    if not _zone_fits(trip, policy, egress):
        return False
    return _judge(trip, policy, ingress.zone or "", egress.zone or "", egress.pointer)


def _judge(trip: Trip, policy: Policy, from_zone: str, to_zone: str, place: str) -> bool:
    """Rules between two zones, in order; a reply passes where its session is known."""
    source, target, name = trip.source.address, trip.target.address, policy.device
    if trip.sessions is not None:
        if name not in trip.sessions:
            reason = f"{name} gets a reply to a request it has never seen, and drops it"
            trip.stop("return", reason, place, device=name, stage="rule")
            return False
        trip.crossed.append(name)
        trip.note(name, "rule", "rule", f"{name} knows the session and lets the reply pass", policy.pointer, "session")
        return True
    zones = f"{from_zone} to {to_zone}"
    for rule in policy.lines(from_zone, to_zone):
        if rule.matches(source.version, int(source), int(target), trip.service):
            return _verdict(trip, policy, rule.action, f"rule {rule.name!r} ({zones})", rule.pointer, rule.name)
    action, at = policy.default(from_zone, to_zone)
    return _verdict(trip, policy, action, f"no rule matches {zones}; the default", at, "default")


def _verdict(trip: Trip, policy: Policy, action: str, what: str, pointer: str, label: str) -> bool:
    if action != "permit":
        verb = "drops it" if action == "drop" else "refuses it"
        trip.stop("rule", f"{policy.device}: {what} {verb}", pointer, device=policy.device, stage="rule")
        return False
    trip.crossed.append(policy.device)
    trip.decided_by.append(pointer)
    trip.note(policy.device, "rule", "rule", f"{policy.device}: {what} permits it", pointer, label)
    return True


def _zone_fits(trip: Trip, policy: Policy, interface: L3Interface) -> bool:
    """No zone, or one of the wrong kind: nothing passes (concepts, sections 5 and 10)."""
    problem = policy.zone_problem(interface.zone, "routed", interface.label)
    if problem is None:
        return True
    places = [p for p in (problem[1], interface.pointer) if p]
    trip.stop("zone", problem[0], *places, device=policy.device, stage="interface")
    return False


def _zone_text(interface: L3Interface) -> str:
    return f" (zone {interface.zone})" if interface.zone else ""


def _route_text(route: TableRoute) -> str:
    if route.discard:
        return f"{route.to} is discarded"
    if route.next_vrf:
        return f"{route.to} leads to VRF {route.next_vrf}"
    if route.origin == "behind":
        return f"{route.to} is {route.device}'s own"
    if route.via is None:
        return f"{route.to} is on the link of {route.interface}"
    return f"{route.to} goes to next hop {route.via} by {route.interface}"


def _device_at(site: Site, pointer: str) -> str:
    """Return the device a pointer leads into, or nothing."""
    steps = pointer.split("/")
    return site.design.devices[int(steps[2])].name if steps[1:2] == ["devices"] else ""


def _at(site: Site, device: str, key: str = "") -> str:
    index = next(i for i, d in enumerate(site.design.devices) if d.name == device)
    return f"/devices/{index}" + (f"/{key}" if key else "")
