"""What a design says that this version keeps but does not compute yet. Said openly, so that no verdict looks surer than it is."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design.devices import BridgingBox, Firewall
from anabasis.design.notation import pointer
from anabasis.findings.catalogue import Finding
from anabasis.reach import Site


def check(site: Site) -> Iterator[Finding]:
    """One finding a kind of entry and device."""
    for d, device in enumerate(site.design.devices):
        if not isinstance(device, BridgingBox):
            continue
        if isinstance(device, Firewall) and device.nat:
            text = f"{device.name}: translations are kept, but not computed in this version."
            yield Finding("not-computed", text, (pointer("devices", d, "nat"),))
    if site.design.expectations:
        yield Finding("not-computed", "Expectations are kept, but not judged in this version.", ("/expectations",))
