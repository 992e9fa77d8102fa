"""What the links of each box are like, by names alone: two states are held against each other by it, so that paths stay where nothing is otherwise.

It says of every interface, and of every group of hosts, all that forwarding asks its link for: who hears it, what they answer for, and over what filters.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from anabasis.allpairs.path_table import Path, Place, Side, Zones
from anabasis.design.devices import Outside, RoutingBox
from anabasis.design.notation import parse_prefix
from anabasis.design.ports import VirtualPort
from anabasis.fabric import Attachment
from anabasis.once import once
from anabasis.routing import HostGroup, L3Interface, routes_packets
from anabasis.site import Site

Over = Callable[[Attachment, Attachment, L3Interface | None], tuple[Zones, ...] | None]
"""The filtering points between two attachments; None = frames do not get there, or none passes."""
Entry = tuple["tuple[str, str, Side | None] | Path", tuple[Zones, ...]]
"""What hosts do with packets that leave their link, by names."""


@dataclass(frozen=True)
class Links:
    """The links of one state, as forwarding of one family sees them."""

    site: Site
    sides: Mapping[L3Interface, Side]
    over: Over

    @once
    def boxes(self) -> dict[str, object]:
        """Return by box what it does whatever the link: the kinds of its zones, what it stands for and claims; what it translates, and policy routes, aside."""
        net, policies = self.site.net, self.site.policies
        standing, claims = defaultdict[str, list[object]](list), defaultdict[str, list[object]](list)
        for i in net.interfaces:
            standing[i.device] += i.standing
        for i, spans in net.claims.entries:
            claims[i.device].append((i.name, i.up, spans))
        out: dict[str, object] = {}
        for name, device in net.devices.items():
            policy = policies.translating.get(name)
            closed = isinstance(device, RoutingBox) and device.between_networks == "closed"
            apart = [(i.name, i.routed_to_others) for i in net.of_device[name]] if closed else []
            out[name] = (
                routes_packets(device),
                tuple(apart),
                None if policy is None else (tuple(policy.zone_kinds.items()), policy.filters),
                tuple(standing[name]),
                tuple(claims[name]),
                isinstance(device, Outside) and device.accepts_private,
            )
        return out

    @once
    def interfaces(self) -> dict[tuple[str, str], object]:
        """Return by (box, interface) what it is to packets that leave by it, and who is on its link."""
        return {(i.device, i.name): self._leaving(i) for i in self.site.net.interfaces}

    def moved(self, other: Links, box: str) -> set[str]:
        """Return the interfaces of a box whose link is not as in another state, those that one of the two lacks included."""
        mine, theirs = self._of_box.get(box, {}), other._of_box.get(box, {})
        return {n for n in (*mine, *theirs) if mine.get(n) != theirs.get(n)}

    @once
    def _of_box(self) -> dict[str, dict[str, object]]:
        out: dict[str, dict[str, object]] = {}
        for (box, name), told in self.interfaces.items():
            out.setdefault(box, {})[name] = told
        return out

    def of_group(self, group: HostGroup, entry: Entry) -> object:
        """Return all that forwarding asks of a group of hosts: how it sends, and over what frames get to it."""
        at = group.attachment
        own = group.subnet, group.behind, group.endpoint, group.gateway, group.can_use, group.on_link
        if at is None:
            return own, entry, None
        easy = at.index in self.site.fabric.easy.of_attachment
        return own, entry, place_of(at), self._heard(at), () if easy else tuple(self._hearing[at.index])

    def _leaving(self, interface: L3Interface) -> object:
        at, side = interface.attachment, self.sides[interface]
        if at is None:
            return interface.vrf, side, None
        far = self._far_end(interface)
        own = interface.vrf, side, place_of(at), interface.addresses
        return own, self._heard(at), self._silent(at), far

    def _far_end(self, interface: L3Interface) -> object:
        """Return who stands at the other end of a tunnel."""
        if interface.kind != "tunnel" or interface.attachment is None:
            return None
        fabric = self.site.fabric
        port = fabric.ports[interface.attachment.box, interface.name]
        if isinstance(port.settings, VirtualPort) and port.settings.beyond:
            return tuple(port.settings.beyond)
        peer = port.peer
        far = fabric.at_port.get((peer, 0)) if peer else None
        there = self.site.net.by_attachment.get(far) if far is not None else None
        return None if there is None else self._told[there]

    def _heard(self, start: Attachment) -> object:
        """Return the interfaces that frames of an attachment get to, in their order, each with what it answers for and over what."""
        fabric = self.site.fabric
        easy = fabric.easy.of_attachment.get(start.index)
        if easy is not None:
            return self._components.get(easy, ())
        net = self.site.net
        reached = sorted(net.number_at[k] for k in fabric.reached(start) if k in net.number_at)
        found = [(net.interfaces[n], net.interfaces[n].attachment) for n in reached]
        return tuple((self._told[i], self.over(start, at, i)) for i, at in found if at is not None)

    @once
    def _components(self) -> dict[int, object]:
        """Return what stands in each component of layer 2 in which no frame needs to be followed."""
        found = defaultdict[int, list[object]](list)
        easy = self.site.fabric.easy.of_attachment
        for i in self.site.net.interfaces:
            if i.attachment is not None and i.attachment.index in easy:
                found[easy[i.attachment.index]].append(self._told[i])
        return {k: tuple(told) for k, told in found.items()}

    @once
    def _told(self) -> dict[L3Interface, object]:
        """Return of every interface what others on its link meet in it."""
        claims = {i: (i.up, spans) for i, spans in self.site.net.claims.entries}
        return {
            i: (
                i.device,
                i.vrf,
                self.sides[i],
                tuple(a.ip for a in i.addresses),
                i.standing,
                i.units,
                claims.get(i),
                routes_packets(self.site.net.devices[i.device]),
            )
            for i in self.site.net.interfaces
        }

    @once
    def _hearing(self) -> dict[int, list[object]]:
        """Return of attachments in odd parts of layer 2 who gets to them, and over what: interfaces, and the hosts of other segments."""
        net, fabric = self.site.net, self.site.fabric
        starts = {t.index: t for i in net.interfaces if (t := i.attachment) is not None}
        goals = {t.index: t for g in net.hosts if (t := g.attachment) is not None}
        out = defaultdict[int, list[object]](list)
        for start in (starts | goals).values():
            if start.index in fabric.easy.of_attachment:
                continue
            for k in fabric.reached(start):
                if k in goals:
                    out[k].append((place_of(start), self.over(start, goals[k], None)))
        return out

    def _silent(self, at: Attachment) -> object:
        """Return, where an outside without an address of its own may answer on a link, what tells for which addresses it does."""
        segment = self.site.segments.of_attachment.get(at.index)
        if segment not in self._with_silent:
            return None
        subnets = self.site.segments.all[segment].subnets
        nets = [parse_prefix(n) for n in subnets]
        owned = sorted(str(a) for a in self.site.net.owned if any(a.version == n.version and a in n for n in nets))
        return subnets, tuple(owned)

    @once
    def _with_silent(self) -> dict[int, bool]:
        """Return the segments in which an outside without an address stands."""
        net, of = self.site.net, self.site.segments.of_attachment
        silent = (
            i.attachment for i in net.interfaces if not i.addresses and isinstance(net.devices[i.device], Outside)
        )
        return {of[t.index]: True for t in silent if t is not None and t.index in of}


def place_of(attachment: Attachment) -> Place:
    """Return the names of an attachment."""
    return attachment.box, attachment.name, attachment.form
