"""Where packets of one family go, class by class: forwarding tables over address classes, and paths followed once and kept.

A path here is that of a packet nothing translates on the way; where something might, `touched` says so, and `strands.py` looks closer.
Routes that share traffic make several paths; all of them have to arrive.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from anabasis.design.devices import Outside
from anabasis.design.notation import Address
from anabasis.fabric import Tap
from anabasis.reach.places import number_to_address
from anabasis.reach.site import Site
from anabasis.routing import HostGroup, L3Interface, TableRoute
from anabasis.routing.interfaces import routes_packets

Zones = tuple[str, str, str]
"""(firewall, ingress zone, egress zone)."""
Fib = list[npt.NDArray[np.int32]]
"""int32[address_class] each: index into a table's routes, -1 = none; more than one where routes share traffic."""


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
    touched: bool = False
    """A translation on the way might change a packet."""

    def then(self, crossings: tuple[Zones, ...]) -> Path:
        """Return the same path with filtering points behind it."""
        return replace(self, crossings=self.crossings + crossings) if crossings else self

    @property
    def firewalls(self) -> frozenset[str]:
        """Return the firewalls crossed."""
        return frozenset(c[0] for c in self.crossings)


Paths = tuple[Path, ...]
"""Every way packets may take; one that is lost stands for all."""
LOST = Path(False)
Node = tuple[str, str, L3Interface | None]
"""(device, VRF, interface the packet came in by; None = sent from behind or by the box itself)."""


@dataclass(frozen=True)
class Step:
    """One way on from a device or a host: to the next device, onto the last link, or nowhere."""

    to: Node | Path
    routed: tuple[L3Interface, L3Interface] | None = None
    """The interfaces of a firewall that routes it: in, out."""
    over: tuple[Zones, ...] = ()
    """The filtering points on the link behind."""


