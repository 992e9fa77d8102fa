"""Edits that mend what a break names: the port that lacks a VLAN, the table that lacks it, the switch that is off."""

from __future__ import annotations

from anabasis.design import Design, Patch, set_membership
from anabasis.fabric import Break


def mend_of(design: Design, obstacle: Break) -> Patch | None:
    """Return the one edit that takes an obstacle away, or None where it takes more than one, or a person's judgement."""
    if obstacle.port is not None and obstacle.vlan is not None:
        port = obstacle.port
        raw = design.model_dump(mode="json", by_alias=True, exclude_unset=True)
        return set_membership(raw, port.device, port.settings.name, obstacle.vlan, "tagged")
    if obstacle.pointer.endswith("/enabled"):
        return [{"op": "replace", "path": obstacle.pointer, "value": True}]
    return None
