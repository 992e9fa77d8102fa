"""Which ports must carry a VLAN so that it gets from a firewall to the switches that use it, by the cables of the document."""

from __future__ import annotations

from collections import deque

from anabasis.design.devices import BridgingBox, Device
from anabasis.design.document import Design
from anabasis.design.notation import end_asked
from anabasis.design.references import mode_of, unit_names


def uplinks(design: Design, firewall: str, port: str, switches: list[str]) -> list[str]:
    """Return the ports and bundles, as device:port, that have to carry a VLAN between a firewall's port and some switches.

    The switches the port leads to come first; from there the fewest cables lead on. Cost: linear in cables, once a switch.
    """
    links = _links(design)
    start = [(peer, far) for here, near, peer, far in links if (here, near) == (firewall, port)]
    carrying = dict.fromkeys(f"{peer}:{far}" for peer, far in start)
    roots = list(dict.fromkeys(peer for peer, _ in start))
    for switch in switches:
        for one, near, two, far in _way(links, roots, switch):
            carrying |= dict.fromkeys((f"{one}:{near}", f"{two}:{far}"))
    return list(carrying)


def _links(design: Design) -> list[tuple[str, str, str, str]]:
    """Return (device, port or bundle, far device, far port or bundle) of every cable between boxes that bridge or filter, both ways."""
    boxes = {box: d for d in design.devices for box in unit_names(d)}
    out: dict[tuple[str, str, str, str], None] = {}
    for cable in design.cables:
        ends = [_at(boxes, end) for end in cable]
        if ends[0] and ends[1]:
            out[*ends[0], *ends[1]] = None
            out[*ends[1], *ends[0]] = None
    return list(out)


def _at(boxes: dict[str, Device], end: str) -> tuple[str, str] | None:
    box, name = end_asked(end)
    device = boxes[box]
    if not isinstance(device, BridgingBox):
        return None
    port = next((p for p in device.ports if p.name == name), None)
    if port is None or mode_of(port, device) in ("off", "heartbeat", "inline"):
        return None
    return device.name, port.lag or name


def _way(links: list[tuple[str, str, str, str]], roots: list[str], goal: str) -> list[tuple[str, str, str, str]]:
    """Return the links from one of the roots to a switch, fewest first; only the roots and switches between are passed."""
    before: dict[str, tuple[str, str, str, str] | None] = dict.fromkeys(roots)
    todo = deque(roots)
    while todo and goal not in before:
        here = todo.popleft()
        for link in links:
            if link[0] == here and link[2] not in before:
                before[link[2]] = link
                todo.append(link[2])
    way: list[tuple[str, str, str, str]] = []
    step = before.get(goal)
    while step is not None:
        way.append(step)
        step = before.get(step[0])
    return way
