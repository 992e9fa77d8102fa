"""Findings about names: those that people take for each other, and boxes that do not run what is drawn."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design import Design
from anabasis.design.devices import BridgingBox
from anabasis.design.look_alikes import Named, look_alikes
from anabasis.design.notation import pointer
from anabasis.findings.catalogue import Finding
from anabasis.site import Site

OF_A_DEVICE = ("ports", "lags", "vrfs", "zones", "rules", "nat", "answers", "wires")
RUNS = {
    "edited": "has this as an edit that is not in force yet",
    "active": "runs this, but has not saved it over a restart",
    "unknown": "may run something else: nobody has looked",
}


def check(site: Site) -> Iterator[Finding]:
    """All of them."""
    for words, names in _kinds(site.design):
        for group in look_alikes(names):
            said = " and ".join(repr(n) for n, _ in group)
            yield Finding("names-alike", f"{words} {said} look alike.", tuple(at for _, at in group))
    for d, device in enumerate(site.design.devices):
        runs = device.running if isinstance(device, BridgingBox) else None
        if runs in RUNS:
            text = f"{device.name} {RUNS[runs]}: what is computed here speaks of the design."
            yield Finding("running-behind", text, (pointer("devices", d, "running"),))


def _kinds(design: Design) -> Iterator[tuple[str, list[Named]]]:
    """Yield the names of each kind, those of a device's own things by device."""
    for kind, words in (("vlans", "The VLANs"), ("addresses", "The address sets"), ("services", "The service sets")):
        yield words, [(x.name, pointer(kind, i)) for i, x in enumerate(getattr(design, kind))]
    boxes = [(x.name, pointer("devices", d)) for d, x in enumerate(design.devices)]
    for d, device in enumerate(design.devices):
        boxes += [(u.name, pointer("devices", d, "units", i)) for i, u in enumerate(getattr(device, "units", []))]
    yield "The boxes", boxes
    for d, device in enumerate(design.devices):
        for kind in OF_A_DEVICE:
            mine = getattr(device, kind, [])
            yield (
                f"Of {device.name}, the {kind}",
                [(x.name, pointer("devices", d, kind, i)) for i, x in enumerate(mine)],
            )
