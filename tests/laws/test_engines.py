"""The two engines are held against each other: what the sweep allows, the walk delivers, and nothing else."""

from __future__ import annotations

from itertools import islice

import numpy as np
from hypothesis import example, given, note

from anabasis.climb import Climb
from anabasis.design import parse_design
from anabasis.trace import walk
from tests.counts import law
from tests.sites import Tree, sites
from tests.tunnels.tenants import tenancies

TWICE: Tree = {
    "anabasis": 1,
    "name": "An address that may stand in two segments",
    "vlans": [{"id": v, "name": f"v{v}", "subnets": [f"10.64.{v}.0/24"]} for v in (12, 13)],
    "devices": [
        {"name": "sw", "kind": "switch", "ports": [{"name": "cut"}, {"name": "ml", "tagged": [12, 13]}]},
        {
            "name": "ml",
            "kind": "switch",
            "routing": True,
            "ports": [{"name": "1", "tagged": [12, 13]}, {"name": "2", "pvid": 13, "untagged": [13]}],
            "vlan_interfaces": [{"vlan": v, "addresses": [f"10.64.{v}.2/24"]} for v in (12, 13)],
            "nat": [{"name": "n", "from": ["vlan13"], "to": ["any"], "services": ["udp/53"], "destination_to": "10.64.12.9"}],
        },
        {"name": "host", "kind": "endpoint", "addresses": ["10.64.12.9/24"]},
    ],
    "cables": [["sw:ml", "ml:1"], ["sw:cut", "host:1"]],
}  # fmt: skip


@law(5000, 60)
@given(sites())
@example(TWICE)
def test_walk_agrees_with_sweep(tree: Tree) -> None:
    """For one address of every class, and one service of every atom, of every pair of segments. What a box answers itself is no host's."""
    agree(tree)


@law(2000, 30)
@given(tenancies())
def test_walk_agrees_with_sweep_on_an_overlay(tree: Tree) -> None:
    """The same where tenants stand on an overlay, joined and apart by targets and VNIs."""
    agree(tree)


def agree(tree: Tree) -> None:
    """Hold both engines against each other."""
    climb = Climb(parse_design(tree))
    sweep, site, verdicts = climb.sweep, climb.site, climb.verdicts()
    for a, b in sweep.pairs:
        for space in sweep.pair(a, b):
            shape = (len(space.sources), len(space.destinations), len(space.possible))
            for s, d, v in islice(np.ndindex(shape), 0, None, max(1, int(np.prod(shape)) // 60)):
                if not space.possible[v]:
                    continue
                source = verdicts.place(a, space.family, int(space.sources[s]))
                target = verdicts.place(b, space.family, int(space.destinations[d]))
                service = verdicts.service(v)
                went = walk(site, source, target, service)
                names = site.segments.all[a].name, site.segments.all[b].name
                note(
                    f"{names} {source.address} -> {target.address} {service}: {went.outcome} {went.layer} {went.reason}"
                )
                there = went.receiver is not None and went.receiver.segment == b
                assert (went.outcome == "delivered" and there) == bool(space.allowed[s, d, v])


@law(3000, 40)
@given(sites())
def test_a_verdict_is_the_same_alone_and_among_all(tree: Tree) -> None:
    """Told of one pair by its flows, or of all pairs by counting: translations to a host beside the one that was meant included."""
    alone, counted = Climb(parse_design(tree)), Climb(parse_design(tree))
    assert counted.sweep.tally() is not None
    assert alone.verdicts().all == counted.verdicts().all
