"""Where packets of one family go, class by class: forwarding tables over address classes, and paths followed once and kept."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from anabasis.design.devices import Outside
from anabasis.fabric import Tap
from anabasis.reach.site import Site
from anabasis.routing import HostGroup, L3Interface, TableRoute
from anabasis.routing.interfaces import routes_packets

Crossing = tuple[str, str, str]
"""(firewall, ingress zone, egress zone)."""


@dataclass(frozen=True)
class Path:
    """Where packets to one class of addresses end, and what they cross on the way."""

    arrived: bool
    end: Tap | None = None
    """The attachment that puts the packet onto its last link."""
    behind: str | None = None
    """The outside that keeps it."""
    crossings: tuple[Crossing, ...] = ()
    refuses_private: bool = False
    """It enters an outside that drops private sources."""

    @property
    def firewalls(self) -> frozenset[str]:
        """Return the firewalls crossed."""
        return frozenset(c[0] for c in self.crossings)


LOST = Path(False)
Node = tuple[str, str, L3Interface | None]


class Forwarding:
    """Paths of one family over address classes."""

    def __init__(
        self, site: Site, version: int, fibs: dict[tuple[str, str], npt.NDArray[np.int32]], samples: list[int]
    ) -> None:
        """`fibs`: (device, VRF) -> int32[address_class], index into the table's routes, -1 = none; `samples`: one address a class."""
        self._site, self._version, self._fibs, self._samples = site, version, fibs, samples
        self._known: dict[tuple[Node, int], Path] = {}

    def from_group(self, group: HostGroup, goal: int) -> Path:
        """Return the path from hosts of a group to a class."""
        if group.behind:
            return self._follow((group.behind, "main", None), goal)
        if group.tap is None:
            return LOST
        low, high = int(group.subnet.network_address), int(group.subnet.broadcast_address)
        if low <= self._samples[goal] <= high:
            return Path(True, end=group.tap)
        entry = self._gateway(group)
        return LOST if entry is None else self._follow((entry.device, entry.vrf, entry), goal)

    def _gateway(self, group: HostGroup) -> L3Interface | None:
        net = self._site.net
        if group.gateway is None or group.tap is None:
            return None
        holders = [i for i in net.interfaces if i.holds(group.gateway) and routes_packets(net.devices[i.device])]
        return self._first_heard(group.tap, holders or net.silent_outsides(group.gateway, group.tap))

    def _first_heard(self, start: Tap, holders: list[L3Interface]) -> L3Interface | None:
        return next((i for i in holders if i.tap is not None and self._site.fabric.delivers(start, i.tap)), None)

    def _follow(self, start: Node, goal: int) -> Path:
        trail: list[tuple[Node, tuple[Crossing, ...], bool]] = []
        node: Node | None = start
        result = LOST
        while node is not None:
            if (node, goal) in self._known:
                result = self._known[node, goal]
                break
            if any(node == seen for seen, _, _ in trail):
                break  # a routing loop: lost
            step, crossings, private = self._step(node, goal)
            trail.append((node, crossings, private))
            if isinstance(step, Path):
                result = step
                break
            node = step
        for seen, crossings, private in reversed(trail):
            if result.arrived:
                result = Path(
                    True, result.end, result.behind, crossings + result.crossings, private or result.refuses_private
                )
            self._known[seen, goal] = result
        return result

    def _step(self, node: Node, goal: int) -> tuple[Node | Path, tuple[Crossing, ...], bool]:
        """Take one device: where the packet goes on, or how it ends, with what this device adds to the path."""
        name, vrf, ingress = node
        net = self._site.net
        device = net.devices[name]
        private = ingress is not None and isinstance(device, Outside) and not device.accepts_private
        if ingress is not None and (not routes_packets(device) or not self._zone_ok(name, ingress)):
            return LOST, (), private
        index = int(self._fibs[name, vrf][goal])
        route = net.tables[name, vrf].routes[index] if index >= 0 else None
        if route is None or route.discard or route.origin == "local":
            return LOST, (), private
        if route.next_vrf:
            return (name, route.next_vrf, ingress), (), private
        if route.origin == "behind":
            return Path(True, behind=name), (), private
        return (*self._leave(name, ingress, route), private)

    def _leave(
        self, name: str, ingress: L3Interface | None, route: TableRoute
    ) -> tuple[Node | Path, tuple[Crossing, ...]]:
        net = self._site.net
        egress = net.by_name[name, route.interface or ""]
        crossings: tuple[Crossing, ...] = ()
        if name in self._site.policies.of and ingress is not None:
            if not self._zone_ok(name, egress):
                return LOST, ()
            crossings = ((name, ingress.zone or "", egress.zone or ""),)
        if egress.tap is None:
            return LOST, ()
        if route.via is None:
            return Path(True, end=egress.tap), crossings
        entry = self._first_heard(egress.tap, net.next_hop_holders(route.via, egress))
        return (LOST if entry is None else (entry.device, entry.vrf, entry)), crossings

    def _zone_ok(self, name: str, interface: L3Interface) -> bool:
        policy = self._site.policies.of.get(name)
        return policy is None or (interface.zone is not None and policy.zone_kinds[interface.zone] == "routed")
