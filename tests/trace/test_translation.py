"""Translations one at a time, in the walk and in the exact flows."""

from __future__ import annotations

from typing import Any

from anabasis.climb import Climb
from anabasis.design import Loaded, apply
from anabasis.facts import stage_of
from anabasis.verdicts import read_flows
from anabasis.wording import tell
from tests.sites import Tree, design_of

GATE = "/devices/4"


def after(demo: Loaded, *patch: dict[str, Any]) -> Climb:
    """Return the climb of the demo after an edit."""
    return Climb(apply(demo.raw, list(patch))[1])


def flows(climb: Climb, source: str, target: str) -> list[dict[str, list[str]]]:
    """Return the exact flows of a pair."""
    return climb.verdicts().written(climb.segment(source), climb.segment(target))


def test_hiding_shows_on_the_way_and_is_changed_back(climb: Climb) -> None:
    """The firewall gives its own address, and knows whom the reply is for."""
    went = climb.walk("desk-7", "192.0.2.10", "https")
    there = [tell(s).text for s in went.steps if stage_of(s) == "translation"]
    assert there == ["gate: translation 'house-goes-out': source 10.64.130.77 becomes 198.51.100.2"]
    assert went.way_back is not None
    back = [tell(s).text for s in went.way_back.steps if stage_of(s) == "translation"]
    assert back == ["gate changes the reply back: destination 198.51.100.2 becomes 10.64.130.77"]


def test_a_published_server_is_reached_by_its_published_address_alone(climb: Climb) -> None:
    """The flow has the destination that the sender writes; the verdict for the pair is `some`."""
    (found,) = flows(climb, "internet", "lab")
    assert found["destinations"] == ["198.51.100.5"]
    assert found["services"] == ["tcp/443"]
    verdict = climb.verdicts().judge(climb.segment("internet"), climb.segment("lab"))
    assert verdict.verdict == "some"


def test_rules_see_the_real_address_and_the_new_service(demo: Loaded) -> None:
    """A rule for the published address opens nothing; one for the server and its real port does (docs/semantics.md, "Policy")."""
    moved = [
        {"op": "add", "path": f"{GATE}/nat/0/services", "value": ["tcp/8443"]},
        {"op": "add", "path": f"{GATE}/nat/0/service_to", "value": "tcp/443"},
    ]
    assert flows(after(demo, *moved), "internet", "lab")[0]["services"] == ["tcp/8443"]
    wrong = {"op": "replace", "path": f"{GATE}/rules/11/destinations", "value": ["198.51.100.5"]}
    assert flows(after(demo, wrong), "internet", "lab") == []


def test_one_to_one_works_both_ways(demo: Loaded) -> None:
    """The box gives the lab eight addresses outside, and strangers get in by them where a rule lets them."""
    entry = {
        "name": "lab-outside",
        "from": ["chemistry"],
        "to": ["street"],
        "sources": ["10.64.170.8/29"],
        "source_to": "198.51.100.8/29",
        "one_to_one": True,
    }
    opened = after(demo, {"op": "add", "path": f"{GATE}/nat/0", "value": entry})
    out = opened.walk("10.64.170.11", "192.0.2.10", "https")
    assert "source 10.64.170.11 becomes 198.51.100.11" in " ".join(tell(s).text for s in out.steps)
    inward = opened.walk("192.0.2.10", "198.51.100.10", "https")
    assert (inward.outcome, inward.receiver and inward.receiver.label) == ("delivered", "lab-server")


def test_what_is_claimed_and_not_translated_stops_at_the_box(climb: Climb) -> None:
    """The firewall answers ARP for the published address; a service it does not publish goes nowhere."""
    went = climb.walk("192.0.2.10", "198.51.100.5", "ssh")
    assert (went.outcome, went.layer) == ("stopped", "nat")
    assert "no translation of it matches" in went.reason


