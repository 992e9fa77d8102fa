"""Who speaks to whom on an overlay: the virtual ports of every box, as the document has them (docs/semantics.md, "Tenants on an overlay").

Nothing here knows what passes: whether a box reaches another is found by the walk, above.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from anabasis.design.devices import BridgingBox, Switch
from anabasis.design.document import Design
from anabasis.design.notation import pointer
from anabasis.design.ports import OverlayPort, TablePort, VirtualPort
from anabasis.design.routes import Vrf
from anabasis.design.tenants import MacVrf, Stretched
from anabasis.facts import VNI_FORM


@dataclass(frozen=True)
class Side:
    """One box that takes part."""

    device: str
    at: str
    source: str
    """The interface its packets come from."""
    source_at: str
    """The item that says so."""
    mac_vrfs: tuple[tuple[MacVrf, str], ...]
    vrfs: tuple[tuple[Vrf, str], ...]


@dataclass(frozen=True)
class OverlayEnd:
    """One virtual port of a box, and the port of another box it leads to."""

    port: VirtualPort
    at: str
    """The item it stands for: a MAC-VRF or a VRF."""
    far: tuple[str, str]
    """(device, port)."""


def sides(design: Design) -> list[Side]:
    """Return the boxes that take part in an overlay, in document order."""
    out: list[Side] = []
    for d, device in enumerate(design.devices):
        if not isinstance(device, BridgingBox):
            continue
        held = device.mac_vrfs if isinstance(device, Switch) else []
        macs = tuple((m, pointer("devices", d, "mac_vrfs", i)) for i, m in enumerate(held))
        vrfs = tuple((v, pointer("devices", d, "vrfs", i)) for i, v in enumerate(device.vrfs) if v.on_overlay)
        named = [(m.source, f"{at}/source") for m, at in macs] + [
            (v.source, f"{at}/source") for v, at in vrfs if v.source
        ]
        if named and (macs or vrfs):
            source, at = named[0]
            out.append(Side(device.name, pointer("devices", d), source or "", at, macs, vrfs))
    return out


def stretched(side: Side) -> Iterator[tuple[Stretched, MacVrf, str]]:
    """Yield the VLANs of a box that leave it by the overlay, each with its instance and its own pointer."""
    for mac, at in side.mac_vrfs:
        for i, held in enumerate(mac.vlans):
            yield held, mac, f"{at}/vlans/{i}"


def hears(mine: MacVrf | Vrf, theirs: MacVrf | Vrf) -> bool:
    """Tell whether an instance takes what another tells: it imports a target that the other exports (RFC 4364 section 4.3.1)."""
    return bool(set(mine.import_) & set(theirs.export))


def sent(one: Side, two: Side) -> dict[int, int]:
    """Return VLAN -> VNI of what a box sends another: those the other tells it of, by equal VNIs."""
    theirs = {held.vni: mac for held, mac, _ in reversed(list(stretched(two)))}
    return {
        held.vlan: held.vni for held, mac, _ in stretched(one) if held.vni in theirs and hears(mac, theirs[held.vni])
    }


def overlay_ends(design: Design) -> dict[str, list[OverlayEnd]]:
    """Return the virtual ports of every box: one a box that stretches VLANs as well, and one a VRF that it takes routes from or tells them to."""
    known = sides(design)
    out: dict[str, list[OverlayEnd]] = {s.device: [] for s in known}
    for one in known:
        for two in (s for s in known if s is not one):
            if one.mac_vrfs and two.mac_vrfs:
                out[one.device].append(
                    OverlayEnd(_bridged(one, two), one.mac_vrfs[0][1], (two.device, _towards(one.device)))
                )
            for mine, at in one.vrfs:
                for theirs, _ in two.vrfs:
                    if hears(mine, theirs) or hears(theirs, mine):
                        far = two.device, routed_name(theirs.name, one.device, mine.name)
                        name = routed_name(mine.name, two.device, theirs.name)
                        port = TablePort.model_construct(name=name, mode="routed", vrf=mine.name)
                        out[one.device].append(OverlayEnd(port, at, far))
    return out


def _towards(device: str) -> str:
    return f"overlay to {device}"


def routed_name(mine: str, device: str, theirs: str) -> str:
    """Return what the interface is called by which a VRF leads to one of another box."""
    return f"VRF {mine} to {device}" + ("" if mine == theirs else f" {theirs}")


def _bridged(one: Side, two: Side) -> OverlayPort:
    """Return the port of a box towards another: a member of what it sends, whatever comes in is told by its VNI."""
    inside = {VNI_FORM + held.vni: held.vlan for held, _, _ in reversed(list(stretched(one)))}
    tagged = sorted(sent(one, two))
    return OverlayPort.model_construct(
        name=_towards(two.device),
        mode="bridged",
        isolated=True,
        tagged=tagged,
        translate=inside,
        accept="tagged",
        ingress_check=False,
    )
