"""Hosts of one segment among each other: held against every pair, one by one."""

from __future__ import annotations

from itertools import combinations

import pytest
from hypothesis import given

from anabasis.design import parse_design
from anabasis.fabric import build_fabric, compute_segments, inside
from tests.counts import law
from tests.sites import Tree, access, design_of, plan, sites, switch, trunk


@pytest.mark.parametrize(
    ("isolated", "across", "want"),
    [
        ((False, False), False, "all"),
        ((True, True), False, "none"),
        ((True, False), False, "all"),
        ((True, True, False), False, "some"),
        (
            (True, True),
            True,
            "some",
        ),  # of two boxes whose uplinks are not isolated: those of one are kept apart, those of two are not
        ((False,), False, "alone"),
    ],
)
def test_isolated_ports_keep_hosts_apart(isolated: tuple[bool, ...], across: bool, want: str) -> None:
    """Ports of a box that are isolated exchange nothing; any other pair does."""
    ports = [access(str(k), 11, isolated=apart) for k, apart in enumerate(isolated)]
    gateway = {"vlan_interfaces": [{"vlan": 11, "addresses": ["10.64.11.1/24"]}]}
    devices = [switch("a", *ports, *([trunk("t", 11)] if across else []), **gateway)]
    devices += [switch("b", *ports, trunk("t", 11))] if across else []
    fabric = build_fabric(design_of(vlans=plan(11), devices=devices, cables=[["a:t", "b:t"]] if across else []))
    segment = next(s for s in compute_segments(fabric).all if s.name == "v11")
    assert inside(fabric, segment) == want


@law(1000, 60)
@given(sites())
def test_kinds_of_ports_are_as_pairs_are(tree: Tree) -> None:
    """What is told by kinds of ports is what every pair of hosts says."""
    fabric = build_fabric(parse_design(tree))
    for segment in compute_segments(fabric).all:
        hosts = [t for t in segment.attachments if t.kind in ("edge", "endpoint")]
        heard = {fabric.delivers(a, b) and fabric.delivers(b, a) for a, b in combinations(hosts, 2)}
        want = "alone" if not heard else "some" if len(heard) > 1 else "all" if True in heard else "none"
        assert inside(fabric, segment) == want, segment.name
