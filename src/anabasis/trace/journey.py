"""The journey of one packet in one direction: out of its sender, over links and through boxes, to its end. Request and reply go the same road."""

from __future__ import annotations

from anabasis.facts import FollowsRoute, Layer, Wrong, because
from anabasis.site import Place, Site
from anabasis.trace.link import over_link
from anabasis.trace.lowest_cause import lowest
from anabasis.trace.packet import Header, InBox
from anabasis.trace.sender import set_out
from anabasis.trace.stages import through_box
from anabasis.trace.trip import Choices, Trip


def request(site: Site, source: Place, target: Place, header: Header, choices: Choices) -> Trip:
    """Send a packet that opens a session of its own."""
    return _travel(site, Trip(source, target, header, None, None, choices))


def reply(site: Site, asked: Trip, source: Place, choices: Choices) -> Trip:
    """Send the reply to a packet that arrived, from whoever received it."""
    header = Header(asked.header.destination, asked.header.source, asked.header.service)
    same = asked.source.address == header.destination
    target = asked.source if same else Place(str(header.destination), header.destination, None, None, None)
    return _travel(site, Trip(source, target, header, tuple(asked.crossed), asked.source, choices))


def _travel(site: Site, trip: Trip) -> Trip:
    at = set_out(site, trip)
    been: set[InBox] = set()
    while at is not None:
        if not isinstance(at, InBox):
            at = over_link(site, trip, at)
        elif at in been:
            loop = [s.pointer for s in trip.steps if isinstance(s, FollowsRoute)][-2:]
            trip.stop(because(Layer.ROUTE, Wrong.LOOP, *loop, device=at.device), at.device, "route")
            break
        else:
            been.add(at)
            at = through_box(site, trip, at)
    found = lowest(site, trip) if trip.outcome == "stopped" else None
    if found is not None and found is not trip.cause:
        trip.stop_again(found)
    return trip
