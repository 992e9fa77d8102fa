"""DHCP entries: which address is next, whatever is excluded, reserved or taken."""

from __future__ import annotations

from ipaddress import ip_address, ip_network

from hypothesis import given
from hypothesis import strategies as st

from anabasis.design.routes import Dhcp
from anabasis.policy import LeaseServer, lease_servers
from tests.sites import design_of

BASE = int(ip_address("10.64.1.0"))
offsets = st.integers(1, 40)
spans = st.lists(st.tuples(offsets, offsets).map(sorted), max_size=3)


def text(low: int, high: int) -> str:
    """Write a range."""
    return f"{ip_address(BASE + low)}-{ip_address(BASE + high)}"


@given(spans, spans, st.sets(offsets), st.sets(offsets, max_size=3))
def test_the_next_address_is_the_first_that_nothing_keeps(
    ranges: list[list[int]], exclude: list[list[int]], taken: set[int], reserved: set[int]
) -> None:
    """Range by range, as a person would count it."""
    entry = Dhcp.model_validate(
        {
            "interface": "x",
            "ranges": [text(*r) for r in ranges],
            "exclude": [text(*e) for e in exclude],
            "reservations": [{"name": f"h{n}", "address": str(ip_address(BASE + n))} for n in reserved],
        }
    )
    out = {n for low, high in exclude for n in range(low, high + 1)} | taken | reserved
    wanted = next((n for low, high in ranges for n in range(low, high + 1) if n not in out), None)
    found = LeaseServer("d", "x", "server", "", entry).free(
        frozenset(BASE + n for n in taken), [ip_network("0.0.0.0/0")]
    )
    assert found == (None if wanted is None else ip_address(BASE + wanted))


def test_entries_that_are_off_are_none() -> None:
    """The rest stand in document order, with their place."""
    entries = [{"interface": "1", "mode": m} for m in ("server", "off", "relay", "yield")]
    fence = {"name": "fw", "kind": "firewall", "ports": [{"name": "1", "mode": "routed"}], "dhcp": entries}
    found = list(lease_servers(design_of(devices=[fence])))
    assert [(s.mode, s.pointer) for s in found] == [
        ("server", "/devices/0/dhcp/0"),
        ("relay", "/devices/0/dhcp/2"),
        ("yield", "/devices/0/dhcp/3"),
    ]
