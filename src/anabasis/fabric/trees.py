"""The spanning tree in use (IEEE 802.1Q-2022 clause 13, one tree for all VLANs): its root, blocked ports, and loops it cannot cut.

Hubs and switches with the spanning tree turned off pass its messages on like a wire: what they join is one **LAN** between the bridges
that do take part. A firewall passes none, neither bridged nor inline: it lets through what its policy names, and ARP and neighbour
discovery (docs/semantics.md, "Policy"). A way around it is therefore no loop to the tree, but a bypass (`fabric/bypasses.py`).
"""

from __future__ import annotations

import heapq
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass

from anabasis.design.devices import Device, Switch
from anabasis.fabric.bundles import LinkPort
from anabasis.fabric.links import Spot
from anabasis.facts import Cause, Layer, Values, Wrong, because

Bridge = tuple[int, str]
"""(priority, name): lower is better, as the bridge identifier is compared (clause 13.26.2)."""


@dataclass(frozen=True)
class Tree:
    """The outcome: the root of each bridged network, the ports that block, and loops among boxes without spanning tree."""

    roots: tuple[str, ...]
    blocked: dict[Spot, Cause]
    """Blocked port -> why."""
    loops: tuple[tuple[str, ...], ...]
    """Cables' port labels of each loop that nothing cuts."""


def path_cost(port: LinkPort) -> int:
    """Return the port path cost (clause 13, table 13-4: 20,000,000,000 over the rate in kbit/s); 1 Gbit/s where no speed is given."""
    rate = sum(m.port.speed_mbps or 1000 for m in port.members if m.up) or 1000
    return max(1, 20_000_000 // rate)


def spanning_tree(ports: dict[Spot, LinkPort], devices: dict[str, Device]) -> Tree:
    """Return the tree in use. Cost: (bridges + cables) x log."""
    links = [
        (p, ports[p.peer])
        for p in ports.values()
        if p.peer and p.spot < p.peer and _joins(p) and _joins(ports[p.peer]) and p.up and ports[p.peer].up
    ]
    lan_of, loops = _lans(links, devices)
    inside: dict[int, list[LinkPort]] = defaultdict(list)
    for one, two in links:
        for port in (one, two):
            if _takes_part(devices[port.box]):
                inside[lan_of[one.spot]].append(port)
    roots, blocked = _elect(inside, devices)
    return Tree(roots, blocked, loops)


def _joins(port: LinkPort) -> bool:
    return port.bridges and port.kind != "firewall" and not port.virtual


def _takes_part(device: Device) -> bool:
    return isinstance(device, Switch) and device.spanning_tree


def _lans(
    links: list[tuple[LinkPort, LinkPort]], devices: dict[str, Device]
) -> tuple[dict[Spot, int], tuple[tuple[str, ...], ...]]:
    """Return port -> number of its LAN, and the loops inside LANs. A union-find over cables and boxes that take no part."""
    parent: dict[object, object] = {}

    def find(x: object) -> object:
        parent.setdefault(x, x)
        while parent[x] != x:
            parent[x] = parent[parent[x]]
            x = parent[x]
        return x

    loops: list[tuple[str, ...]] = []
    for one, two in links:
        ends = [_node(one, devices), _node(two, devices)]
        if all(_silent(p, devices) for p in (one, two)) and find(ends[0]) == find(ends[1]):
            loops.append((one.label, two.label))
        parent[find(ends[0])] = find(ends[1])
    numbers: dict[object, int] = {}
    lan_of = {p.spot: numbers.setdefault(find(_node(p, devices)), len(numbers)) for pair in links for p in pair}
    return lan_of, tuple(loops)


def _silent(port: LinkPort, devices: dict[str, Device]) -> bool:
    return not _takes_part(devices[port.box])


def _node(port: LinkPort, devices: dict[str, Device]) -> object:
    """Return what a port joins: on a bridge itself alone, on any other box everything that box joins."""
    return port.spot if _takes_part(devices[port.box]) else (port.box, "box")


def _elect(inside: dict[int, list[LinkPort]], devices: dict[str, Device]) -> tuple[tuple[str, ...], dict[Spot, Cause]]:
    """Give every port on every LAN its role: root port, designated, or blocked (clause 13.12)."""
    of: dict[str, list[tuple[int, LinkPort]]] = defaultdict(list)
    for lan, members in inside.items():
        for port in members:
            of[port.box].append((lan, port))
    bridges: dict[str, Bridge] = {box: (_priority(devices[box]), box) for box in of}
    roots: list[str] = []
    blocked: dict[Spot, Cause] = {}
    done: set[str] = set()
    for root in sorted(bridges, key=lambda b: bridges[b]):
        if root in done:
            continue
        cost, root_port = _distances(root, bridges, of, inside)
        done |= set(cost)
        roots.append(root)
        designated = {
            lan: min(members, key=lambda p: (cost[p.box], bridges[p.box], _index(p, of)))
            for lan, members in inside.items()
            if any(p.box in cost for p in members)
        }
        for lan, best in designated.items():
            for port in inside[lan]:
                if port is not best and root_port.get(port.box) is not port:
                    values: Values = {"port": port.label, "best": best.label, "root": root}
                    blocked[port.spot] = because(Layer.LINK, Wrong.TREE_BLOCKS, port.pointer, values=values)
    return tuple(roots), blocked


def _priority(device: Device) -> int:
    return device.stp_priority if isinstance(device, Switch) else 65535


def _index(port: LinkPort, of: dict[str, list[tuple[int, LinkPort]]]) -> int:
    return next(i for i, (_, p) in enumerate(of[port.box]) if p is port)


def _distances(
    root: str, bridges: dict[str, Bridge], of: dict[str, list[tuple[int, LinkPort]]], inside: dict[int, list[LinkPort]]
) -> tuple[dict[str, int], dict[str, LinkPort]]:
    """Return the root path cost of every bridge that reaches the root, and its root port."""
    cost: dict[str, int] = {}
    root_port: dict[str, LinkPort] = {}
    todo: list[tuple[int, Bridge, int, int, str]] = [(0, bridges[root], 0, -1, root)]
    while todo:
        total, _, _, own, box = heapq.heappop(todo)
        if box in cost:
            continue
        cost[box] = total
        if own >= 0:
            root_port[box] = of[box][own][1]
        for k, (lan, _port) in enumerate(of[box]):
            for there, i, port in _others(inside[lan], box, of):
                if there not in cost:
                    heapq.heappush(todo, (total + path_cost(port), bridges[box], k, i, there))
    return cost, root_port


def _others(
    members: list[LinkPort], box: str, of: dict[str, list[tuple[int, LinkPort]]]
) -> Iterator[tuple[str, int, LinkPort]]:
    for port in members:
        if port.box != box:
            yield port.box, _index(port, of), port
