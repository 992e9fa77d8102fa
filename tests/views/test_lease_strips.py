"""A DHCP server as a strip of its subnet: every address once, and what each run of them is."""

from __future__ import annotations

import itertools
from ipaddress import ip_address

from hypothesis import given
from hypothesis import strategies as st

from anabasis.climb import Climb
from anabasis.views import Strip, strips
from tests.sites import Tree, design_of


def strip_of(**entry: object) -> Strip:
    """Return the strip of one server on 10.64.11.0/24."""
    port = {"name": "1", "mode": "routed", "addresses": ["10.64.11.1/24"]}
    device: Tree = {"name": "gate", "kind": "firewall", "ports": [port], "dhcp": [{"interface": "1", **entry}]}
    host = {"name": "host", "kind": "endpoint", "addresses": ["10.64.11.77/24"]}
    (found,) = strips(Climb(design_of(devices=[device, host], cables=[["gate:1", "host:1"]])).site.net)
    return found


def kinds(strip: Strip) -> dict[str, str]:
    """Return kind by first address."""
    return {p.first: p.kind for p in strip.parts}


ends = st.integers(1, 254)


@given(st.lists(st.tuples(ends, ends).map(sorted), max_size=3), st.lists(ends, max_size=2), st.booleans())
def test_every_address_is_told_once(ranges: list[list[int]], kept: list[int], gateway: bool) -> None:
    """The parts lie side by side from the first address to the last, and their shares add up to the whole."""
    entry: Tree = {
        "ranges": [f"10.64.11.{a}-10.64.11.{b}" for a, b in ranges],
        "exclude": [f"10.64.11.{k}" for k in kept],
    }
    found = strip_of(**entry, **({"gateway": "10.64.11.1"} if gateway else {}))
    spans = [(int(ip_address(p.first)), int(ip_address(p.last))) for p in found.parts]
    assert spans[0][0] == int(ip_address("10.64.11.0"))
    assert spans[-1][1] == int(ip_address("10.64.11.255"))
    assert all(a[1] + 1 == b[0] for a, b in itertools.pairwise(spans))
    assert sum(p.count for p in found.parts) == 256
    assert abs(sum(p.width for p in found.parts) - 1) < 1e-9
    assert found.free_to_hand_out == sum(p.count for p in found.parts if p.kind == "range")


def test_what_each_address_is() -> None:
    """The gateway, what is kept, what is excluded, and a host that stands in the range."""
    found = strip_of(
        ranges=["10.64.11.50-10.64.11.100"],
        exclude=["10.64.11.60"],
        reservations=[{"name": "pump", "address": "10.64.11.55"}],
        gateway="10.64.11.1",
        dns=["10.64.11.5"],
        ntp=["10.64.11.6"],
        boot_server="10.64.11.7",
        boot_file="den.img",
        options={"150": "10.64.11.8"},
        lease_s=7200,
    )
    expected = {
        "10.64.11.1": "gateway",
        "10.64.11.55": "reserved",
        "10.64.11.60": "excluded",
        "10.64.11.77": "host",
        "10.64.11.50": "range",
        "10.64.11.2": "free",
    }
    assert {k: kinds(found)[k] for k in expected} == expected
    said = [
        "gateway 10.64.11.1",
        "DNS 10.64.11.5",
        "NTP 10.64.11.6",
        "boot server 10.64.11.7",
        "boot file den.img",
        "lease time 2 hours",
        "option 150 10.64.11.8",
    ]
    assert found.options == said
    assert found.free_to_hand_out == 51 - 3
