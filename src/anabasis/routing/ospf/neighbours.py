"""Neighbours: which two interfaces that speak OSPF form an adjacency, and why others do not (RFC 2328 sections 9.5, 10.5 and 10.6)."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from ipaddress import IPv4Address
from itertools import combinations

from anabasis.design.notation import Address, Interface, parse_area, parse_router_id, pointer
from anabasis.design.routes import Ospf as Settings
from anabasis.design.routes import OspfInterface
from anabasis.fabric import Crossing, Fabric, Segments, why_apart
from anabasis.facts import Cause, Layer, Value, Wrong, because
from anabasis.routing.interfaces import L3Interface

Router = tuple[str, str]
"""(device, VRF): one router of the domain."""
Met = Crossing | str
"""What a hello meets on its way: a filter that stands in the link, or, by its key, a stateless one at an interface."""
Hellos = Callable[[Met, Address, Address], Cause | None]
"""Why a filter on the way stops protocol 89 from one address to another; None where it lets it pass."""
USUAL_MTU = 1500
"""Bytes of the largest packet of a line that says nothing."""
LONE = 29
"""From this prefix length on an IPv4 subnet is a link between routers, not one of users."""


@dataclass(frozen=True, eq=False)
class Speaker:
    """One interface on which a router speaks, or which it announces without speaking (`passive`)."""

    router: Router
    router_id: int
    interface: L3Interface
    settings: OspfInterface
    area: int
    stub: bool
    mtu: int
    pointer: str
    """Its entry in the settings of the protocol."""
    at: str
    """Those settings."""

    @property
    def label(self) -> str:
        """Return `device interface`."""
        return self.interface.label

    @property
    def key(self) -> tuple[str, str]:
        """Return what it is called: (device, interface)."""
        return self.interface.device, self.interface.name

    def address(self, version: int) -> Interface | None:
        """Return the address it speaks from."""
        return next((a for a in self.interface.addresses if a.version == version), None)


@dataclass(frozen=True)
class Unlike:
    """Two interfaces that should be neighbours and are not: the cause names both sides."""

    one: Speaker
    two: Speaker
    version: int
    cause: Cause


def speakers_of(segments: Segments, interfaces: list[L3Interface]) -> list[Speaker]:
    """Return every interface of every router that takes part, in document order."""
    fabric, by_name = segments.fabric, {(i.device, i.name): i for i in interfaces}
    out: list[Speaker] = []
    for d, device in enumerate(fabric.design.devices):
        for v, vrf in enumerate(getattr(device, "vrfs", [])):
            settings: Settings | None = vrf.ospf
            own = [i for i in interfaces if i.device == device.name and i.vrf == vrf.name] if settings else []
            number = _router_id(settings, own) if settings is not None else None
            stubs = {parse_area(s.area) for s in settings.stub} if settings is not None else set()
            for k, entry in enumerate(settings.interfaces if settings is not None and number is not None else ()):
                interface = by_name.get((device.name, entry.interface))
                if interface is None or interface.vrf != vrf.name or number is None:
                    continue
                whole = pointer("devices", d, "vrfs", v, "ospf")
                at = f"{whole}/interfaces/{k}"
                area = parse_area(entry.area)
                router = device.name, vrf.name
                out.append(
                    Speaker(
                        router,
                        number,
                        interface,
                        entry,
                        area,
                        area in stubs,
                        line_mtu(fabric, interface) or USUAL_MTU,
                        at,
                        whole,
                    )
                )
    return out


def _router_id(settings: Settings, own: list[L3Interface]) -> int | None:
    """Return what is stated; else the highest address of a loopback, else of any interface, as boxes do."""
    if settings.router_id is not None:
        return int(parse_router_id(settings.router_id))
    for kind in ("loopback", None):
        held = [int(a.ip) for i in own if kind in (i.kind, None) for a in i.addresses if a.version == 4]
        if held:
            return max(held)
    return None


def line_mtu(fabric: Fabric, interface: L3Interface) -> int | None:
    """Return the largest packet of an interface's line in bytes; None where nothing is said, or it stands on no line."""
    at = interface.attachment
    port = fabric.ports.get((at.box, at.port)) if at is not None and at.port is not None else None
    said = [m.port.mtu for m in port.members if m.port.mtu is not None] if port is not None else []
    return min(said, default=None)


def candidates(segments: Segments, speakers: list[Speaker], version: int) -> Iterator[tuple[Speaker, Speaker]]:
    """Yield the pairs that may be meant as neighbours: on one link, or with addresses of one subnet."""
    near: dict[object, list[Speaker]] = defaultdict(list)
    for s in speakers:
        own = s.address(version)
        if own is None or s.interface.kind == "loopback":
            continue
        near[own.network].append(s)
        at = s.interface.attachment
        if at is not None and at.index in segments.of_attachment and s.interface.up:
            near[segments.all[segments.of_attachment[at.index]].domain].append(s)
    seen: set[tuple[int, int]] = set()
    for group in near.values():
        for one, two in combinations(group, 2):
            if one.router != two.router and (id(one), id(two)) not in seen and (id(two), id(one)) not in seen:
                seen.add((id(one), id(two)))
                if not (one.settings.passive and two.settings.passive):
                    yield one, two