class Forwarding:
    """Paths of one family over address classes."""

    def __init__(
        self,
        site: Site,
        version: int,
        fibs: dict[tuple[str, str], Fib],
        samples: list[int],
        touches: Callable[[str, str, str | None, int], bool],
    ) -> None:
        """`samples`: one address a class; `touches(firewall, zone in, zone out or None, class)`: some translation might change a packet there."""
        self._site, self._version, self._fibs, self._samples, self._touches = site, version, fibs, samples, touches
        self._translates = any(p.translations for p in site.policies.of.values())
        self._known: dict[tuple[Node, int], Paths] = {}
        self._gateways: dict[HostGroup, Step] = {}
        self._by_sample = sorted((address, k) for k, address in enumerate(samples))
        first: dict[tuple[str, str, str | None], L3Interface] = {}
        self._alike = {i: first.setdefault((i.device, i.vrf, i.zone), i) for i in site.net.interfaces}
        """Interfaces of one device, VRF and zone forward alike: the first stands for all of them."""
        self._standing = {(i.device, a) for i in site.net.interfaces for a in i.standing}

    def address(self, goal: int) -> int:
        """Return one address of a class."""
        return self._samples[goal]

    def from_group(self, group: HostGroup, goal: int) -> Paths:
        """Return the paths from hosts of a group to a class."""
        return self.beyond(self.first(group, goal), goal)

    def beyond(self, step: Step, goal: int) -> Paths:
        """Return the paths that begin with a step."""
        if isinstance(step.to, Path):
            return (step.to.then(step.over),)
        return tuple(dict.fromkeys(_before(step.over, p) for p in self._follow(step.to, goal)))

    def first(self, group: HostGroup, goal: int) -> Step:
        """Return what hosts of a group do with packets to a class."""
        low, high = int(group.subnet.network_address), int(group.subnet.broadcast_address)
        if not group.behind and group.tap is not None and low <= self._samples[goal] <= high:
            return self._on_link(group.tap, goal)
        return self.entry(group)

    def on_link(self, group: HostGroup) -> list[int]:
        """Return the classes that hosts of a group send to straight; none for hosts behind an outside."""
        if group.behind or group.tap is None:
            return []
        low, high = int(group.subnet.network_address), int(group.subnet.broadcast_address)
        return [self._by_sample[k][1] for k in range(*self._range(low, high))]

    def _range(self, low: int, high: int) -> tuple[int, int]:
        return bisect_left(self._by_sample, (low, -1)), bisect_left(self._by_sample, (high + 1, -1))

    def entry(self, group: HostGroup) -> Step:
        """Return what hosts of a group do with packets to anything that is not on their link."""
        if group.behind:
            return Step((group.behind, "main", None))
        if group.tap is None:
            return Step(LOST)
        if group not in self._gateways:
            self._gateways[group] = self._gateway(group.tap, group.gateway)
        return self._gateways[group]

    def _gateway(self, tap: Tap, gateway: Address | None) -> Step:
        if gateway is None:
            return Step(LOST)
        net = self._site.net
        return self._to_first_heard(tap, net.gateways(gateway) or net.silent_outsides(gateway, tap))

    def _on_link(self, tap: Tap, goal: int) -> Step:
        holders = self._site.net.answering(number_to_address(self._version, self._samples[goal]))
        return self._to_first_heard(tap, holders) if holders else Step(Path(True, end=tap))

    def _to_first_heard(self, start: Tap, holders: list[L3Interface]) -> Step:
        """Go to the first interface that frames of a tap get to; one that nothing passes is none."""
        for interface in holders:
            if interface.tap is not None and self._site.fabric.delivers(start, interface.tap):
                over = self.over_link(start, interface.tap)
                if over is None:
                    return Step(LOST)
                return Step((interface.device, interface.vrf, self._alike[interface]), over=over)
        return Step(LOST)

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

    def _follow(self, node: Node, goal: int, open_: tuple[Node, ...] = ()) -> Paths:
        if (node, goal) in self._known:
            return self._known[node, goal]
        if node in open_:
            return (replace(LOST, touched=self._translates),)  # a routing loop, unless a translation leads out of it
        entry = self.zone_of(node)
        touched = entry is not None and self._touches(node[0], entry, None, goal)
        found: list[Path] = []
        for step in self.steps(node, goal):
            crossings = (*self.zones(step), *step.over)
            here = touched or any(self._touches(*z, goal) for z in self.zones(step))
            after = (step.to,) if isinstance(step.to, Path) else self._follow(step.to, goal, (*open_, node))
            found += [replace(_before(crossings, p), touched=here or p.touched) for p in after]
        refuses = self.refuses_private(node)
        paths = tuple(dict.fromkeys(replace(p, refuses_private=refuses or p.refuses_private) for p in found))
        if not all(p.arrived for p in paths):
            paths = (replace(LOST, touched=any(p.touched for p in paths)),)
        self._known[node, goal] = paths
        return paths

    def steps(self, node: Node, goal: int) -> list[Step]:
        """Return where one device sends packets to a class, one step an equal route."""
        name, vrf, ingress = node
        if ingress is not None and (
            not routes_packets(self._site.net.devices[name]) or not self._zone_ok(name, ingress)
        ):
            return [Step(LOST)]
        return [self._leave(name, ingress, r, goal) for r in self._routes(name, vrf, goal)] or [Step(LOST)]

    def _routes(self, name: str, vrf: str, goal: int, before: tuple[str, ...] = ()) -> list[TableRoute]:
        """Return the routes that packets follow, through other VRFs where routes lead there; none where one of them is lost."""
        out: list[TableRoute] = []
        for index in dict.fromkeys(int(f[goal]) for f in self._fibs[name, vrf]):
            route = self._site.net.tables[name, vrf].routes[index] if index >= 0 else None
            if route is None:
                return []
            if route.next_vrf is None:
                out.append(route)
                continue
            further = (*before, vrf)
            beyond = [] if route.next_vrf in further else self._routes(name, route.next_vrf, goal, further)
            if not beyond:
                return []
            out += beyond
        return out

    def _leave(self, name: str, ingress: L3Interface | None, route: TableRoute, goal: int) -> Step:
        net = self._site.net
        if route.discard or route.origin == "local":
            return Step(LOST)
        if route.origin == "behind":
            return Step(Path(True, behind=name))
        egress = net.by_name[name, route.interface or ""]
        address = number_to_address(self._version, self._samples[goal])
        if (name, address) in self._standing:
            return Step(LOST)
        if route.hop is None and any(i.device == name for i in net.claims.claimants(address)):
            return Step(LOST)
        routed = None
        if name in self._site.policies.of and ingress is not None:
            if not self._zone_ok(name, egress):
                return Step(LOST)
            routed = ingress, egress
        if egress.tap is None:
            return Step(LOST, routed)
        if route.hop is None:
            return replace(self._on_link(egress.tap, goal), routed=routed)
        return replace(self._to_first_heard(egress.tap, net.next_hop_holders(route.hop, egress)), routed=routed)

    def zones(self, step: Step) -> tuple[Zones, ...]:
        """Return the filtering point of a step through a firewall that routes, or none."""
        if step.routed is None:
            return ()
        ingress, egress = step.routed
        return ((ingress.device, ingress.zone or "", egress.zone or ""),)

    def zone_of(self, node: Node) -> str | None:
        """Return the zone by which packets come into a firewall; None where it filters nothing."""
        name, _, ingress = node
        return (ingress.zone or "") if ingress is not None and name in self._site.policies.of else None

    def refuses_private(self, node: Node) -> bool:
        """Tell whether packets come into an outside that drops private sources."""
        device = self._site.net.devices[node[0]]
        return node[2] is not None and isinstance(device, Outside) and not device.accepts_private

    def _zone_ok(self, name: str, interface: L3Interface) -> bool:
        policy = self._site.policies.of.get(name)
        return policy is None or policy.zone_problem(interface.zone, "routed", "") is None


def _before(crossings: tuple[Zones, ...], path: Path) -> Path:
    return replace(path, crossings=crossings + path.crossings) if crossings and path.arrived else path