def test_a_family_without_an_address_cannot_hide(demo: Loaded) -> None:
    """Hiding behind an interface needs an address of that family there."""
    gone = after(
        demo,
        {"op": "replace", "path": f"{GATE}/ports/0/addresses", "value": ["198.51.100.2/28"]},
        {"op": "replace", "path": f"{GATE}/vrfs/0/routes/1", "value": {"to": "::/0", "interface": "1"}},
    )
    went = gone.walk("fd64:0:0:130::77", "2001:db8:9::1", "https")
    assert (went.outcome, went.layer) == ("stopped", "nat")
    assert "none of IPv6" in went.reason


def two_ways(back: tuple[int, ...] = (1, 2), **second: Any) -> Climb:
    """Return a host behind a router with two equal routes over two firewalls to a server."""

    def fence(k: int) -> Tree:
        ports = [
            {"name": "1", "mode": "routed", "zone": "in", "addresses": [f"10.64.{k}.2/24"]},
            {"name": "2", "mode": "routed", "zone": "out", "addresses": [f"10.65.{k}.2/24"]},
        ]
        routes = [{"to": "10.64.9.0/24", "via": f"10.64.{k}.1"}, {"to": "10.65.9.0/24", "via": f"10.65.{k}.1"}]
        rule = {"name": "all", "from": ["in"], "to": ["out"], "action": "permit"}
        return {
            "name": f"f{k}",
            "kind": "firewall",
            "zones": [{"name": "in"}, {"name": "out"}],
            "rules": [rule],
            "ports": ports,
            "vrfs": [{"name": "main", "routes": routes}],
        }

    def router(name: str, net: int, to: str, hops: tuple[int, ...]) -> Tree:
        ports = [{"name": "9", "addresses": [f"10.{net}.9.1/24"]}] + [
            {"name": str(k), "addresses": [f"10.{net}.{k}.1/24"]} for k in (1, 2)
        ]
        return {
            "name": name,
            "kind": "router",
            "ports": ports,
            "vrfs": [{"name": "main", "routes": [{"to": to, "via": f"10.{net}.{k}.2"} for k in hops]}],
        }

    fences = [fence(1), fence(2) | second]
    ends = [
        {"name": n, "kind": "endpoint", "addresses": [f"10.{net}.9.7/24"]} for n, net in (("host", 64), ("server", 65))
    ]
    cables = (
        [["host:1", "near:9"], ["server:1", "far:9"]]
        + [[f"near:{k}", f"f{k}:1"] for k in (1, 2)]
        + [[f"far:{k}", f"f{k}:2"] for k in (1, 2)]
    )
    return Climb(
        design_of(
            devices=[
                *fences,
                router("near", 64, "10.65.0.0/16", (1, 2)),
                router("far", 65, "10.64.0.0/16", back),
                *ends,
            ],
            cables=cables,
        )
    )


def test_shared_routes_over_two_firewalls_are_asymmetric() -> None:
    """Each firewall may get the reply to a request the other one saw: a flow that works by luck does not count."""
    went = two_ways().walk("host", "server", "https")
    assert (went.outcome, went.layer) == ("stopped", "return")
    assert "never seen" in went.reason


def test_every_shared_way_counts() -> None:
    """A packet that one of the equal ways stops is stopped, though the way that is written first lets it pass."""
    assert two_ways(back=(1,), rules=[]).walk("host", "server", "https").reason.startswith("f2: no rule matches")
    climb = two_ways(back=(1,), rules=[])
    went = climb.walk("host", "server", "https")
    assert (went.outcome, went.layer) == ("stopped", "rule")
    assert (
        flows(
            climb,
            climb.site.segments.all[_home(climb, "host")].name,
            climb.site.segments.all[_home(climb, "server")].name,
        )
        == []
    )


def _home(climb: Climb, name: str) -> int:
    """Return the segment an endpoint stands in."""
    return next(g.segment for g in climb.site.net.hosts if g.endpoint == name)


def test_published_flows_are_written_by_the_address_that_is_sent_to(climb: Climb) -> None:
    """For a person as for a script; the senders' side knows nothing of what is published."""
    a, b = climb.segment("internet"), climb.segment("lab")
    (said,) = read_flows(climb.sweep, a, b, climb.verdicts().flows(a, b))
    assert said == {"sources": "0.0.0.0/0", "destinations": "198.51.100.5", "services": "https"}
