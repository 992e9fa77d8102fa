"""Addresses that a box answers ARP and neighbour discovery for because it translates them (docs/semantics.md, "Policy")."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.design.notation import Address
from anabasis.routing.interfaces import L3Interface
from anabasis.routing.spans import Intervals, intersect, merge, span_of, subtract


@dataclass(frozen=True)
class Claim:
    """What one translation of a device claims on the links of some zones."""

    device: str
    zones: frozenset[str] | None
    """None = any zone."""
    spans: frozenset[tuple[int, int, int]]
    """(family, first address, last address)."""
    by_zone: bool = True
    """Whether `zones` are zones; else names of interfaces."""

    def on(self, interface: L3Interface, version: int) -> Intervals:
        """Return the addresses it claims on the link of an interface; a claim on a whole subnet claims nothing there."""
        side = interface.zone if self.by_zone else interface.name
        if interface.device != self.device or side is None:
            return []
        if self.zones is not None and side not in self.zones:
            return []
        out: Intervals = []
        for subnet in (a.network for a in interface.addresses if a.version == version):
            claimed = intersect(
                [(low, high) for family, low, high in self.spans if family == version], [span_of(subnet)]
            )
            out += [c for c in claimed if c != span_of(subnet)]
        return merge(out)


class Claims:
    """All claims of a site against the interfaces it has."""

    def __init__(self, claims: list[Claim], interfaces: list[L3Interface], held: frozenset[Address]) -> None:
        """`held`: addresses that a box or an endpoint holds; nobody claims those."""
        self._by_interface: list[tuple[L3Interface, dict[int, Intervals]]] = []
        taken = {v: [(int(a), int(a)) for a in held if a.version == v] for v in (4, 6)}
        for interface in interfaces:
            mine: dict[int, Intervals] = {}
            for version in (4, 6):
                spans = merge(s for c in claims for s in c.on(interface, version))
                mine[version] = subtract(spans, taken[version]) if spans else []
            if any(mine.values()):
                self._by_interface.append((interface, mine))
        self._all = {v: merge(s for _, mine in self._by_interface for s in mine[v]) for v in (4, 6)}

    @property
    def entries(self) -> list[tuple[L3Interface, dict[int, Intervals]]]:
        """Return the interfaces that claim anything, each with what it claims by family."""
        return self._by_interface

    def spans(self, version: int) -> Intervals:
        """Return every claimed address of a family, also on interfaces that are down: it is no host's."""
        return self._all[version]

    def claimants(self, address: Address) -> list[L3Interface]:
        """Return the interfaces that answer for an address."""
        number = int(address)
        return [
            i
            for i, mine in self._by_interface
            if i.up and any(low <= number <= high for low, high in mine[address.version])
        ]
