"""One area as a graph, and the shortest paths of one router through it (RFC 2328 section 16.1)."""

from __future__ import annotations

import heapq
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from ipaddress import ip_network
from typing import Literal

from anabasis.design.notation import Address, Network
from anabasis.routing.ospf.neighbours import Router, Speaker

Node = tuple[Literal["router"], Router] | tuple[Literal["network"], int]
Hop = tuple[str, Address | None]
"""(egress interface, next hop); None = whoever has the destination is on the link."""
Hops = frozenset[Hop]


@dataclass(frozen=True)
class Reached:
    """How one router gets to a node."""

    cost: int
    hops: Hops


@dataclass
class Area:
    """The routers, networks and prefixes of one area, in one address family."""

    edges: dict[Node, dict[Node, int]] = field(default_factory=lambda: defaultdict(dict))
    first: dict[tuple[Router, Node], list[tuple[int, Hop]]] = field(default_factory=lambda: defaultdict(list))
    """How a router leaves towards a node beside it: (cost, hop) an interface."""
    addresses: dict[tuple[int, Router], list[Address]] = field(default_factory=lambda: defaultdict(list))
    """(network, router) -> its addresses there."""
    prefixes: dict[Node, dict[Network, int]] = field(default_factory=lambda: defaultdict(dict))

    def announce(self, node: Node, prefix: Network, cost: int) -> None:
        """Attach a prefix to a node; the least cost stays."""
        known = self.prefixes[node].get(prefix)
        self.prefixes[node][prefix] = cost if known is None else min(known, cost)

    def join(self, one: Node, two: Node, cost: int) -> None:
        """Add an edge; the least cost stays."""
        known = self.edges[one].get(two)
        self.edges[one][two] = cost if known is None else min(known, cost)

    def paths(self, root: Router) -> dict[Node, Reached]:
        """Return every node that a router reaches, with all next hops of least cost. Cost: edges x log nodes."""
        start: Node = ("router", root)
        found: dict[Node, Reached] = {start: Reached(0, frozenset())}
        done: set[Node] = set()
        queue: list[tuple[int, int, int, Node]] = [(0, 0, 0, start)]
        turn = 0
        while queue:
            cost, _, _, node = heapq.heappop(queue)
            if node in done or cost > found[node].cost:
                continue
            done.add(node)
            for near, length in self.edges.get(node, {}).items():
                hops = self._hops(root, start, node, near, length, found)
                known = found.get(near)
                if known is None or cost + length < known.cost:
                    found[near] = Reached(cost + length, hops)
                elif cost + length == known.cost:
                    found[near] = Reached(known.cost, known.hops | hops)
                else:
                    continue
                turn += 1
                # networks before routers of the same cost, so that no hop is added to a node that is done (section 16.1, step 3)
                heapq.heappush(queue, (found[near].cost, int(near[0] == "router"), turn, near))
        return found

    def _hops(self, root: Router, start: Node, node: Node, near: Node, length: int, found: dict[Node, Reached]) -> Hops:
        """Return the next hops to a node by way of its parent (section 16.1.1)."""
        if node == start:
            return frozenset(hop for cost, hop in self.first[root, near] if cost == length)
        if node[0] == "network" and near[0] == "router" and (root, node) in self.first:
            beside = {hop for cost, hop in self.first[root, node] if (hop in found[node].hops)}
            direct = {
                (interface, address)
                for interface, via in beside
                if via is None
                for address in self.addresses[node[1], near[1]]
            }
            through = {h for h in found[node].hops if h[1] is not None}
            return frozenset(direct | through)
        return found[node].hops


def areas_of(speakers: Iterable[Speaker], adjacent: Iterable[tuple[Speaker, Speaker]], version: int) -> dict[int, Area]:
    """Return the graph of every area from the interfaces that are up and the adjacencies between them."""
    areas: dict[int, Area] = defaultdict(Area)
    pairs = list(adjacent)
    taken = _point_to_point(areas, pairs, version) | _networks(areas, pairs, version)
    for s in speakers:
        node: Node = ("router", s.router)
        areas[s.area].edges.setdefault(node, {})
        for a in s.interface.addresses:
            if a.version != version:
                continue
            if s.interface.kind == "loopback":
                areas[s.area].announce(node, ip_network(a.ip), 0)  # section 12.4.1.1: a loopback is a host
            elif id(s) not in taken or s.settings.network == "point-to-point":
                areas[s.area].announce(node, a.network, s.settings.cost)
    return areas


def _point_to_point(areas: dict[int, Area], pairs: list[tuple[Speaker, Speaker]], version: int) -> set[int]:
    taken: set[int] = set()
    for pair in (p for p in pairs if p[0].settings.network == "point-to-point"):
        for one, two in (pair, pair[::-1]):
            there = two.address(version)
            assert there is not None
            area, ends = areas[one.area], (("router", one.router), ("router", two.router))
            area.join(*ends, one.settings.cost)  # type: ignore[arg-type]
            area.first[one.router, ("router", two.router)].append((one.settings.cost, (one.interface.name, there.ip)))
            taken.add(id(one))
    return taken


def _networks(areas: dict[int, Area], pairs: list[tuple[Speaker, Speaker]], version: int) -> set[int]:
    """Broadcast networks: the designated router (section 9.4: the highest priority, then router id) and those adjacent to it."""
    near: dict[int, set[int]] = defaultdict(set)
    of: dict[int, Speaker] = {}
    for one, two in (p for p in pairs if p[0].settings.network == "broadcast"):
        of[id(one)], of[id(two)] = one, two
        near[id(one)].add(id(two))
        near[id(two)].add(id(one))
    taken: set[int] = set()
    number = 0
    for head in sorted(near, key=lambda k: (-of[k].settings.priority, -of[k].router_id, of[k].key)):
        if head in taken or not of[head].settings.priority:
            continue
        members = [of[k] for k in (head, *(m for m in near[head] if m not in taken))]
        if len(members) < 2:
            continue
        number += 1
        area, node = areas[of[head].area], ("network", number)
        for s in members:
            for held in (a for a in s.interface.addresses if a.version == version):
                area.announce(node, held.network, 0)  # type: ignore[arg-type]
            there = s.address(version)
            assert there is not None
            router: Node = ("router", s.router)
            area.join(router, node, s.settings.cost)  # type: ignore[arg-type]
            area.join(node, router, 0)  # type: ignore[arg-type]
            area.first[s.router, node].append((s.settings.cost, (s.interface.name, None)))  # type: ignore[index]
            area.addresses[number, s.router].append(there.ip)
            taken.add(id(s))
    return taken
