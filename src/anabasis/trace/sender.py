"""What the sender of a packet does first (docs/semantics.md, "Hosts"): on its link straight to the target, else to its gateway."""

from __future__ import annotations

from anabasis.fabric import Attachment, Segment
from anabasis.facts import Cause, Layer, Sends, SendsHow, Values, Wrong, because
from anabasis.routing import HostGroup
from anabasis.site import Site
from anabasis.trace.lowest_cause import no_gateway, no_place
from anabasis.trace.packet import InBox, OnLink
from anabasis.trace.stages import own_reply
from anabasis.trace.trip import Trip


def set_out(site: Site, trip: Trip) -> InBox | OnLink | None:
    """Send the packet; None = it goes nowhere."""
    if trip.source.interface is not None:
        return _box_sends(site, trip)
    group = trip.source.group
    assert group is not None
    assert trip.source.segment is not None
    segment = site.segments.all[trip.source.segment]
    if group.behind:
        _note(trip, group.behind, segment.pointer, "from-behind", group.behind)
        return InBox(group.behind, "main", None, trip.header)
    if trip.source.attachment is None:
        trip.stop(no_place(site, segment), segment.name, "host")
        return None
    return _host_sends(site, trip, group, trip.source.attachment, segment)


def _box_sends(site: Site, trip: Trip) -> InBox:
    """A box sends from an address of its own."""
    own = trip.source.interface
    assert own is not None
    _note(trip, own.device, own.pointer, "own-address", trip.source.label)
    if trip.is_reply:
        own_reply(site, trip, trip.source)
    return InBox(own.device, own.vrf, None, trip.header)


def _host_sends(site: Site, trip: Trip, group: HostGroup, start: Attachment, segment: Segment) -> OnLink | None:
    """A host on a link sends, with what it knows: its address, its mask, its gateway."""
    source, address, device = trip.source, trip.header.destination, start.device
    if source.address in site.net.contested:
        trip.stop(site.net.contested[source.address], device, "host")
        return None
    if address.version == group.subnet.version and group.on_link and address in group.subnet:
        _note(trip, device, group.pointer, "on-link", source.label)
        return OnLink(start, device, group.pointer, None)
    problem = _no_way_out(site, group, start, segment)
    if problem is not None:
        trip.stop(problem, device, "host")
        return None
    gateway = group.gateway
    assert gateway is not None
    _note(trip, device, group.pointer, "to-gateway", source.label, str(gateway), group.assumed)
    holders = tuple(site.net.gateways(gateway, start) or site.net.silent_outsides(gateway, start))
    if not holders:
        trip.stop(no_gateway(site, group, segment), device, "host")
        return None
    return OnLink(start, device, group.pointer, holders)


def _no_way_out(site: Site, group: HostGroup, start: Attachment, segment: Segment) -> Cause | None:
    """Return why a host cannot send beyond its link."""
    usable = group.gateway is not None and group.can_use
    if usable and (group.stray is None or _gateway_hears(site, group, start)):
        return None
    return group.stray or group.cause or _without_gateway(group, segment)


def _gateway_hears(site: Site, group: HostGroup, start: Attachment) -> bool:
    holders = site.net.gateways(group.gateway) if group.gateway is not None else []
    return any(i.attachment is not None and site.fabric.delivers(start, i.attachment) for i in holders)


def _without_gateway(group: HostGroup, segment: Segment) -> Cause:
    values: Values = {"subnet": str(group.subnet), "segment": segment.name}
    if group.gateway is None:
        return because(Layer.GATEWAY, Wrong.NO_GATEWAY, group.pointer, values=values)
    said: Values = {"host": group.endpoint or segment.name, "gateway": str(group.gateway)}
    return because(Layer.GATEWAY, Wrong.GATEWAY_BEYOND, group.pointer, values=said)


def _note(
    trip: Trip, device: str, pointer: str, how: SendsHow, sender: str, gateway: str = "", assumed: bool = False
) -> None:
    source, destination = str(trip.header.source), str(trip.header.destination)
    trip.note(Sends("sends", device, pointer, how, sender, source, destination, gateway, assumed))
