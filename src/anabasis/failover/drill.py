"""The drill: the ordered steps of a real failover drill of one pair, with what is to be expected at each."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from anabasis.allpairs import Sweep
from anabasis.design import Design
from anabasis.design.devices import Firewall
from anabasis.fabric import Conditions, physical_ports
from anabasis.facts import DrillKind
from anabasis.failover.standing import pairs_of
from anabasis.failover.what_if import Event, WhatIf
from anabasis.memo import Memo


@dataclass(frozen=True)
class DrillStep:
    """One step."""

    kind: DrillKind
    port: str
    """The port or bundle that is pulled; empty where it is a unit, or every heartbeat."""
    event: Event
    """What happens then."""

    @property
    def name(self) -> str:
        """Return what its result is kept under in the design."""
        return f"{self.kind.replace('-', ' ')} {self.port}".strip()


@dataclass(frozen=True)
class DrillSheet:
    """All steps of one pair."""

    pair: str
    active: str
    """Who is active before it begins."""
    standby: str
    steps: tuple[DrillStep, ...]


def drill_sheet(design: Design, pair: str, well: Sweep | None = None, memo: Memo | None = None) -> DrillSheet:
    """Return the steps for one pair: the active unit, each watched link, each heartbeat, all heartbeats, each time restored. `well`, `memo`: as in `WhatIf`."""
    device = next(d for d in pairs_of(design) if d.name == pair)
    rest = WhatIf(design, None, well, memo)
    active = rest.before[pair, 1]
    standby = next(u.name for u in device.units if u.name != active)
    back = WhatIf(design, {(pair, g): standby for (p, g), _ in rest.before.items() if p == pair}, rest.well, memo)

    def step(what_if: WhatIf, kind: DrillKind, fail: tuple[str, ...], port: str = "") -> DrillStep:
        return DrillStep(kind, port, what_if.event(Conditions(frozenset(fail))))

    out = [step(rest, "plug", (active,)), step(back, "return", ())]
    if device.failover and not device.failover.preempt:
        out.append(step(back, "turn-back", (standby,)))
    out += [step(rest, kind, ends, port) for kind, ends, port in _pulled(design, device, active)]
    return DrillSheet(pair, active, standby, tuple(out))


def _pulled(design: Design, device: Firewall, active: str) -> Iterator[tuple[DrillKind, tuple[str, ...], str]]:
    """Yield what is pulled of the active unit: each watched link, each heartbeat, all of them."""
    assert device.failover is not None
    cabled = physical_ports(design, Conditions())
    for name in device.failover.watch:
        members = [p.name for p in device.ports if p.lag == name] or [name]
        yield "watch", tuple(f"{active}:{p}" for p in members if (active, p) in cabled), name
    beats = tuple(f"{active}:{n}" for n in device.failover.heartbeats)
    for name, end in zip(device.failover.heartbeats, beats, strict=True):
        yield "heartbeat", (end,), name
    if len(beats) > 1:
        yield "all-heartbeats", beats, ""
