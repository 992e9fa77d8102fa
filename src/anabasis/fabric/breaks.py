"""Why frames do not get from here to there: the first obstacle on the way with the fewest obstacles.

The search goes over the cables as they are plugged, whatever their state, and counts what stops a frame on each: a line that is
down, a port that is no member, a table that lacks the VLAN, a tag the far end reads as another VLAN.
"""

from __future__ import annotations

import heapq
from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import count

from anabasis.fabric.bundles import LinkPort
from anabasis.fabric.flow import Fabric, Tap, is_edge, kept_apart, wire_carries
from anabasis.fabric.frames import UNTAGGED, egress, ingress


@dataclass(frozen=True)
class Break:
    """One obstacle: its layer (`link`, `vlan` or `isolation`), what it is in words, and the item of the design that makes it."""

    layer: str
    reason: str
    pointer: str
    port: LinkPort | None = None
    """The port that lacks the VLAN, where joining it would mend the break."""
    vlan: int | None = None
    trail: tuple[tuple[LinkPort, int], ...] = ()
    """The ports the frame enters before it is stopped, each with the VLAN it is put into."""


Spot = tuple[str, int]
"""(box, VLAN); on a hub, (box, form)."""
Trail = tuple[tuple[LinkPort, int], ...]


def why_apart(fabric: Fabric, start: Tap, goal: Tap) -> Break:
    """Return the first obstacle between two taps whose frames do not pass. Cost: linear in cables x VLANs met."""
    for tap in (start, goal):
        own = _own_line(fabric, tap)
        if own:
            return own
    best: dict[Spot, int] = {}
    order = count()
    todo: list[tuple[int, int, Spot, LinkPort | None, Break | None, Trail]] = []
    for spot, port, obstacle in _starts(fabric, start):
        entered = ((port, spot[1]),) if port is not None and obstacle is None else ()
        heapq.heappush(todo, (int(obstacle is not None), next(order), spot, port, obstacle, entered))
    while todo:
        cost, _, spot, came, first, trail = heapq.heappop(todo)
        if best.get(spot, 1 << 30) <= cost:
            continue
        best[spot] = cost
        end = _arrival(fabric, spot, came, goal)
        if end is not None and (end.layer or first):
            return replace(first or end, trail=trail)
        for there, port, obstacle, weight in _steps(fabric, spot, came, goal):
            if there is None and (obstacle or first):
                return replace(first or obstacle, trail=trail)  # type: ignore[return-value, type-var]
            if there is not None:
                further = trail if first or obstacle else (*trail, (port, there[1]))
                heapq.heappush(todo, (cost + weight, next(order), there, port, first or obstacle, further))
    return Break("link", f"no cable leads from {start.label} to {goal.label}", start.pointer)


def _own_line(fabric: Fabric, tap: Tap) -> Break | None:
    """A tap on a port whose own line is down."""
    if tap.port is None or tap.kind == "edge":
        return None
    port = fabric.ports[tap.box, tap.port]
    return None if port.up else Break("link", port.reason, port.blame)


def _starts(fabric: Fabric, start: Tap) -> Iterator[tuple[Spot, LinkPort | None, Break | None]]:
    if start.port is None:
        yield (start.box, start.form), None, None
        return
    port = fabric.ports[start.box, start.port]
    target = port if start.kind == "edge" else fabric.ports[port.peer] if port.peer else None
    if target is not None:
        target, held = _past_inline(fabric, target, start.form)
    if target is not None and target.bridges:
        for there, entered, obstacle in _enter(fabric, target, start.form, start.form or (target.settings.pvid or 0)):
            yield there, entered, held or obstacle


def _past_inline(fabric: Fabric, port: LinkPort, form: int) -> tuple[LinkPort | None, Break | None]:
    """Follow inline pairs from the port a frame enters to the first port that is none; return it, and what stops the frame before."""
    obstacle: Break | None = None
    for _ in range(len(fabric.inline_pairs) + 1):
        if port.spot not in fabric.inline_pairs:
            return port, obstacle
        other, wire, at = fabric.inline_pairs[port.spot]
        if not wire_carries(wire, form):
            said = "untagged frames" if form == UNTAGGED else f"tag {form}"
            obstacle = obstacle or Break("vlan", f"the inline pair {wire.name} does not carry {said}", at + "/tags")
        if not other.up:
            obstacle = obstacle or Break("link", other.reason, other.blame)
        if other.peer is None:
            return None, obstacle
        port = fabric.ports[other.peer]
    return None, obstacle


