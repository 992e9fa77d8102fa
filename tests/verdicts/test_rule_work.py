"""What each rule really does, against a plain reading: packet by packet, first match first."""

from __future__ import annotations

from itertools import product
from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.verdicts import RuleWork, works_of
from tests.sites import Tree, design_of

HOSTS = ("10.64.1.9", "10.64.2.9")


def climb_with(*rules: Tree, **more: Any) -> Climb:
    """Return a firewall between two links with a host on each."""
    ports = [
        {"name": str(n), "mode": "routed", "zone": z, "addresses": [f"10.64.{n}.1/24"]}
        for n, z in ((1, "in"), (2, "out"))
    ]
    zones = [{"name": "in"}, {"name": "out"}]
    named = [{"name": f"r{i}", "from": ["in"], "to": ["out"], **r} for i, r in enumerate(rules)]
    fence = {"name": "fw", "kind": "firewall", "zones": zones, "ports": ports, "rules": named, **more}
    ends = [{"name": f"h{n}", "kind": "endpoint", "addresses": [f"10.64.{n}.9/24"]} for n in (1, 2)]
    return Climb(design_of(devices=[fence, *ends], cables=[["fw:1", "h1:1"], ["fw:2", "h2:1"]]))


def work(*rules: Tree, **more: Any) -> list[RuleWork]:
    """Return what each rule does."""
    climb = climb_with(*rules, **more)
    policy = climb.site.policies.of["fw"]
    done = works_of(climb.sweep, climb.memo, climb.design.devices[0].name)
    return [done[r.pointer] for r in policy.rules]


WEB = {"services": ["tcp/80", "tcp/443"], "action": "permit"}


@pytest.mark.parametrize(
    ("rules", "words"),
    [
        ([WEB], ["something"]),
        ([WEB, {"services": ["tcp/80"], "action": "drop"}], ["something", "nothing"]),
        ([{"services": ["tcp/80"], "action": "drop"}, WEB], ["something", "something"]),
        ([{"services": ["tcp/80"], "action": "permit"}, WEB], ["redundant", "something"]),
        ([WEB, {"services": ["udp/53"], "action": "drop"}], ["something", "redundant"]),  # the default drops as well
        (
            [
                {"sources": ["10.64.1.0/25"], **WEB},
                {"sources": ["10.64.1.128/25"], **WEB},
                {"sources": ["10.64.1.0/24"], **WEB},
            ],
            ["redundant", "redundant", "nothing"],  # each could go by itself, for the third would do it
        ),
        ([{"sources": ["192.0.2.0/24"], **WEB}], ["nothing"]),  # nobody is there
    ],
)
def test_words(rules: list[Tree], words: list[str]) -> None:
    """Shadowed by one or by several together, redundant before a wider one, redundant with the default."""
    assert [w.word for w in work(*rules)] == words


def test_who_is_in_front_and_who_would_decide_instead() -> None:
    """By name; the opposite action told apart."""
    first, second = work({"services": ["tcp/80"], "action": "drop"}, WEB)
    assert (second.taken_by, second.opposed_by) == ({"r0"}, {"r0"})
    assert first.instead == {"r1"}
    third = work({"services": ["tcp/80"], "action": "permit"}, WEB)[1]
    assert (third.taken_by, third.opposed_by) == ({"r0"}, set())


def test_a_rule_nothing_comes_by_is_never_met() -> None:
    """The route that would bring it is missing: a discard stands in its way."""
    away = {"vrfs": [{"name": "main", "routes": [{"to": "10.64.2.128/25", "discard": True}]}]}
    met, unmet = work({"destinations": ["10.64.2.0/25"], **WEB}, {"destinations": ["10.64.2.128/25"], **WEB}, **away)
    assert (met.word, unmet.word) == ("something", "unmet")


def test_against_packets() -> None:
    """For every combination of three small rules: a rule decides something exactly where some packet meets it first."""
    choices: list[Tree] = [
        {"services": ["tcp/80"], "action": "permit"},
        {"services": ["tcp/80", "tcp/443"], "action": "drop"},
        {"sources": ["10.64.1.9"], "action": "permit"},
        {"destinations": ["10.64.2.0/28"], "services": ["tcp/443"], "action": "permit"},
    ]
    sources = ("10.64.1.9", "10.64.1.200")
    packets = list(product(sources, ("10.64.2.9", "10.64.2.99"), ("tcp/80", "tcp/443", "udp/53")))
    for rules in product(choices, repeat=3):
        climb = climb_with(*rules)
        firsts = set()
        for source, target, service in packets:
            went = climb.walk(source, target, service)
            firsts |= {int(p.split("/")[-1]) for p in went.decided_by if "/rules/" in p}
        assert [w.decides for w in work(*rules)] == [k in firsts for k in range(3)]
