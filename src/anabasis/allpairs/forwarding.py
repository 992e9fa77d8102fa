"""Where packets of one family go, class by class: forwarding tables over address classes, and paths followed once and kept.

A path here is that of a packet nothing translates on the way; where something might, `touched` says so, and `translated.py` looks closer.
Routes that share traffic make several paths; all of them have to arrive.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from anabasis.allpairs.links import Links, place_of
from anabasis.allpairs.path_table import (
    HOST,
    LOOP,
    NOWHERE,
    STEERED,
    Node,
    Path,
    Paths,
    PathTable,
    Place,
    Side,
    Zones,
    any_of,
    lost,
)
from anabasis.classes import Mask, Numbers
from anabasis.design.devices import Outside, RoutingBox
from anabasis.design.notation import Address
from anabasis.fabric import Attachment
from anabasis.once import once
from anabasis.policy import THERE, Steering, Translation
from anabasis.routing import HostGroup, L3Interface, TableRoute, kept_apart, routes_packets
from anabasis.site import Site, number_to_address

Fib = list[npt.NDArray[np.int32]]
"""int32[address_class] each: index into a table's routes, -1 = none; more than one where routes share traffic."""


Spoken = Mapping[str, Sequence[tuple[Translation, Mask]]]
"""Box -> its translations, each with bool[address_class]: the destinations of which it speaks."""


