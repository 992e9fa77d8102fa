"""Where packets of one family go, class by class: forwarding tables over address classes, and paths followed once and kept."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from anabasis.design.devices import Outside
from anabasis.fabric import Tap
from anabasis.reach.site import Site
from anabasis.routing import HostGroup, L3Interface, TableRoute
from anabasis.routing.interfaces import routes_packets

Zones = tuple[str, str, str]
"""(firewall, ingress zone, egress zone)."""


@dataclass(frozen=True)
class Path:
    """Where packets to one class of addresses end, and what they cross on the way."""

    arrived: bool
    end: Tap | None = None
    """The attachment that puts the packet onto its last link."""
    behind: str | None = None
    """The outside that keeps it."""
    crossings: tuple[Zones, ...] = ()
    refuses_private: bool = False
    """It enters an outside that drops private sources."""

    def after(self, crossings: tuple[Zones, ...]) -> Path:
        """Return the same path with filtering points before it."""
        return replace(self, crossings=crossings + self.crossings) if crossings and self.arrived else self

    def then(self, crossings: tuple[Zones, ...]) -> Path:
        """Return the same path with filtering points behind it."""
        return replace(self, crossings=self.crossings + crossings) if crossings else self

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
        entry, over = self._gateway(group)
        return LOST if entry is None else self._follow((entry.device, entry.vrf, entry), goal).after(over)

    def _gateway(self, group: HostGroup) -> tuple[L3Interface | None, tuple[Zones, ...]]:
        net = self._site.net
        if group.gateway is None or group.tap is None:
            return None, ()
        holders = [i for i in net.interfaces if i.holds(group.gateway) and routes_packets(net.devices[i.device])]
        return self._first_heard(group.tap, holders or net.silent_outsides(group.gateway, group.tap))

    def _first_heard(self, start: Tap, holders: list[L3Interface]) -> tuple[L3Interface | None, tuple[Zones, ...]]:
        """Return the first interface that frames of a tap get to, with the filtering points between; one that nothing passes is none."""
        for interface in holders:
            if interface.tap is not None and self._site.fabric.delivers(start, interface.tap):
                over = self.over_link(start, interface.tap)
                return (None, ()) if over is None else (interface, over)
        return None, ()

    def over_link(self, start: Tap, goal: Tap) -> tuple[Zones, ...] | None:
        """Return the filtering points between two taps of one domain, or None where frames do not get there, or none passes."""
        carriage = self._site.fabric.carry(start, goal)
        if carriage is None:
            return None
        for crossing in carriage.crossings:
            policy = self._site.policies.of[crossing.device]
            for zone in (crossing.from_zone, crossing.to_zone):
                if policy.zone_problem(zone, crossing.kind, ""):
                    return None
        return tuple((c.device, c.from_zone or "", c.to_zone or "") for c in carriage.crossings)

    def _follow(self, start: Node, goal: int) -> Path:
        trail: list[tuple[Node, tuple[Zones, ...], bool]] = []
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

    def _step(self, node: Node, goal: int) -> tuple[Node | Path, tuple[Zones, ...], bool]:
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
    ) -> tuple[Node | Path, tuple[Zones, ...]]:
        net = self._site.net
        egress = net.by_name[name, route.interface or ""]
        crossings: tuple[Zones, ...] = ()
        if name in self._site.policies.of and ingress is not None:
            if not self._zone_ok(name, egress):
                return LOST, ()
            crossings = ((name, ingress.zone or "", egress.zone or ""),)
        if egress.tap is None:
            return LOST, ()
        if route.via is None:
            return Path(True, end=egress.tap), crossings
        entry, over = self._first_heard(egress.tap, net.next_hop_holders(route.via, egress))
        return (LOST if entry is None else (entry.device, entry.vrf, entry)), crossings + over

    def _zone_ok(self, name: str, interface: L3Interface) -> bool:
        policy = self._site.policies.of.get(name)
        return policy is None or policy.zone_problem(interface.zone, "routed", "") is None
