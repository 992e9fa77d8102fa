"""What a pair's flows are, cell by cell: every crossing of its filter set permits it."""

from __future__ import annotations

import numpy as np
from hypothesis import example, given

from anabasis.climb import Climb
from anabasis.design import parse_design
from tests.counts import law
from tests.sites import Tree, sites

CROSSWISE: Tree = {
    "anabasis": 1,
    "name": "Two hosts of a segment, each behind a router that knows one of two servers",
    "vlans": [{"id": v, "name": f"v{v}", "subnets": [f"10.64.{v}.0/24"]} for v in (11, 12, 13)],
    "devices": [
        {
            "name": "fw",
            "kind": "firewall",
            "ports": [
                {"name": "13", "mode": "routed", "addresses": ["10.64.13.1/24"], "zone": "in"},
                {"name": "12", "mode": "routed", "addresses": ["10.64.12.1/24"], "zone": "out"},
            ],
            "zones": [{"name": "in"}, {"name": "out"}],
            "rules": [{"name": "some", "from": ["in"], "to": ["out"], "services": ["tcp/22"], "action": "permit"}],
            "vrfs": [{"name": "main", "routes": [{"to": f"10.64.11.{k}0/32", "via": f"10.64.13.1{k}"} for k in (1, 2)]}],
        }
    ]
    + [
        {
            "name": f"r{k}",
            "kind": "router",
            "ports": [{"name": "11", "addresses": [f"10.64.11.{k}/24"]}, {"name": "13", "addresses": [f"10.64.13.1{k}/24"]}],
            "vrfs": [{"name": "main", "routes": [{"to": f"10.64.12.{k}0/32", "via": "10.64.13.1"}]}],
        }
        for k in (1, 2)
    ]
    + [
        {"name": f"sw{v}", "kind": "switch", "ports": [{"name": n, "untagged": [v], "pvid": v} for n in "1234"]}
        for v in (11, 12, 13)
    ]
    + [
        {"name": f"h{v}{k}", "kind": "endpoint", "addresses": [f"10.64.{v}.{k}0/24"], "gateway": gateway}
        for k in (1, 2)
        for v, gateway in ((11, f"10.64.11.{k}"), (12, "10.64.12.1"))
    ],
    "cables": [
        [f"sw{v}:{port}", end]
        for v, ends in {
            11: ("r1:11", "r2:11", "h111:1", "h112:1"),
            12: ("fw:12", "h121:1", "h122:1"),
            13: ("fw:13", "r1:13", "r2:13"),
        }.items()
        for port, end in zip("1234", ends, strict=False)
    ],
}  # fmt: skip


@law(600, 40)
@given(sites())
@example(CROSSWISE)
def test_a_cell_is_what_all_its_crossings_permit(tree: Tree) -> None:
    """Filled in by blocks of cells that share a filter set; here asked one cell at a time."""
    climb = Climb(parse_design(tree))
    crosswise = 0
    for version, family in climb.sweep.families.items():
        fecs = family.plane.fecs
        for a, b in climb.sweep.pairs:
            space = family.pair(a, b)
            if space is None:
                continue
            sets = fecs.filter_set[np.ix_(family.fecs_of(a), family.fecs_of(b))]
            touched = np.array([family.touched(g, space.destinations) for g in family.standing[a]]).any(axis=0)
            for number in np.unique(sets[sets >= 0]).tolist():
                here = sets == number
                crosswise += here.any(axis=1).sum() * here.any(axis=0).sum() > here.sum()
            for row, column in np.ndindex(sets.shape):
                if touched[column]:  # by a translation: flows of its own
                    continue
                number = int(sets[row, column])
                want = family.possible & (number >= 0)
                for crossing in fecs.filter_sets[number] if number >= 0 else ():
                    ends = space.sources[row : row + 1], space.destinations[column : column + 1]
                    want = want & family.permits.between(crossing, *ends)[0, 0]
                assert np.array_equal(space.allowed[row, column], want), (version, a, b, row, column)
    assert crosswise or tree is not CROSSWISE
