"""From where boxes are run: whether a box answers a service by which it is managed, to hosts of a segment, or to the operator."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from anabasis.design.devices import BridgingBox, Outside
from anabasis.policy import AnswerList, Service, holds_service
from anabasis.routing import HostGroup, Intervals, L3Interface, intersect
from anabasis.site import Site, host_place, number_to_address, own_place
from anabasis.trace import walk
from anabasis.verdicts import side_of

MANAGEMENT: dict[str, Service] = {
    "ssh": (6, 22),
    "telnet": (6, 23),
    "http": (6, 80),
    "https": (6, 443),
    "snmp": (17, 161),
    "netconf-ssh": (6, 830),
}
"""Services by which boxes are run (IANA names)."""


@dataclass(frozen=True)
class Managed:
    """Which boxes the operator reaches."""

    known: bool
    """Whether the document says where the operator sits, and somebody can sit there."""
    reached: frozenset[str]
    answering: frozenset[str]
    """Boxes with an address that answers such a service to anybody; of the others only a console knows."""


def answered(
    site: Site,
    interface: L3Interface,
    answers: AnswerList,
    group: HostGroup,
    service: Service,
    among: Intervals | None = None,
) -> str | None:
    """Return the source of a packet that gets an answer, or None. `among`: addresses that it may have; None = any."""
    version = group.subnet.version
    own = next((a.ip for a in interface.addresses if a.version == version), None)
    spans = [(low, high) for family, low, high in answers.sources if family == version]
    able = intersect(site.net.host_spans(group), spans)
    able = able if among is None else intersect(able, among)
    if own is None or not able:
        return None
    preferred = host_place(site, group)
    source = preferred if preferred and any(low <= int(preferred.address) <= high for low, high in able) else None
    source = source or host_place(site, group, number_to_address(version, able[0][0]))
    if source is None:
        return None
    went = walk(site, source, own_place(site, interface, own), service)
    return str(source.address) if went.outcome == "answered" else None


def managed(site: Site) -> Managed:
    """Return which boxes the operator of a design reaches now. Cost: a walk for each address and service, until one is answered."""
    seats = list(_seats(site, site.design.operator)) if site.design.operator else []
    reached: set[str] = set()
    answering: set[str] = set()
    for interface in site.net.interfaces:
        answers = site.policies.answered_by(interface)
        box = site.net.devices[interface.device]
        if answers is None or not isinstance(box, BridgingBox) or isinstance(box, Outside) or not interface.addresses:
            continue
        services = [s for s in MANAGEMENT.values() if holds_service(answers.services, s)]
        if not services:
            continue
        answering.add(interface.device)
        if interface.device not in reached and any(
            answered(site, interface, answers, group, services[0], among) for group, among in seats
        ):
            reached.add(interface.device)
    return Managed(bool(seats), frozenset(reached), frozenset(answering))


def _seats(site: Site, operator: str) -> Iterator[tuple[HostGroup, Intervals | None]]:
    """Yield the hosts that the operator may be, and which of their addresses."""
    hosts = [g for g in site.net.hosts if g.endpoint == operator]
    if hosts:
        yield from ((g, None) for g in hosts)
        return
    for segment, wanted, _ in side_of(site, operator):
        for group in site.net.groups_of[segment]:
            among = None if wanted is None else wanted[group.subnet.version]
            if among is None or intersect(site.net.host_spans(group), among):
                yield group, among
