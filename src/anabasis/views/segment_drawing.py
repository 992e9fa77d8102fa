"""The site above the cable: segments, and the boxes that route between them."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

from anabasis.design.notation import pointer
from anabasis.fabric import Segment
from anabasis.routing import Network3, routes_packets


@dataclass(frozen=True)
class DrawnSegment:
    """One segment, its subnets and VLANs."""

    name: str
    kind: str
    """As `Segment.kind`."""
    vlans: list[int]
    subnets: list[str]
    tier: int
    """Steps from the top of the site: segments and boxes take turns."""
    pointer: str


@dataclass(frozen=True)
class DrawnRouter:
    """One box that routes, or an outside; a pair is one."""

    name: str
    kind: str
    tier: int
    pointer: str


@dataclass(frozen=True)
class Leg:
    """One layer-3 interface: a box standing in a segment."""

    router: str
    segment: str
    interface: str
    addresses: list[str]
    zone: str | None
    vrf: str
    up: bool
    reason: str
    pointer: str


@dataclass(frozen=True)
class SegmentDrawing:
    """The whole drawing, without positions."""

    routers: list[DrawnRouter]
    segments: list[DrawnSegment]
    legs: list[Leg]
    filtered: list[list[str]]
    """Segments that are one broadcast domain with a filtering point between them, two by two."""


def segment_drawing(net: Network3) -> SegmentDrawing:
    """Return what is to be drawn. A box whose interface stands in no segment is drawn without a leg there."""
    devices = net.segments.fabric.design.devices
    routing = [d for d in devices if d.kind == "outside" or routes_packets(d)]
    names = {d.name for d in routing}
    all_ = net.segments.all
    at = {
        i: net.segments.of_attachment[i.attachment.index]
        for i in net.interfaces
        if i.attachment and i.attachment.index in net.segments.of_attachment
    }
    stands = [(i, all_[s]) for i, s in at.items() if i.device in names]
    inner = {d.name: [s for s in all_ if s.kind == "outside" and s.name == d.name] for d in routing}
    tiers = _tiers(
        [d.name for d in routing if d.kind == "outside"] or [d.name for d in routing],
        [(i.device, s.name) for i, s in stands],
    )
    last = max(tiers.values(), default=0)
    behind = {s.name for own in inner.values() for s in own}
    return SegmentDrawing(
        [
            DrawnRouter(d.name, d.kind, tiers.get(f"box {d.name}", 0), pointer("devices", k))
            for k, d in enumerate(devices)
            if d.name in names
        ],
        [
            DrawnSegment(
                s.name, s.kind, list(s.vlan_ids), list(s.subnets), tiers.get(f"segment {s.name}", last), s.pointer
            )
            for s in all_
            if s.name not in behind
        ],
        [
            Leg(
                i.device,
                s.name,
                i.name,
                [*(str(a) for a in i.addresses), *(str(a) for a in i.virtual)],
                i.zone,
                i.vrf,
                i.up and not i.waits,
                i.reason,
                i.pointer,
            )
            for i, s in stands
        ],
        _filtered([s for s in all_ if s.name not in behind]),
    )


def _tiers(top: list[str], stands: list[tuple[str, str]]) -> dict[str, int]:
    """Return steps from the top, by `box …` and `segment …`."""
    beside: dict[str, set[str]] = {}
    for box, segment in stands:
        beside.setdefault(f"box {box}", set()).add(f"segment {segment}")
        beside.setdefault(f"segment {segment}", set()).add(f"box {box}")
    out: dict[str, int] = {}
    apart = [[b] for b in sorted(beside) if b.startswith("box ")]  # parts of the site that no top leads to
    for start in ([f"box {name}" for name in top], *apart):
        rim, step = [n for n in start if n not in out], 0
        while rim:
            out |= dict.fromkeys(rim, step)
            rim = sorted({m for n in rim for m in beside.get(n, ()) if m not in out})
            step += 1
    return out


def _filtered(segments: list[Segment]) -> list[list[str]]:
    domains: dict[int, list[str]] = {}
    for s in segments:
        if s.domain >= 0:
            domains.setdefault(s.domain, []).append(s.name)
    return [[one, two] for names in domains.values() for one, two in pairwise(names)]
