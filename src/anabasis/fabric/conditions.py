"""Conditions: what has failed. Nothing in the document says so; every step above takes conditions as a parameter."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.design.devices import Device, Firewall
from anabasis.design.references import unit_names


@dataclass(frozen=True)
class Conditions:
    """What has failed, by name: a unit or device, `box:port`, or a cable `a:1--b:2`."""

    failed: frozenset[str] = frozenset()


ALL_WELL = Conditions()


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
