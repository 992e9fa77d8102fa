"""The drill sheet: the ordered steps of a real failover drill of one pair, with what is to be expected at each."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.design import Design
from anabasis.design.devices import Firewall
from anabasis.fabric import Conditions, physical_ports
from anabasis.failover.standing import pairs_of
from anabasis.failover.what_if import Event, WhatIf


@dataclass(frozen=True)
class DrillStep:
    """One step."""

    name: str
    """What the result is kept under."""
    do: str
    fail: tuple[str, ...]
    """What is failed during the step."""
    active: tuple[str, ...]
    within_ms: int
    sessions: str
    measure: str
    lost: tuple[str, ...]
    """Pairs of segments that lose flows, in words."""
    why: str


@dataclass(frozen=True)
class DrillSheet:
    """All steps of one pair."""

    pair: str
    before: tuple[str, ...]
    """What is to be so before it begins."""
    steps: tuple[DrillStep, ...]


def drill_sheet(design: Design, pair: str) -> DrillSheet:
    """Return the steps for one pair: the active unit, each watched link, each heartbeat, all heartbeats, each time restored."""
    device = next(d for d in pairs_of(design) if d.name == pair)
    assert device.failover is not None
    rest = WhatIf(design)
    active = rest.before[pair, 1]
    standby = next(u.name for u in device.units if u.name != active)
    out = [_step(rest, "plug", f"Pull the plug of {active}.", (active,))]
    back = WhatIf(design, {(pair, g): standby for (p, g), _ in rest.before.items() if p == pair})
    out.append(_step(back, "return", f"Start {active} again, and wait until it hears {standby}.", ()))
    if not device.failover.preempt:
        out.append(
            _step(
                back,
                "turn back",
                f"Pull the plug of {standby}, so that {active} takes over again; then start it.",
                (standby,),
            )
        )
    cabled = physical_ports(design, Conditions())
    for name in device.failover.watch:
        ends = tuple(f"{active}:{p}" for p in _members(device, name) if (active, p) in cabled)
        out.append(_step(rest, f"watch {name}", f"Pull {' and '.join(ends)} ({name}, watched).", ends))
    for name in device.failover.heartbeats:
        out.append(
            _step(
                rest,
                f"heartbeat {name}",
                f"Pull the heartbeat {active}:{name}; leave the others.",
                (f"{active}:{name}",),
            )
        )
    everything = tuple(f"{active}:{n}" for n in device.failover.heartbeats)
    if len(everything) > 1:
        out.append(
            _step(
                rest, "all heartbeats", "Pull every heartbeat, for a few seconds and with nobody at work.", everything
            )
        )
    before = (
        f"{active} is active, {standby} stands by; both run the same configuration.",
        "Someone at the console of each unit; a ping from each segment named below is running.",
        "The house knows, and the way back is agreed.",
    )
    return DrillSheet(pair, before, tuple(out))


def _members(device: Firewall, name: str) -> list[str]:
    return [p.name for p in device.ports if p.lag == name] or [name]


def _step(what_if: WhatIf, name: str, do: str, fail: tuple[str, ...]) -> DrillStep:
    event: Event = what_if.event(Conditions(frozenset(fail)))
    active = tuple(u for s in event.standings for u in s.election.active)
    lost = tuple(f"{x.source} to {x.target}" for x in event.settled.lost)
    measure = "seconds without a reply" if event.detect_ms is not None else "that nothing is lost"
    return DrillStep(name, do, fail, active, event.detect_ms or 0, event.sessions, measure, lost, event.why)
