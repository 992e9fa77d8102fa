"""Both ends of every cable side by side: what each carries, and where they differ (IEEE 802.1Q, 802.1AX)."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from anabasis.design.edits import Patch, Tree
from anabasis.design.membership import same_membership
from anabasis.design.ports import Lag, Membership, Port
from anabasis.design.short_forms import in_short
from anabasis.fabric import UNTAGGED, Fabric, LinkPort, accepted, egress, ingress


@dataclass(frozen=True)
class End:
    """One end."""

    label: str
    pointer: str
    short: str
    """What it is to its VLANs, in a few words."""
    like_other: Patch | None
    """The edit that puts this end into the VLANs of the other, where both bridge and they differ."""


@dataclass(frozen=True)
class Carried:
    """One form of frames on the wire, and what each end makes of it."""

    form: int
    """The tag, or 0 for untagged."""
    here: list[str]
    """At either end: `both`, `sends`, `takes` or ``, then the VLAN inside, as `both 110`."""
    same: bool


@dataclass(frozen=True)
class CableEnds:
    """One line between two boxes, a cable or a bundle."""

    ends: list[End]
    up: bool
    reason: str
    differences: list[str]
    carried: list[Carried]


def cable_ends(fabric: Fabric, raw: Tree) -> list[CableEnds]:
    """Return every line whose two ends carry VLANs, those that differ first. `raw` is the document, for the edits.

    Cost: linear in the memberships of the ports that are cabled to each other.
    """
    rows = []
    for one in fabric.ports.values():
        two = fabric.ports.get(one.peer) if one.peer else None
        if two is not None and not one.virtual and one.spot < two.spot and _carries(one) and _carries(two):
            rows.append(_row(fabric, raw, one, two))
    return sorted(rows, key=lambda r: not r.differences)


def _carries(port: LinkPort) -> bool:
    return port.bridges or bool(port.settings.subinterfaces)


def _row(fabric: Fabric, raw: Tree, one: LinkPort, two: LinkPort) -> CableEnds:
    forms = sorted({*_forms(fabric, one), *_forms(fabric, two)})
    carried = [_carried(fabric, one, two, form) for form in forms]
    differences = [*_settings(one, two), *_vlans(one, two, carried)]
    ends = []
    for mine, other in ((one, two), (two, one)):
        mendable = mine.bridges and other.bridges and mine.settings.name and any(not c.same for c in carried)
        spots = ((other.device, other.settings.name), (mine.device, mine.settings.name))
        ends.append(
            End(mine.label, mine.pointer, _short(mine), (same_membership(raw, *spots) or None) if mendable else None)
        )
    return CableEnds(ends, one.up and two.up, one.reason or two.reason, differences, carried)


def _short(port: LinkPort) -> str:
    if not port.bridges:
        tags = ", ".join(str(s.tag) for s in port.settings.subinterfaces)
        return f"routed, subinterfaces {tags}"
    raw = {"pvid": port.settings.pvid, "untagged": port.settings.untagged, "tagged": port.settings.tagged}
    return in_short(raw, edge=False)


def _forms(fabric: Fabric, port: LinkPort) -> Iterator[int]:
    settings = port.settings
    if not port.bridges:
        yield from ([UNTAGGED] if settings.addresses else [])
        yield from (s.tag for s in settings.subinterfaces)
        return
    yield from ([UNTAGGED] if settings.pvid is not None or settings.untagged else [])
    yield from (f for v in settings.tagged if (f := egress(settings, v)) is not None)


def _side(fabric: Fabric, port: LinkPort, form: int) -> tuple[bool, bool, int | None]:
    """Return (sends, takes, VLAN inside) for one form at one end."""
    if not port.bridges:
        here = form in set(_forms(fabric, port))
        return here, here, form or None
    settings: Membership = port.settings
    into, _ = ingress(settings, form, fabric.tables[port.box])
    out = next((v for v in (*settings.untagged, *settings.tagged) if egress(settings, v) == form), None)
    return out is not None, into is not None, into if into is not None else out


def _carried(fabric: Fabric, one: LinkPort, two: LinkPort, form: int) -> Carried:
    a, b = _side(fabric, one, form), _side(fabric, two, form)
    deliberate = form in one.settings.translate or form in two.settings.translate or not (one.bridges and two.bridges)
    same = a[:2] == b[:2] == (True, True) and (a[2] == b[2] or deliberate)
    words = {(True, True): "both", (True, False): "sends", (False, True): "takes", (False, False): ""}
    return Carried(form, [f"{words[s[:2]]} {s[2] or ''}".strip() for s in (a, b)], same)


def _settings(one: LinkPort, two: LinkPort) -> Iterator[str]:
    a, b = one.settings, two.settings
    if isinstance(a, Lag) != isinstance(b, Lag):
        lone, bundle = (two, one) if isinstance(a, Lag) else (one, two)
        yield f"{bundle.label} is a bundle, {lone.label} is a single port"
    elif isinstance(a, Lag) and isinstance(b, Lag):
        pair = {a.protocol, b.protocol}
        if ("static" in pair and len(pair) > 1) or pair == {"lacp-passive"}:
            yield f"bundles that do not agree: {a.protocol} and {b.protocol}"
        if len(one.members) != len(two.members):
            yield f"{len(one.members)} members and {len(two.members)}"
    elif isinstance(a, Port) and isinstance(b, Port) and a.speed_mbps and b.speed_mbps and a.speed_mbps != b.speed_mbps:
        yield f"{a.speed_mbps} Mbit/s and {b.speed_mbps} Mbit/s"
    if one.bridges and two.bridges and accepted(a) != accepted(b):
        yield f"admits {_admits(a)} and {_admits(b)}"


def _admits(port: Membership) -> str:
    return {"all": "all frames", "tagged": "tagged frames only", "untagged": "untagged frames only"}[accepted(port)]


def _vlans(one: LinkPort, two: LinkPort, carried: list[Carried]) -> Iterator[str]:
    for c in carried:
        if c.same:
            continue
        what = f"tag {c.form}" if c.form else "untagged"
        sides = [s.split() for s in c.here]
        if all(s[:1] == ["both"] for s in sides):
            yield f"{what}: VLAN {sides[0][1]} at {one.label}, VLAN {sides[1][1]} at {two.label}"
            continue
        for port, side in ((one, sides[0]), (two, sides[1])):
            if side[:1] != ["both"]:
                said = {"sends": "sends it and drops it on the way in", "takes": "takes it and sends none"}
                yield f"{what}: {port.label} {said.get(side[0], '') if side[:1] else 'does not carry it'}"
