"""Boxes without zones: what they answer, what they translate, and whether they are closed between their networks."""

from __future__ import annotations

from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.design import apply, parse_design, rename
from anabasis.errors import InputRefused
from anabasis.facts import stage_of
from anabasis.probe import own_addresses
from anabasis.wording import tell
from tests.sites import access, design_of, plan

Tree = dict[str, Any]


def cabin(**more: Any) -> Tree:
    """Return a router with two networks and a way out that drops private sources."""
    router: Tree = {
        "name": "rt",
        "kind": "router",
        "ports": [
            {"name": "a", "addresses": ["10.64.11.1/24"]},
            {"name": "b", "addresses": ["10.64.12.1/24"]},
            {"name": "s", "addresses": ["198.51.100.2/28"]},
        ],
        "vrfs": [{"name": "main", "routes": [{"to": "0.0.0.0/0", "via": "198.51.100.1"}]}],
    } | more
    hosts = [
        {"name": f"h{v}", "kind": "endpoint", "addresses": [f"10.64.{v}.9/24"], "gateway": f"10.64.{v}.1"}
        for v in (11, 12)
    ]
    net = {
        "name": "net",
        "kind": "outside",
        "prefixes": ["0.0.0.0/0"],
        "ports": [{"name": "1", "addresses": ["198.51.100.1/28"]}],
    }
    return {
        "vlans": plan(11, 12),
        "devices": [router, *hosts, net],
        "cables": [["rt:a", "h11:1"], ["rt:b", "h12:1"], ["rt:s", "net:1"]],
    }


HIDES = {"name": "hide", "to": ["s"], "sources": ["10.64.0.0/16"], "source_to": "interface"}


def climbed(**more: Any) -> Climb:
    """Return that site, climbed."""
    return Climb(design_of(**cabin(**more)))


def test_a_router_that_translates_lets_its_networks_out() -> None:
    """And its own address stands for them; without it the outside drops them, and the router is named."""
    went = climbed().walk("h11", "net", "https")
    assert (went.layer, went.decided_by[0]) == ("nat", "/devices/0/nat")
    went = climbed(nat=[HIDES]).walk("h11", "net", "https")
    assert went.outcome == "delivered"
    assert any("198.51.100.2" in tell(s).text for s in went.steps if stage_of(s) == "translation")


def test_the_zones_of_a_translation_are_interfaces_there() -> None:
    """One for another interface misses; a name that is none is refused with the nearest."""
    went = climbed(nat=[HIDES | {"from": ["b"]}]).walk("h11", "net", "https")
    assert (went.layer, went.decided_by[0]) == ("nat", "/devices/0/nat/0")
    with pytest.raises(InputRefused, match="interface on this device"):
        parse_design({"anabasis": 1, "name": "x", **cabin(nat=[HIDES | {"from": ["street"]}])})


def test_what_is_not_translated_needs_no_session() -> None:
    """Between its networks it routes as it did; a published port leads in."""
    publish = {
        "name": "in",
        "from": ["s"],
        "destinations": ["198.51.100.2"],
        "services": ["https"],
        "destination_to": "10.64.12.9",
    }
    climb = climbed(nat=[HIDES, publish])
    assert climb.walk("h11", "h12", "ssh").outcome == "delivered"
    went = climb.walk("net", "198.51.100.2", "https")
    assert (went.outcome, went.receiver and str(went.receiver.address)) == ("delivered", "10.64.12.9")


def test_closed_between_its_networks() -> None:
    """Both sides must be routed to others; the way in between is named at the interface that is not."""
    climb = climbed(between_networks="closed")
    went = climb.walk("h11", "h12", "ssh")
    assert (went.layer, went.decided_by[0]) == ("rule", "/devices/0/between_networks")
    assert "a and b" in went.reason
    ports = cabin()["devices"][0]["ports"]
    opened = [p | {"routed_to_others": True} for p in ports]
    assert climbed(between_networks="closed", ports=opened).walk("h11", "h12", "ssh").outcome == "delivered"
    half = [opened[0], ports[1], opened[2]]
    went = climbed(between_networks="closed", ports=half).walk("h11", "h12", "ssh")
    assert went.decided_by[1:] == ("/devices/0/ports/1/routed_to_others",)


def test_a_box_without_a_list_answers_everything() -> None:
    """And its own column says so; with a list it answers what the list names, to whom it names."""
    climb = climbed()
    assert climb.walk("h11", "10.64.12.1", "ssh").outcome == "answered"
    assert {(c.address, c.answers) for c in own_addresses(climb.verdicts()).columns} >= {("10.64.12.1", "")}
    ports = [p | {"answers": "few"} for p in cabin()["devices"][0]["ports"]]
    few = [{"name": "few", "services": ["ping"], "sources": ["10.64.11.0/24"]}]
    climb = climbed(ports=ports, answers=few)
    assert climb.walk("h11", "10.64.12.1", "ping").outcome == "answered"
    assert climb.walk("h12", "10.64.12.1", "ping").layer == "answers"
    assert climb.walk("h11", "10.64.12.1", "ssh").decided_by == ("/devices/0/answers/0",)


@pytest.mark.parametrize(("across", "closed", "outcome"), [("rules", "closed", "stopped"), ("always", "closed", "answered"), ("never", "open", "stopped")])  # fmt: skip
def test_another_own_address(across: str, closed: str, outcome: str) -> None:
    """Asked through the box: as it says, and never by more than one word."""
    climb = climbed(answers_across=across, between_networks=closed)
    assert climb.walk("h11", "10.64.12.1", "ping").outcome == outcome
    assert climb.walk("h11", "10.64.11.1", "ping").outcome == "answered"


def test_strangers_that_can_run_a_box_are_found() -> None:
    """A router without a list answers the internet; the mend gives it one, and then nothing is found there."""

    tree = {"anabasis": 1, "name": "x", **cabin()}
    climb = Climb(parse_design(tree))
    (found,) = [f for f in climb.findings if f.code == "answers-risky"]
    assert set(found.pointers) == {"/devices/0/ports/2"}
    assert found.mend
    after = Climb(apply(tree, found.mend)[1])
    assert "answers-risky" not in [f.code for f in after.findings]
    assert after.walk("net", "198.51.100.2", "ping").outcome == "answered"


def test_renaming_an_interface_renames_it_in_translations() -> None:
    """A translation names its interfaces; removing one takes it out of the list."""

    tree = {"anabasis": 1, "name": "x", **cabin(nat=[HIDES])}
    patch = rename(tree, "/devices/0/ports/2", "street")
    assert {"op": "replace", "path": "/devices/0/nat/0/to/0", "value": "street"} in patch


def test_a_switch_with_an_access_port_is_no_router() -> None:
    """Where a switch does not route, being closed changes nothing."""
    switch = {"name": "sw", "kind": "switch", "between_networks": "closed", "ports": [access("1", 11), access("2", 11)]}
    site = design_of(vlans=plan(11), devices=[switch])
    assert Climb(site).findings is not None
