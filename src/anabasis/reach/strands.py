"""Flows that translations touch: followed class by class with the header they have at each place, and their replies back.

A **strand** is a set of flows to one destination whose packets go one way: what each source and service has become by now, and what the
firewalls on the way remember. A translation that takes only some of them splits the strand; equal routes need all of its ways.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from anabasis.policy import Translation
from anabasis.reach.paths import Forwarding, Node, Path, Step, Zones
from anabasis.reach.permits import Permits
from anabasis.reach.site import Site
from anabasis.reach.spaces import Mask
from anabasis.reach.words import Words
from anabasis.routing import HostGroup

Classes = npt.NDArray[np.intp]


@dataclass(frozen=True)
class Memory:
    """What one firewall remembers of a strand."""

    device: str
    asked_source: Classes
    """int[source]"""
    asked_destination: int
    sent_source: Classes
    """int[source]"""
    sent_destination: int


@dataclass(frozen=True)
class Strand:
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

    def only(self, flows: Mask) -> Strand:
        """Return the strand narrowed to some flows."""
        return replace(self, flows=self.flows & flows)


Arrivals = dict[int, Mask]
"""host group -> bool[source, service_atom]: flows that get there, and whose replies get back."""


class Strands:
    """Follows the flows of one family that translations may touch."""

    def __init__(
        self,
        site: Site,
        forwarding: Forwarding,
        words: Words,
        permits: Permits,
        groups: list[HostGroup],
        members: list[Classes],
    ) -> None:
        self._site, self._forwarding, self._words, self._permits = site, forwarding, words, permits
        self._groups, self._members = groups, members
        self._holders: dict[int, list[int]] = {}
        for k, classes in enumerate(members):
            for c in classes:
                self._holders.setdefault(int(c), []).append(k)
        self._known: dict[tuple[int, int], Arrivals] = {}

    def arrivals(self, group: int, destination: int) -> Arrivals:
        """Return what becomes of all flows from a host group to a class of addresses."""
        if (group, destination) not in self._known:
            self._known[group, destination] = self._send(group, destination)
        return self._known[group, destination]

    def _send(self, group: int, destination: int) -> Arrivals:
        sources = self._members[group]
        possible = np.broadcast_to(self._words.possible, (len(sources), len(self._words.possible)))
        strand = Strand(possible.copy(), sources, destination, np.arange(len(self._words.possible)))
        step = self._forwarding.first(self._groups[group], destination)
        return self._go(group, strand, step, ())

    def _go(self, group: int, strand: Strand, step: Step, seen: tuple[tuple[Node, int], ...]) -> Arrivals:
        """Take one step: the filtering points of the link, then the next device or the last link."""
        for zones in step.over:
            strand = self._filtered(strand, zones)
            strand = _remember(strand, zones[0], strand.sources, strand.destination)
        if not strand.flows.any():
            return {}
        if isinstance(step.to, Path):
            return self._end(group, strand, step.to)
        return self._device(group, strand, step.to, seen)

    def _device(self, group: int, strand: Strand, node: Node, seen: tuple[tuple[Node, int], ...]) -> Arrivals:
        out: Arrivals = {}
        if (node, strand.destination) in seen:
            return out  # a routing loop
        further = (*seen, (node, strand.destination))
        if self._forwarding.refuses_private(node):
            strand = strand.only(~self._words.private[strand.sources][:, None])
        zone = self._forwarding.zone_of(node)
        asked = strand.destination
        for part in [replace(strand, entry=None)] if zone is None else list(self._enter(strand, node[0], zone)):
            ways = [
                self._way(group, part, asked, step, further) for step in self._forwarding.steps(node, part.destination)
            ]
            for k in set(ways[0]).intersection(*ways[1:]):
                both = np.logical_and.reduce([w[k] for w in ways])
                out[k] = out[k] | both if k in out else both
        return out

    def _way(self, group: int, strand: Strand, asked: int, step: Step, seen: tuple[tuple[Node, int], ...]) -> Arrivals:
        """Go on one of the equal ways out of a device: rules, then translation of the source."""
        zones = self._forwarding.zones(step)
        if not zones:
            return self._go(group, strand, step, seen)
        out: Arrivals = {}
        assert step.routed is not None
        for part in self._leave(self._filtered(strand, zones[0]), zones[0], step.routed[1].pointer):
            known = _remember(part, zones[0][0], strand.sources, asked)
            for k, flows in self._go(group, known, step, seen).items():
                out[k] = out[k] | flows if k in out else flows
        return out

    def _filtered(self, strand: Strand, zones: Zones) -> Strand:
        between = self._permits.between(zones, strand.sources, np.array([strand.destination]))
        allowed = between[:, 0, :][:, strand.services]
        return strand.only(allowed)

    def _enter(self, strand: Strand, device: str, zone: str) -> Iterator[Strand]:
        """Split a strand by the translations of its destination, first match first."""
        for entry in self._site.policies.of[device].translations:
            if not entry.changes_destination or not entry.enters(zone):
                continue
            taken = self._matching(strand, entry)
            if taken.any():
                destination, services = strand.destination, strand.services
                if entry.destination is not None:
                    destination = int(self._words.addresses(entry.destination)[destination])
                if entry.service is not None:
                    services = self._words.services(entry.service)[services]
                yield replace(strand.only(taken), destination=destination, services=services, entry=entry)
                strand = strand.only(~taken)
        if strand.flows.any():
            yield replace(strand, entry=None)

    def _leave(self, strand: Strand, zones: Zones, egress: str) -> Iterator[Strand]:
        """Split a strand by the translations of its source, first match first."""
        for entry in self._site.policies.of[zones[0]].translations:
            if not entry.changes_source or not entry.enters(zones[1]) or not entry.leaves(zones[2]):
                continue
            if entry.changes_destination:
                taken = strand.flows if entry is strand.entry else np.zeros_like(strand.flows)
            else:
                taken = self._matching(strand, entry)
            if taken.any():
                sources = self._words.sources(entry, egress)
                if sources is not None:
                    yield replace(strand.only(taken), sources=sources[strand.sources])
                strand = strand.only(~taken)
        if strand.flows.any():
            yield strand

    def _matching(self, strand: Strand, entry: Translation) -> Mask:
        """Return bool[source, service_atom]: the flows of a strand that an entry takes."""
        words = self._words
        if not words.holds(entry.destinations, entry)[strand.destination]:
            return np.zeros_like(strand.flows)
        sources = words.holds(entry.sources, entry)[strand.sources]
        services = words.mask(entry.services)[strand.services]
        taken: Mask = strand.flows & sources[:, None] & services[None, :]
        return taken

    def _end(self, group: int, strand: Strand, path: Path) -> Arrivals:
        """Put a strand onto its last link, once for every group of hosts that may have the address, and send the replies."""
        out: Arrivals = {}
        if not path.arrived:
            return out
        for k in self._holders.get(strand.destination, ()):
            host = self._groups[k]
            over: tuple[Zones, ...] | None = ()
            if path.behind is not None or host.behind is not None:
                if path.behind != host.behind:
                    continue
            elif path.end is None or host.tap is None:
                continue
            else:
                over = self._forwarding.over_link(path.end, host.tap)
            if over is None:
                continue
            arrived = strand
            for zones in over:
                arrived = self._filtered(arrived, zones)
                arrived = _remember(arrived, zones[0], arrived.sources, arrived.destination)
            flows = arrived.flows & self._answered(group, k, arrived)[:, None]
            if flows.any():
                out[k] = flows
        return out

    def _answered(self, group: int, host: int, strand: Strand) -> Mask:
        """Return bool[source]: the sources that the replies of a strand get back to."""
        back = np.zeros(len(strand.sources), dtype=bool)
        for goal in {int(c) for c in strand.sources[strand.flows.any(axis=1)]}:
            rows = strand.flows.any(axis=1) & (strand.sources == goal)
            reply = Reply(rows, strand.destination, goal, frozenset())
            step = self._forwarding.first(self._groups[host], goal)
            back |= self._reply(group, strand, reply, step, ())
        return back

    def _reply(self, group: int, strand: Strand, reply: Reply, step: Step, seen: tuple[tuple[Node, int], ...]) -> Mask:
        for zones in step.over:
            reply = self._known_to(strand, reply, zones[0])[0]
        if not reply.rows.any():
            return reply.rows
        if isinstance(step.to, Path):
            return self._home(group, strand, reply, step.to)
        return self._reply_device(group, strand, reply, step.to, seen)

    def _known_to(self, strand: Strand, reply: Reply, device: str) -> tuple[Reply, Memory | None]:
        """Narrow a reply to what a firewall remembers; return the memory as well."""
        for memory in strand.memory:
            if memory.device == device and memory.sent_destination == reply.source:
                rows = reply.rows & (memory.sent_source == reply.goal)
                if rows.any():
                    return replace(reply, rows=rows, crossed=reply.crossed | {device}), memory
        return replace(reply, rows=np.zeros_like(reply.rows)), None

    def _reply_device(
        self, group: int, strand: Strand, reply: Reply, node: Node, seen: tuple[tuple[Node, int], ...]
    ) -> Mask:
        nothing = np.zeros_like(reply.rows)
        if (node, reply.goal) in seen or (self._forwarding.refuses_private(node) and self._words.private[reply.source]):
            return nothing
        further = (*seen, (node, reply.goal))
        parts = [reply]
        if self._forwarding.zone_of(node) is not None:
            known, memory = self._known_to(strand, reply, node[0])
            if memory is None:
                return nothing
            goals = {int(c) for c in memory.asked_source[known.rows]}
            parts = [
                Reply(known.rows & (memory.asked_source == g), memory.asked_destination, g, known.crossed)
                for g in goals
            ]
        back = nothing
        for part in parts:
            ways = [self._reply(group, strand, part, s, further) for s in self._forwarding.steps(node, part.goal)]
            back = back | np.logical_and.reduce(ways)
        return back

    def _home(self, group: int, strand: Strand, reply: Reply, path: Path) -> Mask:
        """Return the sources that a reply on its last link gets to: the one that asked, by all the firewalls it asked through."""
        host, nothing = self._groups[group], np.zeros_like(reply.rows)
        if not path.arrived:
            return nothing
        if path.behind is not None or host.behind is not None:
            if path.behind != host.behind:
                return nothing
        elif path.end is None or host.tap is None:
            return nothing
        else:
            over = self._forwarding.over_link(path.end, host.tap)
            if over is None:
                return nothing
            for zones in over:
                reply = self._known_to(strand, reply, zones[0])[0]
        whole = reply.crossed == {m.device for m in strand.memory}
        return reply.rows & (self._members[group] == reply.goal) if whole else nothing


@dataclass(frozen=True)
class Reply:
    """Replies on their way back: which sources they are for, and the header they have by now."""

    rows: Mask
    """rows: bool[source]"""
    source: int
    goal: int
    crossed: frozenset[str]


def _remember(strand: Strand, device: str, asked_source: Classes, asked_destination: int) -> Strand:
    memory = Memory(device, asked_source, asked_destination, strand.sources, strand.destination)
    return replace(strand, memory=(*strand.memory, memory))
