"""Findings about names: those that people take for each other, and boxes that do not run what is drawn."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design import Design
from anabasis.design.devices import BridgingBox
from anabasis.design.look_alikes import Named, look_alikes
from anabasis.design.notation import pointer
from anabasis.facts import Says
from anabasis.findings.catalogue import Finding, finding
from anabasis.site import Site

OF_A_DEVICE = ("ports", "lags", "vrfs", "zones", "rules", "nat", "answers", "wires")
RUNS = {"edited": Says.RUNNING_EDITED, "active": Says.RUNNING_ACTIVE, "unknown": Says.RUNNING_UNKNOWN}


def check(site: Site) -> Iterator[Finding]:
    """All of them."""
    for where, kind, names in _kinds(site.design):
        for group in look_alikes(names):
            yield finding(
                Says.NAMES_ALIKE, *(at for _, at in group), where=where, kind=kind, names=[n for n, _ in group]
            )
    for d, device in enumerate(site.design.devices):
        runs = device.running if isinstance(device, BridgingBox) else None
        if runs in RUNS:
            yield finding(RUNS[runs], pointer("devices", d, "running"), device=device.name)


def _kinds(design: Design) -> Iterator[tuple[str, str, list[Named]]]:
    """Yield (device or "", kind, its names) of each kind, those of a device's own things by device."""
    for kind in ("vlans", "addresses", "services"):
        yield "", kind, [(x.name, pointer(kind, i)) for i, x in enumerate(getattr(design, kind))]
    boxes = [(x.name, pointer("devices", d)) for d, x in enumerate(design.devices)]
    for d, device in enumerate(design.devices):
        boxes += [(u.name, pointer("devices", d, "units", i)) for i, u in enumerate(getattr(device, "units", []))]
    yield "", "devices", boxes
    for d, device in enumerate(design.devices):
        for kind in OF_A_DEVICE:
            mine = getattr(device, kind, [])
            yield device.name, kind, [(x.name, pointer("devices", d, kind, i)) for i, x in enumerate(mine)]
