"""The two units of a pair side by side: what each is, how it is cabled, and what is watched."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.design import Design
from anabasis.design.notation import pointer
from anabasis.fabric import ALL_WELL, PhysicalPort, physical_ports
from anabasis.failover import at_rest, heartbeats, pairs_of, unlike_traits


@dataclass(frozen=True)
class UnitStand:
    """One unit."""

    name: str
    traits: dict[str, str | int]
    """What both units must share, by name."""
    address: str | None
    priority: int
    active: bool
    pointer: str


@dataclass(frozen=True)
class PortStand:
    """One port on both units."""

    port: str
    bundle: str | None
    mode: str
    far: list[str | None]
    """Where it leads, by unit; None = no cable."""
    cables: list[str | None]
    """The names of the cables, by unit, as failures name them."""
    up: list[bool]
    watched: bool
    heartbeat: bool
    alike: bool
    """Cabled on both, or on neither."""
    pointer: str


@dataclass(frozen=True)
class PairStand:
    """One pair."""

    name: str
    pointer: str
    mode: str
    group: int
    preempt: bool
    sync_sessions: bool
    hello_ms: int
    misses: int
    targets: list[str]
    unlike: list[str]
    """What of the units differs that must not."""
    heartbeats: int
    """How many work."""
    units: list[UnitStand]
    ports: list[PortStand]
    drills: int


def pair_stands(design: Design) -> list[PairStand]:
    """Return every pair of a design, with nothing failed."""
    physical = physical_ports(design, ALL_WELL)
    out: list[PairStand] = []
    for device in pairs_of(design):
        d = design.devices.index(device)
        failover, rest = device.failover, at_rest(design, device)
        assert failover is not None
        active = set(rest.values())
        units = [
            UnitStand(
                u.name,
                dict(u.traits),
                u.address,
                u.priority,
                u.name in active,
                pointer("devices", d, "units", i),
            )
            for i, u in enumerate(device.units)
        ]
        ports: list[PortStand] = []
        for i, port in enumerate(device.ports):
            sides = [physical[u.name, port.name] for u in device.units]
            far = [":".join(s.far) if s.far else None for s in sides]
            watched = port.name in failover.watch or (port.lag is not None and port.lag in failover.watch)
            ports.append(
                PortStand(
                    port.name,
                    port.lag,
                    sides[0].mode,
                    far,
                    [_cable(s) for s in sides],
                    [s.up for s in sides],
                    watched,
                    port.name in failover.heartbeats,
                    (far[0] is None) == (far[1] is None),
                    pointer("devices", d, "ports", i),
                )
            )
        unlike = unlike_traits(device)
        working = sum(h.up for h in heartbeats(device, physical))
        out.append(
            PairStand(
                device.name,
                pointer("devices", d),
                failover.mode,
                failover.group,
                failover.preempt,
                failover.sync_sessions,
                failover.hello_ms,
                failover.misses,
                list(failover.targets),
                unlike,
                working,
                units,
                ports,
                len(failover.drills),
            )
        )
    return out


def _cable(port: PhysicalPort) -> str | None:
    return "--".join(sorted((":".join(port.spot), ":".join(port.far)))) if port.far else None
