"""Translated flows, and flows beside them, on one small firewall."""

from __future__ import annotations

from typing import Any

from anabasis.classes.services import ALL_SERVICES
from anabasis.climb import Climb
from anabasis.design import Tree
from anabasis.facts import FollowsRoute, TakesFrame, Translates
from tests.sites import design_of


def fenced(rules: list[Tree], **more: Any) -> Climb:
    """Return two hosts, one on either side of a firewall."""
    ports = [
        {"name": str(n), "mode": "routed", "zone": z, "addresses": [f"10.64.{n}.1/24"]}
        for n, z in ((1, "in"), (2, "out"))
    ]
    named = [{"name": f"r{i}", "from": ["in"], "to": ["out"], "action": "permit", **r} for i, r in enumerate(rules)]
    zones = [{"name": "in"}, {"name": "out"}]
    fence = {"name": "fw", "kind": "firewall", "zones": zones, "ports": ports, "rules": named, **more}
    ends = [{"name": f"h{n}", "kind": "endpoint", "addresses": [f"10.64.{n}.9/24"]} for n in (1, 2)]
    return Climb(design_of(devices=[fence, *ends], cables=[["fw:1", "h1:1"], ["fw:2", "h2:1"]]))


def services_between(climb: Climb) -> set[tuple[int, int, int]]:
    """Return what passes from the one host to the other."""
    a, b = (next(g.segment for g in climb.site.net.hosts if g.endpoint == n) for n in ("h1", "h2"))
    return {s for box in climb.sweep.flows(a, b).boxes for s in box.services}


def test_what_is_translated_and_what_is_not_come_to_the_same_host() -> None:
    """One port becomes another, the rest stays: all of it arrives, and the host's own port by both ways."""
    nat = [
        {"name": "n", "from": ["in"], "destinations": ["10.64.2.9"], "services": ["tcp/8443"], "service_to": "tcp/443"}
    ]
    climb = fenced([{"services": ["tcp/443", "tcp/22"]}], nat=nat)
    assert services_between(climb) == {(6, 22, 22), (6, 443, 443), (6, 8443, 8443)}
    for service, outcome in (("tcp/8443", "delivered"), ("tcp/443", "delivered"), ("tcp/80", "stopped")):
        assert climb.walk("h1", "h2", service).outcome == outcome


def test_a_translation_of_the_destination_leaves_the_source_alone() -> None:
    """And one of the source the destination: each changes what it says, once."""
    out = [{"name": "n", "from": ["in"], "destinations": ["10.64.2.77"], "destination_to": "10.64.2.9"}]
    hide = [{"name": "m", "from": ["in"], "to": ["out"], "source_to": "interface"}]
    for nat, target, changed in (
        (out, "10.64.2.77", [("n", ("destination",))]),
        (hide, "h2", [("m", ("source",))]),
        (out + hide, "10.64.2.77", [("n", ("destination",)), ("m", ("source",))]),
    ):
        went = fenced([{}], nat=nat).walk("h1", target, "tcp/443")
        steps = [s for s in went.steps if isinstance(s, Translates)]
        assert [(s.entry, tuple(c.field for c in s.changes)) for s in steps] == changed


def test_all_of_a_family_passes_and_nothing_of_the_other() -> None:
    """What everything may pass is every service that IPv4 carries: no ICMPv6."""
    assert services_between(fenced([{}])) == set(ALL_SERVICES[4])


def test_steps_say_how_a_route_leads(climb: Climb) -> None:
    """On the demo: over hops to the outside, which has the rest behind it; and through the inline pair."""
    went = climb.walk("keepers", "internet", "https")
    assert [s.leads for s in went.steps if isinstance(s, FollowsRoute)] == ["to-hop", "to-hop", "behind"]
    inside = climb.walk("keepers", "chiller-1", "ping")
    assert [(s.port, s.inline) for s in inside.steps if isinstance(s, TakesFrame) and s.inline] == [("gate-a:12", True)]
