"""Conditions: what has failed. Nothing in the document says so; every step above takes conditions as a parameter."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from anabasis.design.devices import Device, Firewall
from anabasis.design.document import Design
from anabasis.design.notation import parse_end
from anabasis.design.references import places_of, unit_names
from anabasis.errors import Problem, UnknownPlace, nearest
from anabasis.facts import Cause


@dataclass(frozen=True)
class TunnelState:
    """One end of a tunnel, or one way to dial in, and what became of it."""

    device: str
    name: str
    peer: tuple[str, str] | None
    """(device, tunnel) at the other end, while it is up; None of what hosts dial in to."""
    cause: Cause | None
    """Why it is not up; None while it is."""
    meant: tuple[str, str] | None = None
    """While it is not up: the other end that its address leads to, as far as that is known."""


@dataclass(frozen=True)
class Conditions:
    """What has failed, by name: a unit or device, `box:port`, or a cable `a:1--b:2`."""

    failed: frozenset[str] = frozenset()
    active: frozenset[tuple[str, int, str]] = frozenset()
    """(pair, group, unit) as elected by `failover`; of a pair that is not named here the living unit of the higher priority forwards."""
    tunnels: tuple[TunnelState, ...] = ()
    """As found by `tunnels`, from what passes outside of them."""


ALL_WELL = Conditions()


def cable_name(ends: Iterable[tuple[str, str]]) -> str:
    """Name a cable by its ends, `a:1--b:2`, as failures name it."""
    return "--".join(f"{box}:{port}" for box, port in sorted(ends))


def conditions_of(design: Design, failed: Iterable[str]) -> Conditions:
    """Return the conditions with these parts failed; a cable may be named from either end.

    Raises UnknownPlace for a part that is none, with the nearest name.
    """
    boxes = {b for d in design.devices for b in (d.name, *unit_names(d))}
    ports = {f"{box}:{p}" for d in design.devices for box in unit_names(d) for p in places_of(d)}
    cables = {cable_name(map(parse_end, cable)) for cable in design.cables}
    known = boxes | ports | cables
    names = set()
    for text in failed:
        name = next((n for n in _either_way(text) if n in known), text)
        if name not in known:
            near = nearest(name, [k for k in known if ("--" in k) == ("--" in name) and (":" in k) == (":" in name)])
            problem = Problem(
                "/failed",
                "there is no part of this name",
                repr(text),
                "a unit, a device, unit:port, or a cable a:1--b:2",
                near,
            )
            raise UnknownPlace([problem])
        names.add(name)
    return Conditions(frozenset(names))


def _either_way(text: str) -> Iterator[str]:
    """Yield a name as written, and for a cable the other way round; `--` may stand inside the name of a port as well."""
    yield text
    parts = text.split("--")
    for k in range(1, len(parts)):
        yield f"{'--'.join(parts[k:])}--{'--'.join(parts[:k])}"


def carrying_units(device: Device, conditions: Conditions, group: int = 1) -> list[str]:
    """Return the boxes of a device that carry the gateways of a group: the active unit of a pair, or the one box there is.

    A pair that was not elected goes by priority, then name, among the living (docs/semantics.md, "Failover pairs"); of a pair that shares its
    gateways the other unit comes first in group 2. Two units of one group are a split brain.
    """
    alive = [
        name for name in unit_names(device) if name not in conditions.failed and device.name not in conditions.failed
    ]
    elected = [u for pair, g, u in sorted(conditions.active) if (pair, g) == (device.name, group)]
    if elected:
        return [u for u in elected if u in alive]
    if not isinstance(device, Firewall) or len(alive) < 2:
        return alive
    return sorted(alive, key=lambda name: preference(device, name, group))[:1]


def preference(device: Firewall, unit: str, group: int) -> tuple[int, str]:
    """Return what orders the units of a pair where nothing else tells them apart: the least comes first."""
    priority = next(u.priority for u in device.units if u.name == unit)
    shared = device.failover is not None and device.failover.mode == "shared"
    if device.failover is not None and device.failover.priority_wins == "smaller":
        priority = -priority
    first = (-priority, unit)
    return (priority, "".join(chr(0x10FFFF - ord(c)) for c in unit)) if shared and group == 2 else first


def forwarding_units(device: Device, conditions: Conditions) -> list[str]:
    """Return the boxes of a device with any port that forwards."""
    groups = groups_of(device)
    found = dict.fromkeys(u for g in groups for u in carrying_units(device, conditions, g))
    return list(found)


def groups_of(device: Device) -> tuple[int, ...]:
    """Return the groups a device elects for: two in a pair that shares its gateways."""
    shared = isinstance(device, Firewall) and device.failover is not None and device.failover.mode == "shared"
    return (1, 2) if shared and len(unit_names(device)) > 1 else (1,)