Steered = Mapping[tuple[str, str], Sequence[tuple[Steering, TableRoute, Mask]]]
"""(box, VRF) -> its policy routes that are active, in their order, each with bool[address_class]: the destinations it is for."""


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
        touching: Callable[[str, str, str | None], Mask],
        spoken: Spoken,
        steering: Steered,
        base: Forwarding | None = None,
        parents: Numbers | None = None,
    ) -> None:
        """`samples`: one address a class; `touching(firewall, zone in, zone out or None)`: to which classes some translation might change a packet there;
        `spoken`: of what destinations each speaks; `steering`: the policy routes.

        `base`: of another state; all paths keep their numbers, and where the classes are those there, or parts of them (`parents`: int[class]),
        paths stay that meet nothing which is otherwise now.
        """
        self._site, self._version, self._fibs, self._samples, self._touching = site, version, fibs, samples, touching
        self._spoken, self._steering = spoken, steering
        self._by_name = {box for (box, _), of in steering.items() if any(s.from_zones is not None for s, _, _ in of)}
        """Boxes that tell their interfaces apart, since a policy route does."""
        self.table: PathTable = base.table if base is not None and base.table.fits else PathTable()
        self._translates = any(p.translations for p in site.policies.translating.values())
        self._known: dict[Node, Numbers] = {}
        self._visited: dict[Node, Numbers] = {}
        """int[class] a node: the boxes that its paths lead through, by the table's numbers"""
        self._steps: dict[tuple[Node, int], list[Step]] = {}
        self._kinds: dict[str, Numbers] = {}
        self._straight_on: dict[tuple[str, str], Numbers] = {}
        self._gateways: dict[HostGroup, Step] = {}
        self._by_sample = sorted((address, k) for k, address in enumerate(samples))
        self._entered: dict[Node, L3Interface] = {}
        """Interfaces of one device, VRF and side forward alike: the first stands for all of them."""
        self._side = {i: self._side_of(i) for i in site.net.interfaces}
        for i, side in self._side.items():
            self._entered.setdefault((i.device, i.vrf, side), i)
        self._standing = {(i.device, a) for i in site.net.interfaces for a in i.standing}
        near = base if base is not None and parents is not None and site.routes_alone_differ(base._site) else None
        if near is not None and "links" in near.__dict__:
            self.__dict__["links"] = near.links
        self._parents = parents if parents is not None else np.arange(len(samples))
        same = near is not None and len(self._parents) == len(near._samples)
        self._held: Numbers = near._held if near is not None and same else self._held_apart()
        number = {sample: k for k, sample in enumerate(samples)}
        self._stood_for: dict[str, list[int]] = {}
        """Device -> the classes whose address it stands for."""
        for device, stood in self._standing:
            if stood.version == version and int(stood) in number:
                self._stood_for.setdefault(device, []).append(number[int(stood)])
        self.elsewhere: Mask | None = None
        """bool[class]: some box sends it otherwise than in the other state; None = not known."""
        if base is not None and parents is not None and self.table is base.table:
            self._take_over(base, near is not None)

    def _take_over(self, base: Forwarding, routes_alone: bool) -> None:
        """Take over the paths that meet no box which sends their class otherwise than in another state."""
        otherwise = self._otherwise(base, routes_alone)
        if otherwise is None:
            return
        self.elsewhere = np.logical_or.reduce([np.zeros(len(self._samples), dtype=bool), *otherwise.values()])
        columns = {box: np.flatnonzero(classes) for box, classes in otherwise.items() if classes.any()}
        having = {box: self.table.visited.having(box) for box in (LOOP, *columns)}
        for node, known in base._known.items():
            if node[2] is not None and node not in self._entered:
                continue
            row, visited = known[self._parents], base._visited[node][self._parents]
            gone = np.zeros(len(row), dtype=bool)
            gone |= having[LOOP][visited]
            for box, here in columns.items():
                gone[here] |= having[box][visited[here]]
            self._known[node] = np.where(gone, -1, row)
            self._visited[node] = np.where(gone, NOWHERE, visited)

    def _otherwise(self, base: Forwarding, routes_alone: bool) -> dict[str, Mask] | None:
        """Return by box bool[class]: which classes it sends otherwise than in another state; None where that cannot be told."""
        if self._fibs.keys() != base._fibs.keys() or self._translates != base._translates:
            return None
        boxes = dict.fromkeys(device for device, _ in self._fibs)
        held = (self._held > 0) != (base._held[self._parents] > 0) if self._held is not base._held else None
        out = {box: np.zeros(len(self._samples), dtype=bool) if held is None else held.copy() for box in boxes}
        moved: dict[str, set[str]] = {}
        if not routes_alone:
            if self.links is None or base.links is None:
                return None
            for box in boxes:
                if self.links.boxes[box] != base.links.boxes[box]:
                    out[box][:] = True
                moved[box] = self.links.moved(base.links, box)
        for box in boxes:
            out[box] |= self._retranslated(base, box)
        for key in {*self._steering, *base._steering}:
            out[key[0]] |= self._resteered(base, key)
        ways = dict[object, int]()
        for key, rounds in self._fibs.items():
            if base._fibs[key] is not rounds:
                one, two = self._ways_of(key, ways), base._ways_of(key, ways)[:, self._parents]
                out[key[0]] |= (one != two).any(axis=0) if len(one) == len(two) else True
            if moved.get(key[0]) and any(r.interface in moved[key[0]] for r in self._site.net.tables[key].steering):
                out[key[0]][:] = True
            if moved.get(key[0]):
                routes = self._site.net.tables[key].routes
                onto = np.array([*(r.interface in moved[key[0]] for r in routes), False], dtype=bool)
                out[key[0]] |= np.logical_or.reduce([onto[fib] for fib in rounds])
        return out

    def _retranslated(self, base: Forwarding, box: str) -> Mask:
        """Return bool[class]: destinations of which a translation of a box speaks that is not the same in another state, or not in the same order."""
        out = np.zeros(len(self._samples), dtype=bool)
        mine, theirs = self._spoken.get(box, []), base._spoken.get(box, [])
        one, two = [t for t, _ in mine], [t for t, _ in theirs]
        if one == two:
            return out
        in_order = [t for t in one if t in two] == [t for t in two if t in one]
        theirs = [(t, holds[self._parents]) for t, holds in theirs]
        for entries, others in ((mine, two), (theirs, one)):
            for entry, holds in entries:
                if not in_order or entry not in others:
                    out |= holds
        return out

    def _resteered(self, base: Forwarding, key: tuple[str, str]) -> Mask:
        """Return bool[class]: destinations for which policy routes of a box are in force that are not the same in another state, or not in that order."""
        mine, theirs = self._steering.get(key, []), base._steering.get(key, [])
        out = np.zeros(len(self._samples), dtype=bool)
        if [(s, r) for s, r, _ in mine] != [(s, r) for s, r, _ in theirs]:
            for holds in (*(h for _, _, h in mine), *(h[self._parents] for _, _, h in theirs)):
                out |= holds
        return out

    @once
    def links(self) -> Links | None:
        """Return what the links of each box are like, by names alone; None where there is an overlay: who answers there is a matter of the way."""
        return None if self._site.overlaid else Links(self._site, self._side, self.over_link)

    def _ways_of(self, key: tuple[str, str], at: dict[object, int]) -> Numbers:
        """Return int[round, class]: the way a table sends each class, by numbers that are kept in `at`."""
        ways = [(r.next_vrf, r.discard, r.origin, r.interface, r.hop) for r in self._site.net.tables[key].routes]
        told = np.array([*(at.setdefault(w, len(at)) for w in ways), -1], dtype=np.intp)
        return np.array([told[fib] for fib in self._fibs[key]], dtype=np.intp)

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
        return self.table.of(int(self.row(step, np.array([goal]))[0]))

    def row(self, step: Step, goals: Numbers) -> Numbers:
        """Return int[goal]: the numbers of the paths that begin with a step."""
        if isinstance(step.to, Path):
            return np.full(len(goals), self.table.number((step.to.then(step.over),)), dtype=np.intp)
        found, _ = self.numbers(step.to, goals)
        return self.table.before(step.over, False, np.zeros(len(goals), dtype=np.intp), found) if step.over else found

    def first(self, group: HostGroup, goal: int) -> Step:
        """Return what hosts of a group do with packets to a class."""
        low, high = int(group.subnet.network_address), int(group.subnet.broadcast_address)
        if not group.behind and group.on_link and group.attachment is not None and low <= self._samples[goal] <= high:
            return self._on_link(group.attachment, goal)
        return self.entry(group)

    def on_link(self, group: HostGroup) -> list[int]:
        """Return the classes that hosts of a group send to straight; none for hosts behind an outside."""
        if group.behind or group.attachment is None or not group.on_link:
            return []
        low, high = int(group.subnet.network_address), int(group.subnet.broadcast_address)
        return [self._by_sample[k][1] for k in range(*self._range(low, high))]

    def _range(self, low: int, high: int) -> tuple[int, int]:
        return bisect_left(self._by_sample, (low, -1)), bisect_left(self._by_sample, (high + 1, -1))

    def entry(self, group: HostGroup) -> Step:
        """Return what hosts of a group do with packets to anything that is not on their link."""
        if group.behind:
            return Step((group.behind, "main", None))
        if group.attachment is None:
            return Step(lost(HOST))
        if group not in self._gateways:
            self._gateways[group] = self._gateway(group.attachment, group.gateway if group.can_use else None)
        return self._gateways[group]

    def _gateway(self, attachment: Attachment, gateway: Address | None) -> Step:
        if gateway is None:
            return Step(lost(HOST))
        net = self._site.net
        return self._to_first_heard(
            attachment, net.gateways(gateway, attachment) or net.silent_outsides(gateway, attachment)
        )

    def _on_link(self, attachment: Attachment, goal: int) -> Step:
        holders = self._site.net.answering(number_to_address(self._version, self._samples[goal]), attachment)
        return self._to_first_heard(attachment, holders) if holders else Step(Path(True, end=place_of(attachment)))

    def _to_first_heard(self, start: Attachment, holders: list[L3Interface]) -> Step:
        """Go to the first interface that frames of an attachment get to; one that nothing passes is none."""
        for interface in holders:
            if interface.attachment is not None and self._site.fabric.delivers(start, interface.attachment):
                over = self.over_link(start, interface.attachment, interface)
                if over is None:
                    return Step(lost(label_of(start)))
                return Step((interface.device, interface.vrf, self._side[interface]), over=over)
        return Step(lost(label_of(start)))

    def over_link(
        self, start: Attachment, goal: Attachment, into: L3Interface | None = None
    ) -> tuple[Zones, ...] | None:
        """Return the filtering points between two attachments of one domain, or None where frames do not get there, or none passes.

        `into`: the interface that is to take the packet; None = a host is.
        """
        carriage = self._site.fabric.carry(start, goal)
        if carriage is None:
            return None
        for crossing in carriage.crossings:
            policy = self._site.policies.of[crossing.device]
            for zone in (crossing.from_zone, crossing.to_zone):
                if policy.zone_problem(zone, crossing.kind, "", ""):
                    return None
        over = tuple((c.device, c.from_zone or "", c.to_zone or "") for c in carriage.crossings)
        return (*over, *self._stateless(into.filters_in if into is not None else ()))

    def _stateless(self, keys: tuple[str, ...]) -> tuple[Zones, ...]:
        """Return the crossings of the stateless filters at an interface."""
        return tuple((key, *THERE) for key in keys if key in self._site.policies.stateless)

    def numbers(self, node: Node, goals: Numbers, open_: tuple[Node, ...] = ()) -> tuple[Numbers, Numbers]:
        """Return int[goal] twice: the numbers of the paths from a device to some classes, and of the boxes on them.

        Classes that the device sends alike are followed as one.
        """
        if node not in self._known:
            self._known[node] = np.full(len(self._samples), -1, dtype=np.intp)
            self._visited[node] = np.full(len(self._samples), NOWHERE, dtype=np.intp)
        row, visited = self._known[node], self._visited[node]
        unknown = row[goals] < 0
        if not unknown.any():
            return row[goals], visited[goals]
        if node in open_:  # a routing loop, unless a translation leads out of it
            loop = self.table.number((lost(node[0], self._translates),))
            circle = self.table.visited.number(frozenset({node[0], LOOP}))
            return np.where(unknown, loop, row[goals]), np.where(unknown, circle, visited[goals])
        todo = goals[unknown]
        entry = self.zone_of(node)
        touched = np.zeros(len(todo), dtype=np.intp)
        if entry is not None:
            touched |= self._touching(node[0], entry, None)[todo]
        for _, _, holds in self.steering(node):
            touched |= STEERED * holds[todo]
        alike = self._sent_alike(node[0])[todo]
        order = np.argsort(alike, kind="stable")
        for here in np.split(order, np.flatnonzero(np.diff(alike[order])) + 1):
            row[todo[here]], visited[todo[here]] = self._on(node, todo[here], touched[here], (*open_, node))
        return row[goals], visited[goals]

    def _on(self, node: Node, goals: Numbers, touched: Numbers, open_: tuple[Node, ...]) -> tuple[Numbers, Numbers]:
        """Return the same for classes that a device sends alike: by the same routes, or straight onto links whose interfaces forward alike."""
        refuses = self.refuses_private(node)
        found: list[Numbers] = []
        boxes = np.full(len(goals), self.table.visited.number(frozenset({node[0]})), dtype=np.intp)
        mine_alone = int(boxes[0])
        for step in self.steps(node, int(goals[0])):
            mine = self.zones(step)
            crossings = (*(mine if self.filters(node[0]) else ()), *step.over)
            marks = touched
            for zones in mine:
                marks = marks | self._touching(*zones)[goals]
            if not isinstance(step.to, Path):
                after, beyond = self.numbers(step.to, goals, open_)
                if found:
                    several, at = np.unique(np.array([boxes, beyond]), axis=1, return_inverse=True)
                    both = [int(self.table.visited.joined(int(a), np.array([b]))[0]) for a, b in several.T]
                    boxes = np.array(both, dtype=np.intp)[at.ravel()]
                else:
                    boxes = self.table.visited.joined(mine_alone, beyond)
            else:
                after = np.full(len(goals), self.table.number((step.to,)), dtype=np.intp)
                if step.to.end is not None and len(goals) > 1:  # each onto its own link
                    links = self._last_links(self.interface_at(step.to.end))[goals]
                    after = np.where(links < 0, after, links)
            found.append(self.table.before(crossings, refuses, marks, after))
        if len(found) == 1:
            return found[0], boxes
        several, at = np.unique(np.array(found), axis=1, return_inverse=True)
        paths = [tuple(dict.fromkeys(p for n in column for p in self.table.of(int(n)))) for column in several.T]
        return np.array([self.table.number(_together(p)) for p in paths], dtype=np.intp)[at.ravel()], boxes

    def _sent_alike(self, device: str) -> Numbers:
        """Return int[class]: classes with the same number meet the same routes in every VRF of a device.

        A class whose address a box holds is by itself where the device has it on a link, or stands for it: elsewhere it goes as its route does.
        """
        if device not in self._kinds:
            near = np.zeros(len(self._samples), dtype=bool)
            near[self._stood_for.get(device, [])] = True
            fibs: list[Numbers] = []
            for key in (k for k in self._fibs if k[0] == device):
                ways, direct = self._ways(key)
                for fib in self._fibs[key]:
                    fibs.append(ways[fib])
                    near |= direct[fib]
            rows = np.array([*fibs, np.where(near, self._held, 0)], dtype=np.intp).T
            self._kinds[device] = np.unique(rows, axis=0, return_inverse=True)[1].ravel()
        return self._kinds[device]

    @once
    def alike(self) -> Numbers:
        """Return int[class]: classes with the same number are sent alike by every box: by the same routes, or onto links that forward alike."""
        boxes = dict.fromkeys(device for device, _ in self._fibs)
        if not boxes:
            return np.zeros(len(self._samples), dtype=np.intp)
        rows = np.array([self._sent_alike(device) for device in boxes], dtype=np.intp).T
        numbers: Numbers = np.unique(rows, axis=0, return_inverse=True)[1].ravel()
        return numbers

    def _ways(self, key: tuple[str, str]) -> tuple[Numbers, Mask]:
        """Return int[route]: routes of a table with the same number lead the same way; and bool[route]: straight onto a link. The last stands for none."""
        at: dict[object, int] = {}
        routes = self._site.net.tables[key].routes
        straight = [self._straight(key[0], r) for r in routes]
        ways = [
            (egress.vrf, self._side[egress])
            if egress is not None
            else (r.next_vrf, r.discard, r.origin in ("local", "behind") and r.origin, r.interface, r.hop)
            for r, egress in zip(routes, straight, strict=True)
        ]
        direct = [r.interface is not None and r.hop is None for r in routes]
        return np.array([*(at.setdefault(w, len(at)) for w in ways), -1], dtype=np.intp), np.array([*direct, False])

    def _straight(self, device: str, route: TableRoute) -> L3Interface | None:
        """Return the interface by which a connected route leads straight onto a link; None for any other route."""
        egress = self._site.net.by_name[device, route.interface or ""] if route.origin == "connected" else None
        return egress if egress is not None and egress.attachment is not None else None

    def _last_links(self, egress: L3Interface) -> Numbers:
        """Return int[class]: the number of the path that ends on the link which a connected route leads a class onto; -1 = it has none. `egress`: any interface of the VRF."""
        key = egress.device, egress.vrf
        if key not in self._straight_on:
            onto = [self._straight(key[0], r) for r in self._site.net.tables[key].routes]
            numbers = [
                -1
                if i is None or i.attachment is None
                else self.table.number((Path(True, end=place_of(i.attachment)),))
                for i in onto
            ]
            self._straight_on[key] = np.array([*numbers, -1], dtype=np.intp)[self._fibs[key][0]]
        return self._straight_on[key]

    def _held_apart(self) -> Numbers:
        """Return int[class]: 0, and a number of its own for a class whose address a box holds, answers for or claims."""
        net, held = self._site.net, {a for _, a in self._standing}
        out = np.zeros(len(self._samples), dtype=np.intp)
        for k, sample in enumerate(self._samples):
            address = number_to_address(self._version, sample)
            if address in held or net.answering(address) or net.claims.claimants(address):
                out[k] = k + 1
        return out

    def steps(self, node: Node, goal: int) -> list[Step]:
        """Return where one device sends packets to a class, one step an equal route."""
        if (node, goal) not in self._steps:
            self._steps[node, goal] = self._work_out(node, goal)
        return self._steps[node, goal]

    def _work_out(self, node: Node, goal: int) -> list[Step]:
        name, vrf, _ = node
        ingress = self._entered[node] if node[2] is not None else None
        if ingress is not None and (
            not routes_packets(self._site.net.devices[name]) or not self._zone_ok(name, ingress)
        ):
            return [Step(lost(name))]
        return [self._leave(name, ingress, r, goal) for r in self._routes(name, vrf, goal)] or [Step(lost(name))]

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
            return Step(lost(name))
        if route.origin == "behind":
            return Step(Path(True, behind=name))
        egress = net.by_name[name, route.interface or ""]
        address = number_to_address(self._version, self._samples[goal])
        if (name, address) in self._standing:
            return Step(lost(name))
        if route.hop is None and any(i.device == name for i in net.claims.claimants(address)):
            return Step(lost(name))
        routed = None
        if ingress is not None and kept_apart(net.devices[name], ingress, egress):
            return Step(lost(name))
        if name in self._site.policies.translating and ingress is not None:
            if not self._zone_ok(name, egress):
                return Step(lost(name))
            routed = ingress, egress
        if egress.attachment is None:
            return Step(lost(name), routed)
        holders = net.onto(route, egress)
        if holders is None:
            step = self._on_link(egress.attachment, goal)
        else:
            step = self._to_first_heard(egress.attachment, list(holders))
        return replace(step, routed=routed, over=(*self._stateless(egress.filters_out), *step.over))

    def zones(self, step: Step) -> tuple[Zones, ...]:
        """Return where a step through a box that routes may be translated, and filtered if it is a firewall; or none."""
        if step.routed is None:
            return ()
        ingress, egress = step.routed
        policy = self._site.policies.translating[ingress.device]
        return ((ingress.device, policy.side(ingress), policy.side(egress)),)

    def filters(self, device: str) -> bool:
        """Tell whether a box has zones and rules."""
        return device in self._site.policies.of

    def steering(self, node: Node) -> list[tuple[Steering, TableRoute, Mask]]:
        """Return the policy routes that a box asks before its table of packets that come in by a side, in their order."""
        name = self._entered[node].name if node[2] is not None else ""
        return [told for told in self._steering.get((node[0], node[1]), ()) if told[0].enters(name)]

    def along(self, node: Node, route: TableRoute, goal: int) -> list[Step]:
        """Return where a box sends packets to a class that follow one of its policy routes, one step an equal route behind it."""
        name, vrf, _ = node
        ingress = self._entered[node] if node[2] is not None else None
        if ingress is not None and (
            not routes_packets(self._site.net.devices[name]) or not self._zone_ok(name, ingress)
        ):
            return [Step(lost(name))]
        routes = [route] if route.next_vrf is None else self._routes(name, route.next_vrf, goal, (vrf,))
        return [self._leave(name, ingress, r, goal) for r in routes] or [Step(lost(name))]

    def zone_of(self, node: Node) -> str | None:
        """Return the zone, or on a box without zones the interface, by which packets come in; None where it translates nothing."""
        policy = self._site.policies.translating.get(node[0])
        return policy.side(self._entered[node]) if node[2] is not None and policy is not None else None

    def _side_of(self, interface: L3Interface) -> Side:
        """Return what tells the interfaces of a box apart: zones, or names where it translates or is closed between its networks; and filters."""
        device = self._site.net.devices[interface.device]
        closed = isinstance(device, RoutingBox) and device.between_networks == "closed"
        plain = interface.device in self._site.policies.of or interface.device not in self._site.policies.translating
        named = closed or not plain or interface.device in self._by_name
        side = interface.name if named else interface.zone
        return side, self._stateless(interface.filters_in), self._stateless(interface.filters_out)

    def side(self, interface: L3Interface) -> Side:
        """Return what tells an interface from others of its box."""
        return self._side[interface]

    def attachment(self, place: Place) -> Attachment:
        """Return the attachment that a place names."""
        return self._site.fabric.at_place[place]

    def interface_at(self, place: Place) -> L3Interface:
        """Return the interface that stands at a place."""
        return self._site.net.by_attachment[self.attachment(place)]

    def refuses_private(self, node: Node) -> bool:
        """Tell whether packets come into an outside that drops private sources."""
        device = self._site.net.devices[node[0]]
        return node[2] is not None and isinstance(device, Outside) and not device.accepts_private

    def _zone_ok(self, name: str, interface: L3Interface) -> bool:
        policy = self._site.policies.of.get(name)
        return policy is None or policy.zone_problem(interface.zone, "routed", "", "") is None


def label_of(attachment: Attachment) -> str:
    """Return what a link is called by one end of it."""
    return labelled(place_of(attachment))


def labelled(place: Place) -> str:
    """Return what a link is called by the names of one end of it."""
    box, name, form = place
    return f"{box} {name} {form}"


def _together(paths: Paths) -> Paths:
    """Return paths of which all have to arrive: one that is lost stands for them."""
    gone = next((p for p in paths if not p.arrived), None)
    return paths if gone is None else (replace(gone, touched=any_of(p.touched for p in paths)),)
