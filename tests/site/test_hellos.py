"""Hellos of OSPF through a filter that stands in the link unseen."""

from __future__ import annotations

import pytest

from anabasis.climb import Climb
from anabasis.design import parse_design
from tests.sites import Tree


def across(**rule: object) -> Tree:
    """Return two routers on one link, an inline pair of a firewall between them. `rule`: what its one rule says."""
    routers: list[Tree] = [
        {
            "name": f"r{k}",
            "kind": "router",
            "ports": [{"name": "1", "addresses": [f"10.1.12.{k}/30"]}, {"name": "2", "addresses": [f"10.64.{k}.1/24"]}],
            "vrfs": [
                {
                    "name": "main",
                    "ospf": {
                        "router_id": f"10.255.0.{k}",
                        "interfaces": [{"interface": "1"}, {"interface": "2", "passive": True}],
                    },
                }
            ],
        }
        for k in (1, 2)
    ]
    fence: Tree = {
        "name": "fence",
        "kind": "firewall",
        "ports": [{"name": n, "mode": "inline", "zone": z} for n, z in (("a", "west"), ("b", "east"))],
        "wires": [{"name": "pair", "ends": ["a", "b"]}],
        "zones": [{"name": "west", "kind": "inline"}, {"name": "east", "kind": "inline"}],
        "rules": [{"name": "hellos", "from": ["any"], "to": ["any"], "action": "permit"} | rule],
    }
    hosts: list[Tree] = [{"name": f"h{k}", "kind": "endpoint", "addresses": [f"10.64.{k}.9/24"]} for k in (1, 2)]
    cables = [["r1:1", "fence:a"], ["fence:b", "r2:1"], ["r1:2", "h1:1"], ["r2:2", "h2:1"]]
    return {"anabasis": 1, "name": "Across", "devices": [*routers, fence, *hosts], "cables": cables}


@pytest.mark.parametrize(
    ("rule", "neighbours"),
    [
        ({}, True),
        ({"services": ["ospf"]}, True),
        ({"services": ["tcp/22"]}, False),
        ({"from": ["west"], "to": ["east"]}, False),  # RFC 2328 10.5: each has to hear the other
        ({"from": ["west", "east"], "to": ["west", "east"]}, True),
        ({"destinations": ["224.0.0.5"]}, True),  # appendix A.1: hellos are sent to all routers
        ({"destinations": ["10.1.12.0/30"]}, False),
        ({"sources": ["10.1.12.1"]}, False),
    ],
)
def test_hellos_need_the_rules_both_ways(rule: Tree, neighbours: bool) -> None:
    """By the zones of the two sides, from each router's own address, to all routers."""
    climb = Climb(parse_design(across(**rule)))
    learnt = {
        k: [str(r.to) for r in climb.site.net.tables[f"r{k}", "main"].routes if r.origin == "ospf"] for k in (1, 2)
    }
    assert learnt == ({1: ["10.64.2.0/24"], 2: ["10.64.1.0/24"]} if neighbours else {1: [], 2: []})


@pytest.mark.parametrize(
    ("entries", "where", "neighbours"),
    [
        ([{"action": "permit"}], "filter_in", True),
        ([{"services": ["ospf"], "action": "permit"}], "filter_in", True),
        ([{"services": ["ospf"], "destinations": ["224.0.0.5"], "action": "permit"}], "filter_out", True),
        ([{"services": ["ospf"], "destinations": ["10.1.12.0/30"], "action": "permit"}], "filter_in", False),
        ([{"services": ["tcp"], "action": "permit"}], "filter_in", False),
        ([{"services": ["tcp"], "action": "permit"}], "filter_out", False),
        ([{"services": ["ospf"], "action": "drop"}, {"action": "permit"}], "filter_out", False),
    ],
)
def test_hellos_need_stateless_filters_too(entries: list[Tree], where: str, neighbours: bool) -> None:
    """A filter at the interface of one router, for what comes in or goes out: hellos go to all routers, whatever else it says, and the filter is named."""
    tree = across()
    tree["devices"][0]["filters"] = [
        {"name": "edge", "entries": [*entries, {"destinations": ["10.64.0.0/16"], "action": "permit"}]}
    ]
    tree["devices"][0]["ports"][0][where] = "edge"
    climb = Climb(parse_design(tree))
    learnt = [r for t in climb.site.net.tables.values() for r in t.routes if r.origin == "ospf"]
    assert bool(learnt) == neighbours
    apart = [f for f in climb.findings if f.code == "neighbour-apart"]
    assert bool(apart) != neighbours
    assert all(any(p.startswith("/devices/0/filters/0") for p in f.pointers) for f in apart)
