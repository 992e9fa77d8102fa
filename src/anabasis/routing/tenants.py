"""What tables of tenants tell each other on an overlay: prefixes, and hosts one by one (RFC 9136, RFC 9135 section 5)."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from ipaddress import ip_network

from anabasis.design import Design
from anabasis.design.devices import BridgingBox
from anabasis.design.notation import Address, Network, parse_prefix
from anabasis.design.overlay import Side, hears, routed_name, sides, stretched
from anabasis.design.routes import Vrf
from anabasis.fabric import Segments
from anabasis.facts import Layer, Wrong, because
from anabasis.routing.hosts import HostGroup
from anabasis.routing.interfaces import L3Interface
from anabasis.routing.tables import Table, TableRoute, in_table

Tables = Mapping[tuple[str, str], Table]


@dataclass(frozen=True)
class Told:
    """One prefix that a table tells others, or one host."""

    to: Network
    how: str
    """`prefix` or `host`."""


@dataclass(frozen=True)
class Misplaced:
    """A gateway of a stretched VLAN that stands in another table than on the other boxes."""

    gateway: L3Interface
    vlan: int
    right: L3Interface
    """One of those that stand where most do."""


def misplaced(design: Design, by_name: Mapping[tuple[str, str], L3Interface]) -> Iterator[Misplaced]:
    """Yield the gateways of one VNI that do not stand where most of it do; where as many stand here as there, most of the tenant tell."""
    held = [(side, entry, mac) for side in sides(design) for entry, mac, _ in stretched(side)]
    found = [(by_name.get((side.device, f"vlan{entry.irb}")), entry, mac) for side, entry, mac in held]
    known = [(g, entry, mac) for g, entry, mac in found if g is not None]
    for vni in dict.fromkeys(entry.vni for _, entry, _ in known):
        mine = [(g, entry, mac) for g, entry, mac in known if entry.vni == vni]
        names = Counter(g.vrf for g, _, _ in mine)
        tenant = Counter(g.vrf for g, _, mac in known if mac.name == mine[0][2].name)
        usual = max(names, key=lambda n: (names[n], tenant[n]))
        right = next(g for g, _, _ in mine if g.vrf == usual)
        yield from (Misplaced(g, entry.vlan, right) for g, entry, _ in mine if g.vrf != usual)


def symmetric(vrf: Vrf) -> bool:
    """Tell whether a table tells its hosts one by one (RFC 9135 section 5.1)."""
    return vrf.irb_mode == "symmetric" or (vrf.irb_mode is None and vrf.vni is not None)


def advertised(vrf: Vrf, table: Table | None) -> list[Network]:
    """Return the prefixes that a table tells others: those it lists, or those it is connected to, while it is."""
    if vrf.advertise != "connected":
        return [parse_prefix(p) for p in vrf.advertise]
    routes = table.routes if table is not None else ()
    return list(dict.fromkeys(r.to for r in routes if r.origin == "connected" and r.active))


def with_told(
    segments: Segments, interfaces: list[L3Interface], tables: Tables, hosts: list[HostGroup]
) -> dict[tuple[str, str], Table]:
    """Return tables with what other tables of tenants tell them; directed: who imports a target hears whoever exports it."""
    known = sides(segments.fabric.design)
    by_name = {(i.device, i.name): i for i in interfaces}
    told = {
        (two.device, theirs.name): [
            *(Told(p, "prefix") for p in advertised(theirs, tables.get((two.device, theirs.name)))),
            *(_hosts(segments, two, theirs, by_name, hosts) if symmetric(theirs) else ()),
        ]
        for two in known
        for theirs, _ in two.vrfs
    }
    out = dict(tables)
    for one in known:
        for mine, at in one.vrfs:
            table = tables.get((one.device, mine.name))
            more = list(_heard(segments, one, mine, at, known, told, by_name))
            if table is not None and more:
                routes = tuple(sorted((*table.routes, *more), key=in_table))
                out[one.device, mine.name] = Table(
                    one.device, mine.name, routes, table.steering if table is not None else ()
                )
    return out


def _heard(
    segments: Segments,
    one: Side,
    mine: Vrf,
    at: str,
    known: list[Side],
    told: Mapping[tuple[str, str], list[Told]],
    by_name: Mapping[tuple[str, str], L3Interface],
) -> Iterator[TableRoute]:
    device = next(d for d in segments.fabric.design.devices if d.name == one.device)
    assert isinstance(device, BridgingBox)
    trust = device.preferences.overlay
    for two in known:
        for theirs, _ in two.vrfs:
            itself = two is one
            if (itself and theirs is mine) or not hears(mine, theirs) or (theirs.vni is None and not itself):
                continue
            name = None if itself else routed_name(mine.name, two.device, theirs.name)
            interface = by_name.get((one.device, name)) if name is not None else None
            cause = None
            if interface is not None and interface.cause is not None:
                cause = because(Layer.LINK, Wrong.INTERFACE_DOWN, at, under=interface.cause, interface=interface.name)
            via = _source(two, by_name) if not itself else None
            goes = (name, theirs.name if itself else None, False, trust, 0, cause, at)
            for x in told[two.device, theirs.name]:
                if x.how == "prefix" or not itself:
                    yield TableRoute(one.device, mine.name, x.to, "overlay", via, None, *goes, learnt=x.how)


def _source(side: Side, by_name: Mapping[tuple[str, str], L3Interface]) -> Address | None:
    """Return the next hop that a box tells for its routes: its source (RFC 9136 section 3.1)."""
    held = by_name.get((side.device, side.source))
    return next((a.ip for a in held.addresses), None) if held is not None else None


def _hosts(
    segments: Segments,
    side: Side,
    vrf: Vrf,
    by_name: Mapping[tuple[str, str], L3Interface],
    hosts: list[HostGroup],
) -> Iterator[Told]:
    """Yield the hosts that stand at a box itself in a VLAN that it stretches, behind a gateway of the table."""
    fabric = segments.fabric
    for held, _, _ in stretched(side):
        gateway = by_name.get((side.device, f"vlan{held.irb}"))
        if gateway is None or gateway.attachment is None or gateway.vrf != vrf.name or not gateway.up:
            continue
        for group in hosts:
            if group.endpoint is None or group.attachment is None or not gateway.subnet_of(group.first):
                continue
            carriage = fabric.carry(group.attachment, gateway.attachment)
            if carriage is not None and not fabric.over_overlay(carriage):
                yield Told(ip_network(group.first), "host")
