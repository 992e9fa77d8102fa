"""All tests that a sheet may be made of: of each VLAN its link, its lease and its gateway, of each expectation and of each pair of zones both sides, and
what boxes show of themselves. Each is worked out on the sound site, so what it expects is what the design says."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from anabasis.design.devices import Firewall, Outside
from anabasis.design.notation import parse_interface
from anabasis.facts import Aim, AimKind, Do, Looks, Permits, SheetTest, Shown, Translates
from anabasis.site import Site, host_place, number_to_address
from anabasis.testing.showing import Scene
from anabasis.testing.stands import Stand
from anabasis.trace import Walk
from anabasis.verdicts import side_of

PING = "icmp/8"
PING6 = "icmpv6/128"
USUAL = ("tcp/443", "udp/53")
"""What is asked for besides what the rules speak of."""
MOST_SERVICES, MOST_OF_RULE = 14, 2
MOST_KEPT = {"answer": 2}
"""How many tests of a pair are kept that show the same."""
MOST_PAIRS, MOST_TESTS = 400, 1_500


@dataclass(frozen=True)
class _Target:
    """Somebody who can be asked."""

    segment: str
    address: str
    host: str


def ask(scene: Scene) -> list[SheetTest]:
    """Return the tests that can be made, with what each is to show."""
    site = scene.by_hand
    drafts = [*_of_vlans(scene), *_of_expectations(scene, site), *_of_pairs(scene, site), *_looks(site)]
    known: dict[tuple[object, ...], SheetTest] = {}
    for test in drafts:
        key = test.at, test.tag, test.do, test.target, test.service, test.host, test.looks
        held = known.get(key)
        known[key] = test if held is None else replace(held, aims=tuple(dict.fromkeys((*held.aims, *test.aims))))
    tests = list(known.values())[:MOST_TESTS]
    shown = scene.shows(tests)
    told: dict[tuple[str, str, str, str], SheetTest] = {}
    out: list[SheetTest] = []
    for k, (test, seen) in enumerate(zip(tests, shown, strict=True), 1):
        test = replace(test, id=f"T{k}", expect=seen)
        out.append(_told(scene, site, test, told) if test.do in (Do.PING, Do.CONNECT) else test)
    return out


def _told(scene: Scene, site: Site, test: SheetTest, told: dict[tuple[str, str, str, str], SheetTest]) -> SheetTest:
    """Return a test with what boxes show of its packet meanwhile."""
    went = scene.walked(site, test)
    if went is None:
        return test
    rule = next((f"{s.device} {s.rule}" for s in went.steps if isinstance(s, Permits) and s.rule), "")
    changed = next(
        (c.after for s in went.steps if isinstance(s, Translates) for c in s.changes if c.field == "source"), ""
    )
    return replace(test, rule=rule or _dropped(went), translated=str(changed), cause=went.cause)


def _dropped(went: Walk) -> str:
    known = went.cause.root.known if went.cause is not None else {}
    return f"{known['device']} {known['rule']}" if known.get("rule") and known.get("device") else ""


def _test(
    stand: Stand, do: Do, target: str, service: str, aims: tuple[Aim, ...], to: str = "", host: str = ""
) -> SheetTest:
    return SheetTest("", stand.at, stand.tag, do, target, service, Shown("none"), aims, stand.segment, to, host)


def _of_vlans(scene: Scene) -> Iterator[SheetTest]:
    """Yield of each place to stand: is there a link, is there a lease, does the gateway answer, does a neighbour."""
    site = scene.by_hand
    by_segment: dict[str, list[Stand]] = {}
    outside = {s.name for s in site.segments.all if s.kind == "outside"}
    for stand in (s for s in scene.stands if s.segment not in outside):
        by_segment.setdefault(stand.segment, []).append(stand)
    served = {device for (device, _), handed in scene.leased.handed.items() if handed.leased is not None}
    hands_out = {site_name(scene.leased, device) for device in served}
    for segment, stands in by_segment.items():
        for stand in stands:
            aims = (Aim(AimKind.VLAN, segment),)
            if stand.laptop:
                yield _test(stand, Do.LINK, stand.at, "", aims)
            if stand.host in served or (segment in hands_out and stand.laptop):
                yield replace(_test(stand, Do.LEASE, "", "", aims), range=_ranges(scene.leased, stand.host))
            for gateway in _gateways(site, stand):
                yield _test(stand, Do.PING, gateway, PING6 if ":" in gateway else PING, aims, segment)
            for other in stands:
                if other is not stand:
                    for target in _targets(site, other):
                        yield _test(
                            stand,
                            Do.PING,
                            target.address,
                            PING6 if ":" in target.address else PING,
                            aims,
                            segment,
                            target.host,
                        )


def site_name(site: Site, endpoint: str) -> str:
    """Return what the segment is called that a host stands in; the host itself where it stands in none."""
    group = next((g for g in site.net.hosts if g.endpoint == endpoint), None)
    return endpoint if group is None else site.segments.all[group.segment].name


def _gateways(site: Site, stand: Stand) -> list[str]:
    return list(
        dict.fromkeys(
            str(g.gateway)
            for g in site.net.hosts
            if g.endpoint == stand.host and g.gateway is not None and not g.gateway.is_link_local
        )
    )


def _ranges(site: Site, host: str) -> str:
    for (device, _), handed in site.handed.items():
        if device == host and handed.leased is not None and handed.server is not None:
            return ", ".join(str(r) for r in handed.server.settings.ranges)
    return ""


def _targets(site: Site, stand: Stand) -> Iterator[_Target]:
    for group in site.net.hosts:
        if group.endpoint == stand.host:
            yield _Target(site.segments.all[group.segment].name, str(group.first), stand.host)


def _everybody(scene: Scene, site: Site) -> dict[str, list[_Target]]:
    """Return whom one can ask in each segment: hosts that are there first, then laptops, then what is behind an outside."""
    out: dict[str, list[_Target]] = {}
    laptops = {s.laptop for s in scene.stands if s.laptop}
    for group in sorted(site.net.hosts, key=lambda g: (g.endpoint in laptops, g.first.version)):
        name = site.segments.all[group.segment].name
        if group.endpoint:
            out.setdefault(name, []).append(_Target(name, str(group.first), group.endpoint))
    for k, segment in enumerate(site.segments.all):
        if segment.kind == "outside":
            places = [host_place(site, g) for g in site.net.groups_of[k]]
            out.setdefault(segment.name, []).extend(
                _Target(segment.name, str(p.address), "") for p in places if p is not None
            )
    return out


def _senders(scene: Scene, site: Site) -> dict[str, list[Stand]]:
    """Return who can ask from each segment: two that stand on different boxes, and whoever has an address of the other family."""
    able = {name for g in site.net.hosts for name in (g.endpoint, g.behind) if name}
    out: dict[str, list[Stand]] = {}
    for stand in scene.stands:
        if stand.host in able:
            out.setdefault(stand.segment, []).append(stand)
    return out


def _of_expectations(scene: Scene, site: Site) -> Iterator[SheetTest]:
    """Yield for each expectation a test a service and a side it names."""
    senders, targets = _senders(scene, site), _everybody(scene, site)
    names = [s.name for s in site.segments.all]
    for wanted in site.design.expectations:
        aims = (Aim(AimKind.EXPECTATION, wanted.name),)
        pairs = [
            (stand, target)
            for a, mine, _ in side_of(site, wanted.from_)
            for b, theirs, owned in side_of(site, wanted.to)
            if a != b
            for stand in senders.get(names[a], [])[:1]
            for target in (_within(targets.get(names[b], []), theirs) if owned else _published(names[b], theirs))[:1]
        ]
        for stand, target in pairs[:4]:
            for service in wanted.services[:3]:
                concrete = "tcp/443" if service == "any" else service
                yield _test(stand, Do.CONNECT, target.address, concrete, aims, target.segment, target.host)


def _within(targets: list[_Target], wanted: object) -> list[_Target]:
    if not isinstance(wanted, dict):
        return targets
    inside = []
    for target in targets:
        address = parse_interface(f"{target.address}/{32 if '.' in target.address else 128}").ip
        if any(low <= int(address) <= high for low, high in wanted.get(address.version, ())):
            inside.append(target)
    return inside


def _published(segment: str, wanted: object) -> list[_Target]:
    """Return an address that stands for hosts of a segment, by a translation."""
    spans = [(v, low) for v in (4, 6) for low, _ in wanted.get(v, ())] if isinstance(wanted, dict) else []
    return [_Target(segment, str(number_to_address(v, low)), "") for v, low in spans[:1]]


def _services(site: Site) -> list[str]:
    """Return one concrete service of each that rules speak of, and those that everybody uses."""
    found: dict[str, None] = {PING: None}
    for device in site.design.devices:
        for rule in device.rules if isinstance(device, Firewall) else ():
            for service in rule.services[:MOST_OF_RULE]:
                if service != "any":
                    found[service] = None
    found |= dict.fromkeys(USUAL)
    return list(found)[:MOST_SERVICES]


def _of_pairs(scene: Scene, site: Site) -> Iterator[SheetTest]:
    """Yield for each ordered pair of segments that one can stand in and ask in, what passes and what does not: of zones, at least one of each."""
    senders, targets = _senders(scene, site), _everybody(scene, site)
    services = _services(site)
    zones = _zones(site)
    pairs = [(a, b) for a in senders for b in targets if a != b][:MOST_PAIRS]
    for a, b in pairs:
        between = tuple(Aim(AimKind.ZONES, f"{x} → {y}") for x in zones.get(a, ()) for y in zones.get(b, ()))
        for stand in senders[a][:1]:
            for target in targets[b][:1]:
                kept: dict[str, int] = {}
                for service in services:
                    draft = _test(
                        stand,
                        Do.PING if service == PING else Do.CONNECT,
                        target.address,
                        _fit(service, target.address),
                        between,
                        b,
                        target.host,
                    )
                    (seen,) = scene.shows([draft])
                    if kept.get(seen.kind, 0) < MOST_KEPT.get(seen.kind, 1):
                        kept[seen.kind] = kept.get(seen.kind, 0) + 1
                        yield draft


def _fit(service: str, address: str) -> str:
    return PING6 if service == PING and ":" in address else service


def _zones(site: Site) -> dict[str, tuple[str, ...]]:
    """Return the zones of each segment, as `box zone`."""
    out: dict[str, list[str]] = {}
    for box, at in site.zones_at.items():
        for k, segment in enumerate(site.segments.all):
            for zone in at[k]:
                out.setdefault(segment.name, []).append(f"{box} {zone}")
    return {name: tuple(dict.fromkeys(held)) for name, held in out.items()}


def _looks(site: Site) -> Iterator[SheetTest]:
    """Yield what boxes show of themselves: lines that have a cable, interfaces, routes that lead on, who is active."""
    aims = (Aim(AimKind.FAULTS, ""),)
    foreign = {d.name for d in site.design.devices if isinstance(d, Outside) or d.kind in ("endpoint", "hub")}

    def look(box: str, looks: Looks, target: str) -> SheetTest:
        return SheetTest("", box, None, Do.LOOK, target, "", Shown("up"), aims, "", box, looks=looks)

    for (box, name), line in site.fabric.ports.items():
        if (
            line.device not in foreign
            and line.peer is not None
            and not line.virtual
            and not line.peer[0].startswith("laptop ")
        ):
            yield look(box, Looks.PORT, name)
    for interface in site.net.interfaces:
        if interface.device not in foreign and interface.addresses and interface.kind != "overlay":
            yield look(interface.device, Looks.INTERFACE, interface.name)
    for (name, vrf), table in site.net.tables.items():
        if name in foreign:
            continue
        for to in dict.fromkeys(
            str(r.to) for r in table.routes if r.origin in ("static", "ospf", "learned") and r.active
        ):
            yield look(name, Looks.ROUTE, f"{vrf} {to}")
    for device in site.design.devices:
        if isinstance(device, Firewall) and len(device.units) > 1:
            yield look(device.name, Looks.ACTIVE, "")
