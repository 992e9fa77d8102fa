"""How one packet gets over a link: the frames that carry it, port by port (docs/semantics.md, "Frames and segments")."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from anabasis.design.pointers import device_at
from anabasis.design.ports import OverlayPort, TablePort
from anabasis.fabric import Attachment, LinkPort, why_apart
from anabasis.facts import VNI_FORM, Arrives, Cause, Layer, OverCable, SendsFrame, TakesFrame, Values, Wrong, because
from anabasis.routing import L3Interface
from anabasis.site import Place, Site
from anabasis.trace.lowest_cause import no_place
from anabasis.trace.packet import InBox, OnLink
from anabasis.trace.stages import cross_filter
from anabasis.trace.trip import Trip


def over_link(site: Site, trip: Trip, at: OnLink) -> InBox | None:
    """Carry the packet to the box it is sent to, else to whoever has its destination; None = its journey ends on this link."""
    if at.holders is not None:
        return _to_first_that_hears(site, trip, at.start, at.holders)
    target, address = trip.target, trip.header.destination
    alone = target.interface is not None and target.interface not in site.net.beside
    holders = [target.interface] if alone and target.interface else site.net.answering(address, at.start)
    if not holders:
        _to_host(site, trip, at, target)
        return None
    stray = _stray(trip)
    heard = any(i.attachment is not None and site.fabric.delivers(at.start, i.attachment) for i in holders)
    if stray is not None and not heard:
        trip.stop(stray, at.device)
        return None
    return _to_first_that_hears(site, trip, at.start, holders)


def _to_first_that_hears(site: Site, trip: Trip, start: Attachment, holders: Sequence[L3Interface]) -> InBox | None:
    """Carry the frame to the first of several interfaces that hears it."""
    on_links = [(i, i.attachment) for i in holders if i.attachment is not None]
    for interface, goal in on_links:
        if site.fabric.delivers(start, goal):
            passed = carry(site, trip, start, goal)
            return InBox(interface.device, interface.vrf, interface, trip.header) if passed else None
    if on_links:
        blocked(site, trip, start, on_links[0][1])
    else:
        first = holders[0]
        cause = first.cause or because(Layer.GATEWAY, Wrong.NO_INTERFACE, first.pointer, interface=first.label)
        trip.stop(cause, first.device)
    return None


def _to_host(site: Site, trip: Trip, at: OnLink, target: Place) -> None:
    """Carry the frame to the host that has the destination."""
    address, goal = trip.header.destination, target.attachment
    problem = _not_there(site, trip, at, target)
    if problem is not None:
        trip.stop(problem, at.device, "route" if problem.wrong in (Wrong.NOBODY_THERE, Wrong.BEHIND_OTHER) else "frame")
        return
    assert goal is not None
    assert target.segment is not None
    if not site.fabric.delivers(at.start, goal):
        blocked(site, trip, at.start, goal)
    elif carry(site, trip, at.start, goal):
        name = site.segments.all[target.segment].name
        trip.arrive(Arrives("arrives", goal.device, goal.pointer, "delivered", "in-segment", str(address), name))


def _not_there(site: Site, trip: Trip, at: OnLink, target: Place) -> Cause | None:
    """Return why nobody on the link can be the target, whatever frames do."""
    address, goal = trip.header.destination, target.attachment
    if target.segment is None:
        values: Values = {"device": at.device, "address": str(address)}
        return because(Layer.GATEWAY, Wrong.NOBODY_THERE, at.pointer, values=values)
    if address in site.net.contested:
        return site.net.contested[address]
    if target.group is not None and target.group.behind:
        values = {"address": str(address), "outside": target.group.behind, "device": at.device}
        return because(Layer.ROUTE, Wrong.BEHIND_OTHER, at.pointer, values=values)
    if goal is None:
        return no_place(site, site.segments.all[target.segment])
    stray = _stray(trip)
    return stray if stray is not None and not site.fabric.delivers(at.start, goal) else None


def _stray(trip: Trip) -> Cause | None:
    """Return why one of the two ends stands where its address does not belong."""
    groups = [p.group for p in (trip.target, trip.source) if p.group is not None]
    return next((g.stray for g in groups if g.stray is not None), None)


def carry(site: Site, trip: Trip, start: Attachment, goal: Attachment) -> bool:
    """Write down the frame's way, port by port. Tell whether it passes every filtering point on it."""
    fabric = site.fabric
    carriage = fabric.carry(start, goal)
    assert carriage is not None
    for (at, form), crossing in carriage.steps:
        if crossing is not None and not cross_filter(site, trip, crossing):
            return False
        port = fabric.ports[at]
        _over_cable(site, trip, port)
        if port.bridges:
            vlan, _ = fabric.classify((at, form))
            _take(trip, port, form, None if fabric.tables[port.box] is None else vlan)
        elif port.mode == "inline":
            _take(trip, port, form, None)
    if carriage.last is not None and not cross_filter(site, trip, carriage.last):
        return False
    if goal.kind == "edge" and goal.port:
        end = fabric.ports[goal.box, goal.port]
        trip.note(SendsFrame("frame-out", goal.device, end.pointer, end.label))
    return True


def blocked(site: Site, trip: Trip, start: Attachment, goal: Attachment) -> None:
    """Write down how far the frame gets, and what stops it."""
    why = why_apart(site.fabric, start, goal)
    for port, vlan in why.trail:
        _over_cable(site, trip, port)
        _take(trip, port, None, vlan)
    trip.stop(why.cause, device_at(site.design, why.cause.pointers[0]) if why.cause.pointers else "")


def _take(trip: Trip, port: LinkPort, tag: int | None, vlan: int | None) -> None:
    inline = not port.bridges and port.mode == "inline"
    vni = tag - VNI_FORM if tag is not None and tag > VNI_FORM else None
    tag = tag if vni is None else None
    trip.note(TakesFrame("frame-in", port.device, port.pointer, port.label, tag, vlan, inline, vni))


def _over_cable(site: Site, trip: Trip, port: LinkPort) -> None:
    """Write down the cable by which a frame comes to a port, where there is one."""
    laid = next((m.cable for m in port.members if m.up and m.cable), None)
    if laid and port.peer:
        near = site.fabric.ports[port.peer]
        over: Literal["cable", "tunnel", "overlay"] = "tunnel" if port.virtual else "cable"
        ends = near.label, port.label
        if isinstance(port.settings, OverlayPort | TablePort):
            over, ends = "overlay", (near.box, port.box)
        trip.note(OverCable("cable", port.device, laid, *ends, over))
