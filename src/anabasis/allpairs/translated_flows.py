"""Flows that translations touch: followed class by class with the header they have at each place, and their replies back.

A **stream** is a set of flows to one destination whose packets go one way: what each source and service has become by now, and what the
firewalls on the way remember. A translation that takes only some of them splits the stream; equal routes need all of its ways.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from anabasis.allpairs.forwarding import Step
from anabasis.allpairs.path_table import Node, Path, Zones
from anabasis.allpairs.permits import Permits
from anabasis.allpairs.plane import ForwardingPlane
from anabasis.allpairs.translations import TranslationMaps
from anabasis.classes import Mask
from anabasis.design.filters import is_stateless
from anabasis.once import once
from anabasis.policy import BACK, Translation
from anabasis.routing import HostGroup
from anabasis.site import Site

Classes = npt.NDArray[np.intp]


@dataclass(frozen=True)
class Memory:
    """What one firewall remembers of a stream."""

    device: str
    asked_source: Classes
    """int[source]"""
    asked_destination: int
    sent_source: Classes
    """int[source]"""
    sent_destination: int


@dataclass(frozen=True)
class Stream:
    """Flows on their way."""

    flows: Mask
    """flows: bool[source, service_atom], those that go this way"""
    sources: Classes
    """int[source]: the class each source has become"""
    destination: int
    services: Classes
    """int[service_atom]: the atom each service has become"""
    memory: tuple[Memory, ...] = ()
    entry: Translation | None = None
    """The translation that changed the destination in this firewall."""

    def only(self, flows: Mask) -> Stream:
        """Return the stream narrowed to some flows."""
        return replace(self, flows=self.flows & flows)


Arrivals = dict[int, Mask]
"""host group -> bool[source, service_atom]: flows that get there, and whose replies get back."""


@dataclass(frozen=True)
class Senders:
    """Groups of hosts that send into one entry, followed together."""

    groups: tuple[int, ...]
    classes: Classes
    """int[source]: the classes of all of them, group after group"""
    group_of: Classes
    """int[source]"""


class TranslatedFlows:
    """Follows the flows of one family that translations may touch."""

    def __init__(
        self,
        site: Site,
        plane: ForwardingPlane,
        words: TranslationMaps,
        permits: Permits,
        members: list[Classes],
        plane_of: Classes,
    ) -> None:
        """`plane_of`: int[address_class], the class of the plane that each is a part of."""
        self._site, self._forwarding, self._maps_of, self._permits = site, plane.forwarding, words, permits
        self._groups, self._members, self._plane_of = plane.groups, members, plane_of
        self.asked: set[int] = set()
        """The classes of the plane whose way was asked for by what was last `sent`."""
        self.read: set[Zones] = set()
        """The crossings whose rules it met."""
        self._known: dict[tuple[int, int], Arrivals] = {}

    @once
    def _holders(self) -> dict[int, list[int]]:
        """Return the groups of hosts that may have a class."""
        out: dict[int, list[int]] = {}
        for k, classes in enumerate(self._members):
            for c in classes.tolist():
                out.setdefault(c, []).append(k)
        return out

    def arrivals(self, group: int, destination: int) -> Arrivals:
        """Return what becomes of all flows from a host group to a class of addresses."""
        if (group, destination) not in self._known:
            self._known[group, destination] = self.sent(self.senders((group,)), destination)
        return self._known[group, destination]

    def senders(self, groups: tuple[int, ...]) -> Senders:
        """Return groups that send into one entry as one."""
        classes = [self._members[g] for g in groups]
        return Senders(groups, np.concatenate(classes), np.repeat(groups, [len(c) for c in classes]))

    def sent(self, senders: Senders, destination: int) -> Arrivals:
        """Return what becomes of all flows from some senders to a class of addresses; to several senders it is beyond their links."""
        self.asked, self.read = set(), set()
        sources = senders.classes
        possible = np.broadcast_to(self._maps_of.possible, (len(sources), len(self._maps_of.possible)))
        stream = Stream(possible.copy(), sources, destination, np.arange(len(self._maps_of.possible)))
        first = self._groups[senders.groups[0]]
        alone = len(senders.groups) == 1
        place = self._at(destination)
        step = self._forwarding.first(first, place) if alone else self._forwarding.entry(first)
        return self._go(senders, stream, step, ())

    def _at(self, number: int) -> int:
        place = int(self._plane_of[number])
        self.asked.add(place)
        return place

    def _go(self, senders: Senders, stream: Stream, step: Step, seen: tuple[tuple[Node, int], ...]) -> Arrivals:
        """Take one step: the filtering points of the link, then the next device or the last link."""
        for zones in step.over:
            stream = _known(self._filtered(stream, zones), zones[0])
        if not stream.flows.any():
            return {}
        if isinstance(step.to, Path):
            return self._end(senders, stream, step.to)
        return self._device(senders, stream, step.to, seen)

    def _device(self, senders: Senders, stream: Stream, node: Node, seen: tuple[tuple[Node, int], ...]) -> Arrivals:
        out: Arrivals = {}
        if (node, stream.destination) in seen:
            return out  # a routing loop
        further = (*seen, (node, stream.destination))
        if self._forwarding.refuses_private(node):
            stream = stream.only(~self._maps_of.private[stream.sources][:, None])
        zone = self._forwarding.zone_of(node)
        asked = stream.destination
        for part in [replace(stream, entry=None)] if zone is None else list(self._enter(stream, node[0], zone)):
            for some, steps in self._steered(part, node):
                ways = [self._way(senders, some, asked, step, further) for step in steps]
                for k in set(ways[0]).intersection(*ways[1:]):
                    both = np.logical_and.reduce([w[k] for w in ways])
                    out[k] = out[k] | both if k in out else both
        return out

    def _steered(self, stream: Stream, node: Node) -> Iterator[tuple[Stream, list[Step]]]:
        """Split a stream by the policy routes of a box, first match first, and what is left by its table; each with where it is sent."""
        place = self._at(stream.destination)
        for told, route, holds in self._forwarding.steering(node):
            if holds[place]:
                sources, services = self._maps_of.spoken(told.sources), self._maps_of.mask(told.services)
                taken = stream.flows & sources[stream.sources][:, None] & services[stream.services][None, :]
                if taken.any():
                    yield stream.only(taken), self._forwarding.along(node, route, place)
                    stream = stream.only(~taken)
        if stream.flows.any():
            yield stream, self._forwarding.steps(node, place)

    def _way(
        self, senders: Senders, stream: Stream, asked: int, step: Step, seen: tuple[tuple[Node, int], ...]
    ) -> Arrivals:
        """Go on one of the equal ways out of a device: rules, then translation of the source."""
        zones = self._forwarding.zones(step)
        if not zones:
            return self._go(senders, stream, step, seen)
        out: Arrivals = {}
        assert step.routed is not None
        device = zones[0][0]
        filters = self._forwarding.filters(device)
        allowed = self._filtered(stream, zones[0]) if filters else stream
        for part, changed in self._leave(allowed, zones[0], step.routed[1].pointer):
            remembered = filters or changed or stream.entry is not None
            known = _remember(part, device, stream.sources, asked) if remembered else part
            for k, flows in self._go(senders, known, step, seen).items():
                out[k] = out[k] | flows if k in out else flows
        return out

    def _filtered(self, stream: Stream, zones: Zones) -> Stream:
        self.read.add(zones)
        allowed = self._permits.onto(zones, stream.sources, stream.destination)[:, stream.services]
        return stream.only(allowed)

    def _enter(self, stream: Stream, device: str, zone: str) -> Iterator[Stream]:
        """Split a stream by the translations of its destination, first match first."""
        for entry in self._site.policies.translating[device].translations:
            if not entry.changes_destination or not entry.enters(zone):
                continue
            taken = self._matching(stream, entry)
            if taken.any():
                destination, services = stream.destination, stream.services
                if entry.destination is not None:
                    destination = int(self._maps_of.addresses(entry.destination)[destination])
                if entry.service is not None:
                    services = self._maps_of.services(entry.service)[services]
                yield replace(stream.only(taken), destination=destination, services=services, entry=entry)
                stream = stream.only(~taken)
        if stream.flows.any():
            yield replace(stream, entry=None)

    def _leave(self, stream: Stream, zones: Zones, egress: str) -> Iterator[tuple[Stream, bool]]:
        """Split a stream by the translations of its source, first match first; with each part, whether one took it."""
        for entry in self._site.policies.translating[zones[0]].translations:
            if not entry.changes_source or not entry.enters(zones[1]) or not entry.leaves(zones[2]):
                continue
            if entry.changes_destination:
                taken = stream.flows if entry is stream.entry else np.zeros_like(stream.flows)
            else:
                taken = self._matching(stream, entry)
            if taken.any():
                sources = self._maps_of.sources(entry, egress)
                if sources is not None:
                    yield replace(stream.only(taken), sources=sources[stream.sources]), True
                stream = stream.only(~taken)
        if stream.flows.any():
            yield stream, False

    def _matching(self, stream: Stream, entry: Translation) -> Mask:
        """Return bool[source, service_atom]: the flows of a stream that an entry takes."""
        words = self._maps_of
        if not words.holds(entry.destinations, entry)[stream.destination]:
            return np.zeros_like(stream.flows)
        sources = words.holds(entry.sources, entry)[stream.sources]
        services = words.mask(entry.services)[stream.services]
        taken: Mask = stream.flows & sources[:, None] & services[None, :]
        return taken

    def _end(self, senders: Senders, stream: Stream, path: Path) -> Arrivals:
        """Put a stream onto its last link, once for every group of hosts that may have the address, and send the replies."""
        out: Arrivals = {}
        if not path.arrived:
            return out
        for k in self._holders.get(stream.destination, ()):
            host = self._groups[k]
            over: tuple[Zones, ...] | None = ()
            if path.behind is not None or host.behind is not None:
                if path.behind != host.behind:
                    continue
            elif path.end is None or host.attachment is None:
                continue
            else:
                over = self._forwarding.over_link(self._forwarding.attachment(path.end), host.attachment)
            if over is None:
                continue
            arrived = stream
            for zones in over:
                arrived = _known(self._filtered(arrived, zones), zones[0])
            flows = self._answered(senders, k, arrived)
            if flows.any():
                out[k] = flows
        return out

    def _answered(self, senders: Senders, host: int, stream: Stream) -> Mask:
        """Return bool[source, service_atom]: the flows of a stream whose replies get back."""
        back = np.zeros_like(stream.flows)
        for rows in self._apart(np.asarray(stream.flows.any(axis=1)), stream.sources):
            reply = Reply(stream.flows & rows[:, None], stream.destination, stream.sources, frozenset())
            step = self._forwarding.first(self._groups[host], self._way_of(reply))
            back |= self._reply(senders, stream, reply, step, ())
        return back

    def _apart(self, rows: Mask, goals: Classes) -> Iterator[Mask]:
        """Yield the rows by where replies to them go: classes that are parts of one class of the plane go alike."""
        planes = np.where(rows, self._plane_of[goals], -1)
        for one in np.unique(planes[rows]):
            yield planes == one

    def _way_of(self, reply: Reply) -> int:
        """Return the class of the plane that some replies go to."""
        return self._at(int(reply.goals[np.argmax(reply.rows)]))

    def _reply(
        self, senders: Senders, stream: Stream, reply: Reply, step: Step, seen: tuple[tuple[Node, int], ...]
    ) -> Mask:
        for zones in step.over:
            reply = self._let_through(stream, reply, zones)
        if not reply.flows.any():
            return reply.flows
        if isinstance(step.to, Path):
            return self._home(senders, stream, reply, step.to)
        return self._reply_device(senders, stream, reply, step.to, seen)

    def _recalled(self, stream: Stream, reply: Reply, device: str) -> Iterator[tuple[Reply, Memory]]:
        """Yield the replies that a firewall takes for those of a session, by what it remembers of it."""
        left = reply.rows
        for memory in stream.memory:
            if memory.device == device and memory.sent_destination == reply.source:
                rows = left & (memory.sent_source == reply.goals)
                if rows.any():
                    left = left & ~rows
                    yield replace(reply.only(rows), crossed=reply.crossed | {device}), memory

    def _let_through(self, stream: Stream, reply: Reply, zones: Zones) -> Reply:
        """Return the replies that a filter on a link lets pass: a firewall knows their session, a stateless one looks at them by themselves."""
        device = zones[0]
        if is_stateless(device):
            back = (device, *BACK)
            self.read.add(back)
            passed = self._permits.onto(back, reply.goals, reply.source)[:, stream.services]
            return replace(reply, flows=reply.flows & passed)
        rows = np.zeros_like(reply.rows)
        for known, _ in self._recalled(stream, reply, device):
            rows |= known.rows
        return replace(reply.only(rows), crossed=reply.crossed | {device})

    def _reply_device(
        self, senders: Senders, stream: Stream, reply: Reply, node: Node, seen: tuple[tuple[Node, int], ...]
    ) -> Mask:
        nothing = np.zeros_like(reply.flows)
        goal = self._way_of(reply)
        if (node, goal) in seen or (self._forwarding.refuses_private(node) and self._maps_of.private[reply.source]):
            return nothing
        further = (*seen, (node, goal))
        parts = [reply]
        if self._forwarding.zone_of(node) is not None:
            recalled = list(self._recalled(stream, reply, node[0]))
            parts = [
                Reply(known.flows & rows[:, None], memory.asked_destination, memory.asked_source, known.crossed)
                for known, memory in recalled
                for rows in self._apart(known.rows, memory.asked_source)
            ]
            if not self._forwarding.filters(node[0]):  # it lets pass what it has not translated
                left = reply.rows & ~np.logical_or.reduce([k.rows for k, _ in recalled] or [np.zeros_like(reply.rows)])
                parts += [reply.only(left)] if left.any() else []
        back = nothing
        for part in parts:
            for some, steps in self._reply_steered(stream, part, node):
                ways = [self._reply(senders, stream, some, s, further) for s in steps]
                back = back | np.logical_and.reduce(ways)
        return back

    def _reply_steered(self, stream: Stream, reply: Reply, node: Node) -> Iterator[tuple[Reply, list[Step]]]:
        """Split replies by the policy routes of a box, as requests are split: they are taken by what such a route says of replies."""
        place = self._way_of(reply)
        for told, route, holds in self._forwarding.steering(node):
            if holds[place] and self._maps_of.spoken(told.sources)[reply.source]:
                taken = reply.flows & self._maps_of.mask(told.replies)[stream.services][None, :]
                if taken.any():
                    yield replace(reply, flows=taken), self._forwarding.along(node, route, place)
                    reply = replace(reply, flows=reply.flows & ~taken)
        if reply.flows.any():
            yield reply, self._forwarding.steps(node, place)

    def _home(self, senders: Senders, stream: Stream, reply: Reply, path: Path) -> Mask:
        """Return the flows whose reply on its last link gets to the one that asked, by all the firewalls it asked through."""
        back = np.zeros_like(reply.flows)
        mine = reply.rows & (senders.classes == reply.goals)
        if path.arrived:
            for g in np.unique(senders.group_of[mine]):
                part = reply.only(mine & (senders.group_of == g))
                back |= self._home_to(self._groups[g], stream, part, path)
        return back

    def _home_to(self, host: HostGroup, stream: Stream, reply: Reply, path: Path) -> Mask:
        nothing = np.zeros_like(reply.flows)
        if path.behind is not None or host.behind is not None:
            if path.behind != host.behind:
                return nothing
        elif path.end is None or host.attachment is None:
            return nothing
        else:
            over = self._forwarding.over_link(self._forwarding.attachment(path.end), host.attachment)
            if over is None:
                return nothing
            for zones in over:
                reply = self._let_through(stream, reply, zones)
        whole = reply.crossed == {m.device for m in stream.memory}
        return reply.flows if whole else nothing


@dataclass(frozen=True)
class Reply:
    """Replies on their way back: to which flows they are, and the header they have by now."""

    flows: Mask
    """flows: bool[source, service_atom]"""
    source: int
    goals: Classes
    """int[source]: the class that the reply for each source is sent to; of those in `rows`, all parts of one class of the plane"""
    crossed: frozenset[str]

    @property
    def rows(self) -> Mask:
        """Return bool[source]: the sources they are for."""
        return np.asarray(self.flows.any(axis=1))

    def only(self, rows: Mask) -> Reply:
        """Return those for some sources."""
        return replace(self, flows=self.flows & rows[:, None])


def _known(stream: Stream, device: str) -> Stream:
    """Return a stream that a filter on a link remembers; a stateless one remembers nothing."""
    return stream if is_stateless(device) else _remember(stream, device, stream.sources, stream.destination)


def _remember(stream: Stream, device: str, asked_source: Classes, asked_destination: int) -> Stream:
    memory = Memory(device, asked_source, asked_destination, stream.sources, stream.destination)
    return replace(stream, memory=(*stream.memory, memory))
