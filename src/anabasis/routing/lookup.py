"""Which route wins for an address: longest prefix first (RFC 4632 section 5.1), and which lost, and why."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.design.notation import Address
from anabasis.routing.tables import Table, TableRoute


@dataclass(frozen=True)
class Lookup:
    """The outcome of one lookup."""

    winner: TableRoute | None
    missed: TableRoute | None
    """A longer prefix that would have won if it were active."""
    losers: tuple[TableRoute, ...]
    shared: tuple[TableRoute, ...] = ()
    """The routes that share the traffic: the winner, and every active one to the same prefix that is as good."""


def look_up(table: Table, address: Address) -> Lookup:
    """Return the route a packet for `address` takes. Cost: the lengths of prefix in the table."""
    matching = table.holding(address)
    matching.sort(key=lambda r: (-r.to.prefixlen, not r.active, r.rank))
    winner = next((r for r in matching if r.active), None)
    depth = winner.to.prefixlen if winner else -1
    missed = next((r for r in matching if not r.active and r.to.prefixlen > depth), None)
    shared: tuple[TableRoute, ...] = (winner,) if winner else ()
    if winner is not None and winner.shares:
        shared = tuple(r for r in matching if r.active and r.to == winner.to and r.rank == winner.rank)
    return Lookup(winner, missed, tuple(r for r in matching if r not in shared), shared)
