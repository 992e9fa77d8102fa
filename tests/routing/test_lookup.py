"""Lookup against a plain reading of the rule: the longest prefix that holds the address and is in force; then preference, then metric."""

from __future__ import annotations

from ipaddress import ip_address, ip_network

from hypothesis import given
from hypothesis import strategies as st

from anabasis.facts import Layer, Wrong, because
from anabasis.routing import Table, TableRoute, look_up

BASE = int(ip_address("10.64.0.0"))


@st.composite
def routes(draw: st.DrawFn) -> TableRoute:
    """Return a route inside a small space, in force or not."""
    length = draw(st.integers(26, 32))
    network = ip_network((BASE + draw(st.integers(0, 63)), length), strict=False)
    active = draw(st.booleans())
    return TableRoute(
        "r",
        "main",
        network,
        draw(st.sampled_from(("connected", "static"))),
        None,
        None,
        "1",
        None,
        False,
        draw(st.integers(0, 2)),
        draw(st.integers(0, 2)),
        None if active else because(Layer.LINK, Wrong.NO_CABLE, "/x", port="1"),
        "/x",
    )


@given(st.lists(routes(), max_size=8), st.integers(0, 63))
def test_the_winner_is_the_longest_in_force_then_the_best(found: list[TableRoute], offset: int) -> None:
    """And what is missed is a longer one that is not in force."""
    address = ip_address(BASE + offset)
    outcome = look_up(Table("r", "main", tuple(found)), address)
    holding = [r for r in found if address in r.to]
    able = [r for r in holding if r.active]
    if able:
        longest = max(r.to.prefixlen for r in able)
        best = min(r.rank for r in able if r.to.prefixlen == longest)
        assert outcome.winner is not None
        assert (outcome.winner.to.prefixlen, outcome.winner.rank) == (longest, best)
    else:
        longest = -1
        assert outcome.winner is None
    longer = [r for r in holding if not r.active and r.to.prefixlen > longest]
    assert (outcome.missed in longer) if longer else (outcome.missed is None)
    assert len(outcome.losers) + len(outcome.shared) == len(holding)
    assert (outcome.winner is not None) == bool(outcome.shared)
    assert all(r.active and r.rank == outcome.shared[0].rank for r in outcome.shared)