def unlike(segments: Segments, one: Speaker, two: Speaker, version: int, hellos: Hellos) -> Cause | None:
    """Return why two interfaces are no neighbours, the lowest reason first; None where they are."""
    below = _apart(segments.fabric, one, two, version, hellos)
    if below is not None:
        return because(Layer.NEIGHBOUR, Wrong.NEIGHBOUR_UNHEARD, under=below, one=one.label, two=two.label)
    a, b = one.address(version), two.address(version)
    assert a is not None
    assert b is not None
    mine, theirs = one.settings, two.settings
    checks: tuple[tuple[Wrong, Value, Value, str], ...] = (
        (Wrong.NEIGHBOUR_PASSIVE, str(mine.passive), str(theirs.passive), "passive"),
        (Wrong.NEIGHBOUR_AREA, mine.area, theirs.area, "area") if one.area != two.area else _SAME,
        (Wrong.NEIGHBOUR_HELLO, mine.hello_s, theirs.hello_s, "hello_s"),
        (Wrong.NEIGHBOUR_DEAD, mine.dead_s, theirs.dead_s, "dead_s"),
        (Wrong.NEIGHBOUR_AUTH, mine.auth, theirs.auth, "auth"),
        (Wrong.NEIGHBOUR_STUB, _kind(one), _kind(two), "area"),
        (Wrong.NEIGHBOUR_NETWORK, mine.network, theirs.network, "network"),
        (Wrong.NEIGHBOUR_SUBNET, str(a), str(b), "") if _masked(one, two, version) else _SAME,
        (Wrong.NEIGHBOUR_MTU, one.mtu, two.mtu, ""),
    )
    for wrong, here, there, key in checks:
        if here != there:
            return _differ(one, two, wrong, here, there, key)
    if one.router_id == two.router_id:
        said = str(IPv4Address(one.router_id))
        return _differ(one, two, Wrong.NEIGHBOUR_ROUTER_ID, said, said, "")
    if mine.network == "broadcast" and not mine.priority and not theirs.priority:
        return _differ(one, two, Wrong.NEIGHBOUR_PRIORITY, 0, 0, "priority")
    return None


_SAME: tuple[Wrong, Value, Value, str] = (Wrong.NEIGHBOUR_AREA, "", "", "")


def _kind(speaker: Speaker) -> str:
    return "stub" if speaker.stub else "normal"


def _masked(one: Speaker, two: Speaker, version: int) -> bool:
    """Subnet and mask count on broadcast networks of IPv4 only (RFC 2328 section 10.5, RFC 5340 section 4.2.2.1); a next hop has to be on the link in any case."""
    a, b = one.address(version), two.address(version)
    if a is None or b is None or a.network == b.network:
        return False
    if version == 4 and one.settings.network == "broadcast":
        return True
    return b.ip not in a.network or a.ip not in b.network


def _differ(one: Speaker, two: Speaker, wrong: Wrong, mine: Value, theirs: Value, key: str) -> Cause:
    """Name both sides; of one that keeps silent, that side first."""
    first, second = (two, one) if wrong == Wrong.NEIGHBOUR_PASSIVE and two.settings.passive else (one, two)
    if first is two:
        mine, theirs = theirs, mine
    guilty = [f"{s.pointer}/{key}" if key else s.interface.pointer for s in (first, second)]
    said = {"one": first.label, "two": second.label, "mine": mine, "theirs": theirs}
    return because(Layer.NEIGHBOUR, wrong, *guilty, first.pointer, second.pointer, values=said)


def _apart(fabric: Fabric, one: Speaker, two: Speaker, version: int, hellos: Hellos) -> Cause | None:
    """Return what keeps frames, or the protocol, from passing both ways."""
    for s in (one, two):
        if s.interface.cause is not None:
            return s.interface.cause
    ends = one.interface.attachment, two.interface.attachment
    a, b = one.address(version), two.address(version)
    if ends[0] is None or ends[1] is None or a is None or b is None:
        return because(Layer.GATEWAY, Wrong.NO_INTERFACE, one.interface.pointer, interface=one.label)
    for start, goal, source, target in ((ends[0], ends[1], a, b), (ends[1], ends[0], b, a)):
        carried = fabric.carry(start, goal)
        if carried is None:
            return why_apart(fabric, start, goal).cause
        said, hears = (one, two) if start is ends[0] else (two, one)
        way: tuple[Met, ...] = (*said.interface.filters_out, *carried.crossings, *hears.interface.filters_in)
        for met in way:
            stopped = hellos(met, source.ip, target.ip)
            if stopped is not None:
                return stopped
    return None


def meant(segments: Segments, one: Speaker, two: Speaker, cause: Cause) -> bool:
    """Tell whether two interfaces that are no neighbours should be: one that keeps silent towards users need not speak to another there."""
    if cause.wrong != Wrong.NEIGHBOUR_PASSIVE:
        return one.settings.passive == two.settings.passive or _between_routers(segments, one)
    return _between_routers(segments, one)


def _between_routers(segments: Segments, speaker: Speaker) -> bool:
    at, own = speaker.interface.attachment, speaker.address(4)
    where = segments.of_attachment.get(at.index) if at is not None else None
    lone = own is not None and own.network.prefixlen >= LONE
    return lone or (where is not None and segments.all[where].kind == "transit")
