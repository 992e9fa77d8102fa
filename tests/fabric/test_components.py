"""Domains found at one sweep where nothing is odd: what a link makes odd, and what it does not."""

from __future__ import annotations

import pytest

from anabasis.fabric import build_fabric
from anabasis.fabric.components import easy_components
from tests.sites import Tree, access, design_of, plan, switch


@pytest.mark.parametrize(
    ("far", "easy"),
    [
        ({"tagged": [11, 12]}, {11: True, 12: True}),
        ({"tagged": [12]}, {11: True, 12: True}),  # frames of 11 go nowhere: nothing odd
        ({"tagged": [12], "translate": {"11": 12}}, {11: False, 12: False}),  # 11 lands in 12, and comes back as 11
        (
            {"untagged": [12], "pvid": 12, "tagged": [11]},
            {11: True, 12: False},
        ),  # tagged 12 enters, untagged comes back: dropped
    ],
)
def test_a_link_whose_ends_disagree_is_odd(far: Tree, easy: dict[int, bool]) -> None:
    """IEEE 802.1Q 8.6.1 and 8.6.4: a domain is whole where what leaves in a form comes back in it, into the VLAN it left."""
    ports = (
        [access("1", 11), access("2", 12), {"name": "t", "tagged": [11, 12]}],
        [access("1", 11), access("2", 12), {"name": "t", **far}],
    )
    devices = [switch(name, *own) for name, own in zip("ab", ports, strict=True)]
    fabric = build_fabric(design_of(vlans=plan(11, 12), devices=devices, cables=[["a:t", "b:t"]]))
    found = easy_components(fabric)
    assert {
        v: ("a", v) in {(box[0] if isinstance(box, tuple) else box, vlan) for box, vlan in found.of_node}
        for v in (11, 12)
    } == easy
