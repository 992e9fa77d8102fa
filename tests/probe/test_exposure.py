"""Exposure: what one address reaches is what the flows of its segment say of that address, and of no other."""

from __future__ import annotations

from ipaddress import ip_address

import pytest

from anabasis.climb import Climb
from anabasis.design import Loaded, parse_design
from anabasis.probe.exposure import exposure
from tests.sites import access, plan, switch, trunk


def climb(sources: list[str]) -> Climb:
    """Return two VLANs behind a firewall, with one rule from some sources of the first."""
    gate = {
        "name": "gate",
        "kind": "firewall",
        "zones": [{"name": "in"}, {"name": "srv"}],
        "rules": [{"name": "web", "from": ["in"], "to": ["srv"], "sources": sources, "services": ["tcp/443"], "action": "permit"}],
        "ports": [
            {
                "name": "1",
                "mode": "routed",
                "subinterfaces": [
                    {"tag": 11, "addresses": ["10.64.11.1/24"], "zone": "in"},
                    {"tag": 12, "addresses": ["10.64.12.1/24"], "zone": "srv"},
                ],
            }
        ],
    }  # fmt: skip
    hosts = [{"name": f"desk-{n}", "kind": "endpoint", "addresses": [f"10.64.11.{n}/24"], "gateway": "10.64.11.1"} for n in (5, 6)]  # fmt: skip
    sw = switch("sw", trunk("up", 11, 12), access("1", 11), access("2", 11), access("3", 12))
    cables = [["gate:1", "sw:up"], ["sw:1", "desk-5:1"], ["sw:2", "desk-6:1"]]
    tree = {"anabasis": 1, "name": "Two", "vlans": plan(11, 12), "devices": [gate, sw, *hosts], "cables": cables}
    return Climb(parse_design(tree))


@pytest.mark.parametrize(("host", "reaches"), [("desk-5", True), ("desk-6", False)])
def test_a_rule_about_one_host_is_about_that_one(host: str, reaches: bool) -> None:
    """The rule names one source: only that host reaches the servers, and all of them."""
    found = exposure(climb(["10.64.11.5"]).verdicts(), host)
    assert len(found) == 1
    assert [(e.services, e.whole) for e in found[0].reaches] == ([("https", True)] if reaches else [])
    assert found[0].reached_by == []


def test_some_hosts_are_not_all() -> None:
    """Of the far segment one host may ask: it is told that not all of them do."""
    found = exposure(climb(["10.64.11.5"]).verdicts(), "10.64.12.9")
    assert [(e.segment, e.whole) for e in found[0].reached_by] == [("v11", False)]
    found = exposure(climb(["10.64.11.0/24"]).verdicts(), "10.64.12.9")
    assert [(e.segment, e.whole) for e in found[0].reached_by] == [("v11", True)]


def test_it_says_what_the_flows_say(demo: Loaded) -> None:
    """Of every host of the demo: a far segment is named if and only if some flow of the host's address is between the two."""
    whole = Climb(demo.design)
    sweep, names = whole.sweep, whole.site.segments.by_name
    told = 0
    for device in demo.design.devices:
        for found in exposure(whole.verdicts(), device.name) if device.kind == "endpoint" else []:
            here, family = names[found.segment], 6 if ":" in found.address else 4
            reached = {e.segment for e in found.reaches}
            for name, there in names.items():
                if there == here or whole.site.segments.all[there].kind == "transit":
                    continue
                number, flows = int(ip_address(found.address)), sweep.flows(here, there, family=family)
                held = any(low <= number <= high for box in flows.boxes for low, high in box.sources)
                assert held == (name in reached), (device.name, name)
                told += name in reached
    assert told > 10
