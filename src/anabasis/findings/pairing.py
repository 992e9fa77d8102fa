"""Readiness of failover pairs: what keeps the other unit from taking over, found before it has to (docs/semantics.md, "Failover pairs")."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design.devices import Firewall
from anabasis.design.notation import pointer
from anabasis.design.pairs import Failover
from anabasis.design.references import mode_of
from anabasis.fabric import Conditions, LinkPort, PhysicalPort, Spot, label, link_ports, physical_ports
from anabasis.facts import Says, Unlike
from anabasis.failover import elsewhere, heartbeats, unlike_traits
from anabasis.findings.catalogue import Finding, finding
from anabasis.site import Site


def check(site: Site) -> Iterator[Finding]:
    """Every pair, and every firewall with two units that are none."""
    physical = physical_ports(site.design, Conditions())
    for d, device in enumerate(site.design.devices):
        if not isinstance(device, Firewall) or len(device.units) != 2:
            continue
        at = pointer("devices", d)
        if device.failover is None:
            yield finding(Says.PAIR_UNSETTLED, at + "/units", device=device.name)
            continue
        yield from _unlike(device, at)
        yield from _heartbeats(site, device, at, device.failover, physical)
        yield from _cabling(device, at, link_ports(site.design, Conditions()))
        yield from _watching(device, at, device.failover, physical)
        yield from _settings(device, at, device.failover)


def _unlike(device: Firewall, at: str) -> Iterator[Finding]:
    one, two = device.units
    unlike = unlike_traits(device)
    if unlike:
        traits = [Unlike(t, str(one.traits.get(t)), str(two.traits.get(t))) for t in unlike]
        yield finding(Says.PAIR_UNLIKE, at + "/units/0", at + "/units/1", one=one.name, two=two.name, traits=traits)


def _heartbeats(
    site: Site, device: Firewall, at: str, failover: Failover, physical: dict[Spot, PhysicalPort]
) -> Iterator[Finding]:
    found = heartbeats(device, physical)
    place = (at + "/failover/heartbeats",)
    one, two = (u.name for u in device.units)
    for h in found:
        if h.leads == "elsewhere":
            far = physical[one, h.port].far
            if far:
                yield finding(Says.HEARTBEAT_ASTRAY, *place, port=f"{one}:{h.port}", far=label(far), unit=two)
            else:
                yield finding(Says.HEARTBEAT_NOWHERE, *place, port=f"{one}:{h.port}", unit=two)
        elif h.leads == "switch":
            yield finding(Says.HEARTBEAT_SWITCHED, *place, port=f"{one}:{h.port}")
    working = [h for h in found if h.up]
    bare = [
        h.port for h in found if h.leads == "nowhere" and physical.get((two, h.port)) and not physical[two, h.port].far
    ]
    mend = [{"op": "add", "path": "/cables/-", "value": [f"{one}:{bare[0]}", f"{two}:{bare[0]}"]}] if bare else None
    if not working:
        yield finding(Says.HEARTBEAT_NONE, *place, mend=mend, device=device.name)
    elif len(working) == 1:
        held = {"device": device.name, "port": working[0].port}
        if bare:
            yield finding(Says.HEARTBEAT_ONE_BARE, *place, mend=mend, bare=f"{one}:{bare[0]}", values=held)
        else:
            yield finding(Says.HEARTBEAT_ONE, *place, values=held)


def _cabling(device: Firewall, at: str, ports: dict[Spot, LinkPort]) -> Iterator[Finding]:
    """Compare the cables of the two units port by port, bundle by bundle: where they lead, and into which VLANs."""
    one, two = (u.name for u in device.units)
    beats = device.failover.heartbeats if device.failover else []
    apart = {here.settings.name for here, _ in elsewhere(device, ports)}
    for here in [p for p in ports.values() if p.box == one and p.settings.name not in beats]:
        there = ports[two, here.settings.name]
        ends = here.peer, there.peer
        if (ends[0] is None) != (ends[1] is None):
            has, lacks = (one, two) if ends[0] else (two, one)
            yield finding(Says.PAIR_CABLED_UNLIKE, here.pointer, has=has, port=here.settings.name, lacks=lacks)
        elif here.up != there.up:
            cause = here.cause or there.cause
            assert cause is not None
            down, up = (here, there) if there.up else (there, here)
            yield finding(
                Says.PAIR_PORT_DOWN, *cause.pointers, cause=cause, down=down.label, up=up.label, unit=down.box
            )
        elif ends[0] and ends[1] and here.settings.name in apart:
            yield finding(
                Says.PAIR_SEGMENTS_DIFFER,
                here.pointer,
                ports[ends[1]].pointer,
                one=here.label,
                far_one=label(ends[0]),
                two=there.label,
                far_two=label(ends[1]),
            )


def _watching(device: Firewall, at: str, failover: Failover, physical: dict[Spot, PhysicalPort]) -> Iterator[Finding]:
    """Hold the watch list against what carries traffic on both units."""
    units = [u.name for u in device.units]
    lag_of = {p.name: p.lag for p in device.ports if p.lag}
    carrying = dict.fromkeys(
        lag_of.get(p.name) or p.name
        for p in device.ports
        if (mode_of(p, device) in ("routed", "bridged", "inline") or p.name in lag_of)
        and all(physical[u, p.name].far for u in units)
    )
    place = at + "/failover/watch"
    forgotten = [n for n in carrying if n not in failover.watch]
    if forgotten:
        mend = [{"op": "add", "path": place, "value": [*failover.watch, *forgotten]}]
        yield finding(
            Says.WATCH_FORGETS,
            place if failover.watch else at + "/failover",
            mend=mend,
            device=device.name,
            ports=forgotten,
        )
    idle = [n for n in failover.watch if n not in carrying and not any(_cabled(device, physical, u, n) for u in units)]
    if idle:
        left = [n for n in failover.watch if n not in idle]
        yield finding(
            Says.WATCH_IDLE,
            place,
            mend=[{"op": "replace", "path": place, "value": left}],
            device=device.name,
            ports=idle,
        )


def _cabled(device: Firewall, physical: dict[Spot, PhysicalPort], unit: str, name: str) -> bool:
    members = [p.name for p in device.ports if p.lag == name] or [name]
    return any((unit, m) in physical and physical[unit, m].far for m in members)


def _settings(device: Firewall, at: str, failover: Failover) -> Iterator[Finding]:
    place = at + "/failover"
    unsaid = [k for k in ("preempt", "sync_sessions") if k not in failover.model_fields_set]
    if unsaid:
        one = Says.PREEMPT_UNSAID if unsaid[0] == "preempt" else Says.SESSIONS_UNSAID
        yield finding(one if len(unsaid) == 1 else Says.BOTH_UNSAID, place, device=device.name)
    if not failover.sync_sessions and "sync_sessions" not in unsaid:
        mend = [{"op": "add", "path": place + "/sync_sessions", "value": True}]
        yield finding(Says.SESSIONS_UNSYNCED, place, mend=mend, device=device.name)
    if failover.secret == "default":
        yield finding(Says.SECRET_DEFAULT, place + "/secret", device=device.name)
    if not failover.drills:
        yield finding(Says.DRILL_MISSING, place, device=device.name)
