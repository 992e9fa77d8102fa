"""Readiness of failover pairs: what keeps the other unit from taking over, found before it has to (docs/semantics.md, "Failover pairs")."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design.devices import Firewall
from anabasis.design.notation import pointer
from anabasis.design.pairs import Failover
from anabasis.design.references import mode_of
from anabasis.fabric import Conditions, LinkPort, PhysicalPort, Spot, link_ports, physical_ports
from anabasis.failover import elsewhere, heartbeats, unlike_traits
from anabasis.findings.catalogue import Finding
from anabasis.site import Site
from anabasis.wording import say


def check(site: Site) -> Iterator[Finding]:
    """Every pair, and every firewall with two units that are none."""
    physical = physical_ports(site.design, Conditions())
    for d, device in enumerate(site.design.devices):
        if not isinstance(device, Firewall) or len(device.units) != 2:
            continue
        at = pointer("devices", d)
        if device.failover is None:
            text = f"{device.name} has two units and no failover settings: they do not know each other."
            yield Finding("pair-unsettled", text, (at + "/units",))
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
        said = "; ".join(f"{t}: {one.traits.get(t)} and {two.traits.get(t)}" for t in unlike)
        text = f"{one.name} and {two.name} differ ({said}): units of a pair must be alike, or they refuse each other."
        yield Finding("pair-unlike", text, (at + "/units/0", at + "/units/1"))


def _heartbeats(
    site: Site, device: Firewall, at: str, failover: Failover, physical: dict[Spot, PhysicalPort]
) -> Iterator[Finding]:
    found = heartbeats(device, physical)
    place = (at + "/failover/heartbeats",)
    one, two = (u.name for u in device.units)
    for h in found:
        if h.leads == "elsewhere":
            far = physical[one, h.port].far
            text = (
                f"Heartbeat {one}:{h.port} leads to {':'.join(far) if far else 'nothing'}, not to a heartbeat of {two}."
            )
            yield Finding("heartbeat-astray", text, place)
        elif h.leads == "switch":
            text = (
                f"Heartbeat {one}:{h.port} goes through a switch: when that dies, both units take each other for dead."
            )
            yield Finding("heartbeat-switched", text, place)
    working = [h for h in found if h.up]
    bare = [
        h.port for h in found if h.leads == "nowhere" and physical.get((two, h.port)) and not physical[two, h.port].far
    ]
    mend = [{"op": "add", "path": "/cables/-", "value": [f"{one}:{bare[0]}", f"{two}:{bare[0]}"]}] if bare else None
    if not working:
        text = f"{device.name} has no heartbeat that works: each unit takes the other for dead, and both are active."
        yield Finding("heartbeat-none", text, place, mend)
    elif len(working) == 1:
        more = (
            f"{one}:{bare[0]} has no cable"
            if bare
            else "one cable, or one port, and the units no longer hear each other"
        )
        yield Finding(
            "heartbeat-one", f"{device.name} has one heartbeat only ({working[0].port}): {more}.", place, mend
        )


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
            text = f"{has}:{here.settings.name} is cabled, {lacks}:{here.settings.name} is not: when {lacks} is active, what is there is cut off."
            yield Finding("pair-cabled-unlike", text, (here.pointer,))
        elif here.up != there.up:
            cause = here.cause or there.cause
            assert cause is not None
            down, up = (here, there) if there.up else (there, here)
            text = f"{down.label} is down and {up.label} works: when {down.box} is active, what is there is cut off ({say(cause)})."
            yield Finding("pair-port-down", text, cause.pointers, cause=cause)
        elif ends[0] and ends[1] and here.settings.name in apart:
            text = (
                f"{here.label} leads to {':'.join(ends[0])} and {there.label} to {':'.join(ends[1])}, "
                "which are not in the same VLANs: the units do not stand in the same segments."
            )
            yield Finding("pair-segments-differ", text, (here.pointer, ports[ends[1]].pointer))


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
        text = f"{device.name} does not watch {', '.join(forgotten)}: when it goes down on the active unit, nobody takes over."
        mend = [{"op": "add", "path": place, "value": [*failover.watch, *forgotten]}]
        yield Finding("watch-forgets", text, (place if failover.watch else at + "/failover",), mend)
    idle = [n for n in failover.watch if n not in carrying and not any(_cabled(device, physical, u, n) for u in units)]
    if idle:
        text = f"{device.name} watches {', '.join(idle)}, which has no cable on either unit: it tells nothing."
        left = [n for n in failover.watch if n not in idle]
        yield Finding("watch-idle", text, (place,), [{"op": "replace", "path": place, "value": left}])


def _cabled(device: Firewall, physical: dict[Spot, PhysicalPort], unit: str, name: str) -> bool:
    members = [p.name for p in device.ports if p.lag == name] or [name]
    return any((unit, m) in physical and physical[unit, m].far for m in members)


def _settings(device: Firewall, at: str, failover: Failover) -> Iterator[Finding]:
    place = at + "/failover"
    unsaid = [k for k in ("preempt", "sync_sessions") if k not in failover.model_fields_set]
    if unsaid:
        asked = {
            "preempt": "whether the unit of the better priority takes over again when it is back (preempt)",
            "sync_sessions": "whether sessions live on (sync_sessions)",
        }
        text = (
            f"{device.name} does not say {' and '.join(asked[k] for k in unsaid)}: boxes differ in what they do then."
        )
        yield Finding("pair-unsaid", text, (place,))
    if not failover.sync_sessions and "sync_sessions" not in unsaid:
        text = f"{device.name} does not sync sessions: whoever is connected when a unit fails has to connect again."
        mend = [{"op": "add", "path": place + "/sync_sessions", "value": True}]
        yield Finding("sessions-unsynced", text, (place,), mend)
    if failover.secret == "default":
        text = f"The units of {device.name} know each other by the maker's default secret: any box of that make may pose as one."
        yield Finding("secret-default", text, (place + "/secret",))
    if not failover.drills:
        text = f"No failover drill of {device.name} is recorded: nobody has seen the other unit take over."
        yield Finding("drill-missing", text, (place,))
