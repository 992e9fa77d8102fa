"""Conditions: what has failed. Nothing in the document says so; every step above takes conditions as a parameter."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from anabasis.design.devices import Device, Firewall
from anabasis.design.document import Design
from anabasis.design.notation import parse_end
from anabasis.design.references import port_names, unit_names
from anabasis.errors import Problem, UnknownPlace, nearest


@dataclass(frozen=True)
class Conditions:
    """What has failed, by name: a unit or device, `box:port`, or a cable `a:1--b:2`."""

    failed: frozenset[str] = frozenset()


ALL_WELL = Conditions()


def cable_name(ends: Iterable[tuple[str, str]]) -> str:
    """Name a cable by its ends, `a:1--b:2`, as failures name it."""
    return "--".join(f"{box}:{port}" for box, port in sorted(ends))


def conditions_of(design: Design, failed: Iterable[str]) -> Conditions:
    """Return the conditions with these parts failed; a cable may be named from either end.

    Raises UnknownPlace for a part that is none, with the nearest name.
    """
    boxes = {b for d in design.devices for b in (d.name, *unit_names(d))}
    ports = {f"{box}:{p}" for d in design.devices for box in unit_names(d) for p in port_names(d)}
    cables = {cable_name(map(parse_end, cable)) for cable in design.cables}
    known = boxes | ports | cables
    names = set()
    for text in failed:
        ends = text.split("--")
        name = "--".join(sorted(ends)) if len(ends) == 2 else text
        if name not in known:
            what = "a unit, a device, unit:port, or a cable a:1--b:2"
            near = nearest(name, [k for k in known if ("--" in k) == ("--" in name) and (":" in k) == (":" in name)])
            raise UnknownPlace([Problem("/failed", "there is no part of this name", repr(text), what, near)])
        names.add(name)
    return Conditions(frozenset(names))


def forwarding_units(device: Device, conditions: Conditions) -> list[str]:
    """Return the boxes of a device whose ports forward: the active unit of a pair, or the one box there is.

    With nothing failed and nobody active before, a pair's active unit is that with the higher priority, then the
    first by name (concepts, section 7). The full election belongs to `failover/`, which stands above and passes its result down.
    """
    alive = [
        name for name in unit_names(device) if name not in conditions.failed and device.name not in conditions.failed
    ]
    if not isinstance(device, Firewall) or len(alive) < 2:
        return alive
    priority = {u.name: u.priority for u in device.units}
    return [min(alive, key=lambda name: (-priority[name], name))]
