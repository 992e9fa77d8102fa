"""How one packet gets over a link: the frames that carry it, port by port (docs/semantics.md, "Frames and segments")."""

from __future__ import annotations

from anabasis.causes import Cause, Layer, Values, Wrong, because
from anabasis.fabric import Attachment, LinkPort, why_apart
from anabasis.routing import L3Interface
from anabasis.site import Site
from anabasis.trace.filtering import cross
from anabasis.trace.lowest_cause import no_place
from anabasis.trace.state import At, Trip


def to_one_of(site: Site, trip: Trip, start: Attachment, holders: list[L3Interface]) -> At | None:
    """Carry the frame to the first of several interfaces that hears it."""
    attachments = [(i, i.attachment) for i in holders if i.attachment is not None]
    for interface, attachment in attachments:
        if site.fabric.delivers(start, attachment):
            if not frames(site, trip, start, attachment):
                return None
            return At(interface.device, interface.vrf, interface, trip.header)
    if not attachments:
        first = holders[0]
        cause = first.cause or because(Layer.GATEWAY, Wrong.NO_INTERFACE, first.pointer, interface=first.label)
        trip.stop(cause, first.device)
        return None
    blocked(site, trip, start, attachments[0][1])
    return None


def blocked(site: Site, trip: Trip, start: Attachment, goal: Attachment) -> None:
    """Write down how far the frame gets, and what stops it."""
    why = why_apart(site.fabric, start, goal)
    for port, vlan in why.trail:
        cable(site, trip, port)
        trip.note(
            port.device, "frame", "vlan", f"{port.label} takes the frame into VLAN {vlan}", port.pointer, f"VLAN {vlan}"
        )
    trip.stop(why.cause, _device_at(site, why.cause.pointers[0]) if why.cause.pointers else "")


def frames(site: Site, trip: Trip, start: Attachment, goal: Attachment) -> bool:
    """Write down the frame's way, port by port. Returns whether it passes every filtering point on it."""
    fabric = site.fabric
    carriage = fabric.carry(start, goal)
    assert carriage is not None
    for (spot, form), crossing in carriage.steps:
        if crossing is not None and not cross(site, trip, crossing):
            return False
        port = fabric.ports[spot]
        wire = "without a tag" if form == 0 else f"with tag {form}"
        cable(site, trip, port)
        if port.bridges:
            vlan, _ = fabric.classify((spot, form))
            inside = "" if fabric.tables[port.box] is None else f" into VLAN {vlan}"
            text = f"{port.label} takes the frame {wire}{inside}"
            trip.note(port.device, "frame", "vlan", text, port.pointer, f"VLAN {vlan}")
        elif port.mode == "inline":
            trip.note(port.device, "frame", "vlan", f"{port.label} takes the frame {wire}", port.pointer, "inline")
    if carriage.last is not None and not cross(site, trip, carriage.last):
        return False
    if goal.kind == "edge" and goal.port:
        end: LinkPort = fabric.ports[goal.box, goal.port]
        trip.note(goal.device, "frame", "vlan", f"{end.label} sends the frame out", end.pointer, end.label)
    return True


def cable(site: Site, trip: Trip, port: LinkPort) -> None:
    """Write down the cable by which a frame comes to a port, where there is one."""
    laid = next((m.cable for m in port.members if m.up and m.cable), None)
    if laid and port.peer:
        text = f"over the cable from {site.fabric.ports[port.peer].label} to {port.label}"
        trip.note(port.device, "cable", "link", text, laid, port.label)


def to_link(site: Site, trip: Trip, start: Attachment, device: str, pointer: str) -> At | None:
    """Hand the packet to whoever has its destination on the link of `start`: a box that holds or claims it, else the target."""
    target, address = trip.target, trip.header.destination
    holders = [target.interface] if target.interface is not None else site.net.answering(address)
    if holders:
        stray = _stray(trip)
        heard = any(i.attachment is not None and site.fabric.delivers(start, i.attachment) for i in holders)
        if stray is not None and not heard:
            trip.stop(stray, device)
            return None
        return to_one_of(site, trip, start, holders)
    goal = target.attachment
    if target.segment is None:
        values: Values = {"device": device, "address": str(address)}
        trip.stop(because(Layer.GATEWAY, Wrong.NOBODY_THERE, pointer, values=values), device, "route")
        return None
    segment = site.segments.all[target.segment]
    if address in site.net.contested:
        trip.stop(site.net.contested[address], device)
    elif target.group is not None and target.group.behind:
        values = {"address": str(address), "outside": target.group.behind, "device": device}
        trip.stop(because(Layer.ROUTE, Wrong.BEHIND_OTHER, pointer, values=values), device, "route")
    elif goal is None:
        trip.stop(no_place(site, segment), device)
    elif (stray := _stray(trip)) is not None and not site.fabric.delivers(start, goal):
        trip.stop(stray, device)
    elif not site.fabric.delivers(start, goal):
        blocked(site, trip, start, goal)
    elif frames(site, trip, start, goal):
        trip.arrive("delivered", goal.device, f"{address} in {segment.name} receives it", goal.pointer)
    return None


def _stray(trip: Trip) -> Cause | None:
    """Return why one of the two ends stands where its address does not belong."""
    groups = [p.group for p in (trip.target, trip.source) if p.group is not None]
    return next((g.stray for g in groups if g.stray is not None), None)


def _device_at(site: Site, pointer: str) -> str:
    """Return the device a pointer leads into, or nothing."""
    steps = pointer.split("/")
    return site.design.devices[int(steps[2])].name if steps[1:2] == ["devices"] else ""
