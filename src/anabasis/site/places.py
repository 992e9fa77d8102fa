"""Places a question may name: an address, a segment, a device or `device:port`."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.design.notation import Address, end_asked, looks_like_address, parse_address
from anabasis.errors import Problem, UnknownPlace, nearest
from anabasis.fabric import Attachment
from anabasis.facts import Cause, Layer, Wrong, because
from anabasis.routing import HostGroup, L3Interface
from anabasis.site.site import Site, number_to_address

PREFERRED = (parse_address("192.0.2.10"), parse_address("203.0.113.10"), parse_address("2001:db8::10"))
"""Where a concrete address behind an outside is wanted, the documentation prefixes come first (RFC 5737, RFC 3849)."""


@dataclass(frozen=True)
class Place:
    """One concrete end of a flow: a host, or a box's own interface."""

    label: str
    address: Address
    segment: int | None
    attachment: Attachment | None
    group: HostGroup | None
    interface: L3Interface | None = None
    prefers: int | None = None
    """The segment meant, where the address may stand in several, or is translated into one."""


@dataclass(frozen=True)
class Candidate:
    """What a text may mean, before the family is chosen."""

    places: tuple[Place, ...]
    text: str
    cause: Cause | None = None
    """Why it has no address, where it asked for one in vain."""

    @property
    def families(self) -> set[int]:
        """Return the address families it has."""
        return {p.address.version for p in self.places}

    def of(self, version: int) -> Place | None:
        """Return the first place of a family."""
        return next((p for p in self.places if p.address.version == version), None)


def host_place(site: Site, group: HostGroup, address: Address | None = None) -> Place | None:
    """Return a host of a group: the given address, or the first it may have. None where it may have none."""
    if address is None:
        spans = site.net.host_spans(group)
        if not spans and group.endpoint:
            return Place(group.endpoint, group.first, group.segment, group.attachment, group)
        if not spans:
            return None
        wanted = [int(p) for p in PREFERRED if p.version == group.subnet.version]
        inside = [p for p in wanted if any(low <= p <= high for low, high in spans)] if group.behind else []
        address = number_to_address(group.subnet.version, inside[0] if inside else spans[0][0])
    label = group.endpoint or f"a host in {site.segments.all[group.segment].name}"
    return Place(label, address, group.segment, group.attachment, group)


def find_place(site: Site, text: str) -> Candidate:
    """Return what a text names. Raises UnknownPlace with the nearest name."""
    if text in site.segments.by_name:
        return Candidate(tuple(_in_segment(site, site.segments.by_name[text])), text)
    found = _at_device(site, text)
    denied = [h.cause for (name, _), h in site.handed.items() if name == text and h.cause is not None]
    if found or denied:
        under = because(Layer.ANSWERS, Wrong.NO_LEASE, under=denied[0], host=text) if denied and not found else None
        return Candidate(tuple(found), text, under)
    if looks_like_address(text) and "/" not in text:
        return Candidate((_at_address(site, _read(text)),), text)
    names = [s.name for s in site.segments.all] + [d.name for d in site.design.devices]
    raise UnknownPlace(
        [
            Problem(
                "",
                "this is no segment, device, device:port or address",
                repr(text),
                ", ".join(names[:14]),
                nearest(text, names),
            )
        ]
    )


def _read(text: str) -> Address:
    try:
        return parse_address(text)
    except ValueError as error:
        raise UnknownPlace([Problem("", "badly written", repr(text), str(error))]) from None


def _in_segment(site: Site, segment: int) -> list[Place]:
    return [p for g in site.net.groups_of[segment] if (p := host_place(site, g))]


def own_place(site: Site, interface: L3Interface, address: Address) -> Place:
    """Return a box's own address as a place."""
    segment = site.segments.of_attachment.get(interface.attachment.index) if interface.attachment else None
    return Place(interface.label, address, segment, interface.attachment, None, interface)


def _at_address(site: Site, address: Address, prefers: int | None = None) -> Place:
    for interface in site.net.interfaces:
        if (interface.holds(address) or address in interface.units_all) and address not in site.net.contested:
            return own_place(site, interface, address)
    groups = [g for g in site.net.hosts if g.holds(address) and _may_have(site, g, address)]
    rank = lambda g: (g.segment != prefers, g.endpoint is None, -g.subnet.prefixlen, g.gateway is None, g.segment)  # noqa: E731
    if not groups and address in site.net.contested:
        groups = [g for g in site.net.hosts if g.endpoint and g.first == address]
    place = host_place(site, min(groups, key=rank), address) if groups else None
    if place is None and translated(site, address):
        return published_place(address)
    if place is None:
        raise UnknownPlace(
            [
                Problem(
                    "",
                    "no host of any subnet can have this address",
                    str(address),
                    ", ".join(sorted({n for s in site.segments.all for n in s.subnets})),
                )
            ]
        )
    return place


def receiver(site: Site, address: Address, prefers: int | None = None) -> Place:
    """Return who is to receive packets to an address; a place without segment where nobody can have it."""
    try:
        return _at_address(site, address, prefers)
    except UnknownPlace:
        return Place(str(address), address, None, None, None)


def published_place(address: Address, segment: int | None = None) -> Place:
    """Return a translated address as a place: who receives the packets, the translation says."""
    return Place(f"the published address {address}", address, None, None, None, None, segment)


def _may_have(site: Site, group: HostGroup, address: Address) -> bool:
    return any(low <= int(address) <= high for low, high in site.net.host_spans(group))


def translated(site: Site, address: Address) -> bool:
    """Tell whether some translation speaks of an address as a destination."""
    return any(
        family == address.version and low <= int(address) <= high
        for p in site.policies.translating.values()
        for t in p.translations
        if t.changes_destination
        for family, low, high in t.destinations
    )


def _at_device(site: Site, text: str) -> list[Place]:
    box, port = end_asked(text)
    here = [
        t for t in site.fabric.attachments if box in (t.box, t.device) and (":" not in text or port in (t.port, t.name))
    ]
    here = [*_far_ends(site, box, port), *here] if ":" in text else here
    places: list[Place] = []
    for attachment in here:
        interface = site.net.by_attachment.get(attachment)
        if interface is not None:
            places += [own_place(site, interface, a.ip) for a in interface.addresses]
            continue
        groups = site.net.groups_of[site.segments.of(attachment)]
        own = [g for g in groups if g.endpoint == attachment.device]
        if attachment.kind == "endpoint" and not own and (attachment.device, attachment.name) in site.handed:
            continue
        for group in own or [g for g in groups if g.endpoint is None]:
            place = host_place(site, group)
            if place:
                places.append(
                    Place(
                        f"a host on {text}" if attachment.kind == "edge" else place.label,
                        place.address,
                        place.segment,
                        attachment,
                        group,
                    )
                )
    return places


def _far_ends(site: Site, box: str, port: str) -> list[Attachment]:
    """A switch port with an endpoint on it stands for that endpoint."""
    line = site.fabric.ports.get((box, port))
    return [t for t in site.fabric.attachments if line and line.peer and (t.box, t.port) == line.peer]
