"""A packet and where it is: its header, the sessions it may answer, and the two states of its journey, inside a box or on a link."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from anabasis.design.notation import Address
from anabasis.fabric import Attachment
from anabasis.facts import Changed
from anabasis.policy import Service
from anabasis.routing import L3Interface, TableRoute


@dataclass(frozen=True)
class Header:
    """What translations change and routes and rules look at. Of a reply, `service` stays that of the request."""

    source: Address
    destination: Address
    service: Service

    @property
    def numbers(self) -> tuple[int, int, int, Service]:
        """Return (version, source, destination, service), as rules and translations match them."""
        return self.source.version, int(self.source), int(self.destination), self.service

    def changed_to(self, new: Header) -> Iterator[Changed]:
        """Yield the fields in which another header differs."""
        if new.source != self.source:
            yield Changed("source", str(self.source), str(new.source))
        if new.destination != self.destination:
            yield Changed("destination", str(self.destination), str(new.destination))
        if new.service != self.service:
            yield Changed("port", str(self.service[1]), str(new.service[1]))


@dataclass(frozen=True)
class Session:
    """What a firewall remembers of a flow it let pass: the packet as it came in, and as it went out."""

    device: str
    asked: Header
    sent: Header

    def answered_by(self, header: Header) -> bool:
        """Tell whether a packet is a reply to what went out."""
        return (header.source, header.destination) == (self.sent.destination, self.sent.source)

    @property
    def reply(self) -> Header:
        """Return the reply as whoever asked expects it."""
        return Header(self.asked.destination, self.asked.source, self.asked.service)


@dataclass(frozen=True)
class InBox:
    """The packet is inside a box, come in by an interface (None = sent by the box itself), to be looked up in a VRF."""

    device: str
    vrf: str
    ingress: L3Interface | None
    header: Header


@dataclass(frozen=True)
class OnLink:
    """The packet is on a link, on its way to one of some interfaces."""

    start: Attachment
    device: str
    """Who sent it."""
    pointer: str
    """What said that its goal is on this link: a route, or the sender's own subnet."""
    holders: tuple[L3Interface, ...] | None
    """Who answers for the gateway, or next hop, it is sent to; None = it is for whoever has its destination."""


@dataclass(frozen=True)
class RouteLookup:
    """One lookup a packet met: where, for which destination, and what it found."""

    device: str
    vrf: str
    ingress: L3Interface | None
    destination: Address
    route: TableRoute | None


@dataclass(frozen=True)
class Exit:
    """How a packet left a box by a route: for a translation of its source that should have been."""

    device: str
    ingress: L3Interface
    egress: L3Interface
    header: Header
