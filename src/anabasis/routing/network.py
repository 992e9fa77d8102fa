"""Layer 3 of a site under given conditions: interfaces, tables and hosts, in one immutable value."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

from anabasis.design.devices import Device, Outside
from anabasis.design.notation import Address, parse_prefix
from anabasis.fabric import ALL_WELL, Conditions, Segments, Tap
from anabasis.routing.hosts import HostGroup, host_groups, host_spans
from anabasis.routing.interfaces import L3Interface, l3_interfaces, routes_packets
from anabasis.routing.spans import Intervals
from anabasis.routing.tables import Table, build_tables


@dataclass(frozen=True)
class Network3:
    """Layer 3 of a site."""

    segments: Segments
    interfaces: list[L3Interface]
    tables: dict[tuple[str, str], Table]
    hosts: list[HostGroup] = field(repr=False)

    @cached_property
    def devices(self) -> dict[str, Device]:
        """Return device by name."""
        return {d.name: d for d in self.segments.fabric.design.devices}

    @cached_property
    def by_tap(self) -> dict[Tap, L3Interface]:
        """Return the interface that stands at a tap."""
        return {i.tap: i for i in self.interfaces if i.tap is not None}

    @cached_property
    def by_name(self) -> dict[tuple[str, str], L3Interface]:
        """Return interface by (device, name)."""
        return {(i.device, i.name): i for i in self.interfaces}

    @cached_property
    def owned(self) -> frozenset[Address]:
        """Return every address that some box holds itself; no host can have it."""
        return frozenset(a.ip for i in self.interfaces for a in i.addresses)

    @cached_property
    def groups_of(self) -> dict[int, list[HostGroup]]:
        """Return host groups by segment."""
        out: dict[int, list[HostGroup]] = {s: [] for s in range(len(self.segments.all))}
        for group in self.hosts:
            out[group.segment].append(group)
        return out

    @cached_property
    def _spans(self) -> dict[HostGroup, Intervals]:
        return {}

    def host_spans(self, group: HostGroup) -> Intervals:
        """Return the addresses that hosts of a group may have, as numbers."""
        if group not in self._spans:
            self._spans[group] = host_spans(group, self.hosts, self.owned)
        return self._spans[group]

    def next_hop_holders(self, hop: Address, egress: L3Interface) -> list[L3Interface]:
        """Return the interfaces of devices that route which answer for a next hop.

        An outside without an address of its own answers for any address of its link that nobody else holds (docs/semantics.md).
        """
        holders = [
            i for i in self.interfaces if i.holds(hop) and routes_packets(self.devices[i.device]) and i is not egress
        ]
        if holders or egress.tap is None:
            return holders
        return self.silent_outsides(hop, egress.tap)

    def silent_outsides(self, hop: Address, near: Tap) -> list[L3Interface]:
        """Return the outsides without an address of their own that stand in the segment of a tap and answer for a free address there."""
        here = self.segments.of_tap.get(near.index)
        if hop in self.owned or here is None:
            return []
        return [
            i
            for i in self.interfaces
            if not i.addresses
            and i.tap is not None
            and i.tap.kind == "outside"
            and isinstance(self.devices[i.device], Outside)
            and self.segments.of_tap.get(i.tap.index) == here
            and any(hop in parse_prefix(n) for n in self.segments.all[here].subnets)
        ]


def build_network(segments: Segments, conditions: Conditions = ALL_WELL) -> Network3:
    """Compute layer 3 of a site."""
    interfaces = l3_interfaces(segments.fabric, conditions)
    tables = build_tables(segments, interfaces)
    return Network3(segments, interfaces, tables, host_groups(segments, interfaces))