def _enter(fabric: Fabric, port: LinkPort, form: int, meant: int) -> Iterator[tuple[Spot, LinkPort, Break | None]]:
    """Yield where a frame lands that enters a bridged port: where it is put, and where it was meant to go."""
    if fabric.tables[port.box] is None:
        yield (port.box, form), port, None
        return
    vlan, why = ingress(port.settings, form, fabric.tables[port.box])
    if vlan is not None:
        yield (port.box, vlan), port, None
    if vlan != meant and meant:
        said = "untagged frames" if form == UNTAGGED else f"tag {form}"
        reason = (
            f"{port.label} drops {said}: {why}"
            if vlan is None
            else f"{port.label} puts {said} into VLAN {vlan}, not VLAN {meant}"
        )
        yield (port.box, meant), port, _membership(fabric, port, meant, reason)


def _membership(fabric: Fabric, port: LinkPort, vlan: int, reason: str) -> Break:
    if not fabric.carries(port.box, vlan):
        device = fabric.devices[port.box]
        at = port.pointer.split("/ports/")[0].split("/lags/")[0]
        return Break("vlan", f"VLAN {vlan} is not in the VLAN table of {device.name}", at + "/vlans")
    return Break("vlan", reason, port.pointer, port, vlan)


def _arrival(fabric: Fabric, spot: Spot, came: LinkPort | None, goal: Tap) -> Break | None:
    """Tell whether the goal stands inside this (box, VLAN); a Break without a layer means it is simply there."""
    box, vlan = spot
    if goal.box != box:
        return None
    if goal.port is None:
        return Break("", "", "") if goal.form == vlan else None
    port = fabric.ports[box, goal.port]
    if goal.kind != "edge" or not is_edge(port, fabric) or came is port:
        return None
    if came and kept_apart(came, port):
        return Break("isolation", f"{came.label} and {port.label} are kept apart inside {box}", port.pointer)
    return Break("", "", "") if egress(port.settings, vlan) == goal.form else None


def _steps(
    fabric: Fabric, spot: Spot, came: LinkPort | None, goal: Tap
) -> Iterator[tuple[Spot | None, LinkPort, Break | None, int]]:
    """Yield (where to, port entered, first obstacle, number of obstacles); where = None is the goal itself."""
    box, vlan = spot
    for port in (p for p in fabric.ports.values() if p.box == box and p.bridges and p is not came and p.peer):
        far = fabric.ports[port.peer]  # type: ignore[index]
        form = vlan if fabric.tables[box] is None else egress(port.settings, vlan)
        obstacle: Break | None = None
        if not port.up or not far.up:
            down = port if not port.up else far
            obstacle = Break("link", down.reason, down.blame)
        elif form is None:
            obstacle = _membership(fabric, port, vlan, f"{port.label} does not carry VLAN {vlan}")
        elif came and kept_apart(came, port):
            obstacle = Break("isolation", f"{came.label} and {port.label} are kept apart inside {box}", port.pointer)
        elif {port.spot, far.spot} & set(fabric.tree.blocked):
            held_back = port if port.spot in fabric.tree.blocked else far
            obstacle = Break("link", fabric.tree.blocked[held_back.spot], held_back.pointer)
        sent = vlan if form is None else form
        end, held = _past_inline(fabric, far, sent)
        obstacle = obstacle or held
        if end is None:
            continue
        if not end.bridges:
            for handed in _hand_over(end, sent, vlan, obstacle, goal, port):
                yield *handed, int(handed[2] is not None)
            continue
        for there, entered, second in _enter(fabric, end, sent, vlan):
            yield there, entered, obstacle or second, (obstacle is not None) + (second is not None)


def _hand_over(
    far: LinkPort, sent: int, vlan: int, obstacle: Break | None, goal: Tap, port: LinkPort
) -> Iterator[tuple[Spot | None, LinkPort, Break | None]]:
    if goal.port is None or far.spot != (goal.box, goal.port):
        return
    wrong = None
    if sent != goal.form:
        sends = "without a tag" if sent == UNTAGGED else f"with tag {sent}"
        wants = "without a tag" if goal.form == UNTAGGED else f"with tag {goal.form}"
        wrong = Break("vlan", f"{port.label} sends VLAN {vlan} {sends}, {goal.label} takes it {wants}", port.pointer)
    yield None, far, obstacle or wrong
