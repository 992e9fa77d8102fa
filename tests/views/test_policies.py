"""The policy as a person reads it: how much zones open to each other, what each rule decides, what it speaks of."""

from __future__ import annotations

from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.design import Loaded, apply
from anabasis.views import FirewallPolicy

RULES = "/devices/4/rules"


def policy(climb: Climb, look: str = "") -> FirewallPolicy:
    """Return the demo's one policy."""
    return climb.policies(look)[0]


def after(demo: Loaded, *patch: dict[str, Any]) -> FirewallPolicy:
    """Return it after an edit."""
    return policy(Climb(apply(demo.raw, list(patch))[1]))


@pytest.mark.parametrize(
    ("source", "target", "opens", "services"),
    [
        ("house", "house", "all", "any"),
        ("tills", "water", "none", ""),
        ("tills", "street", "some", "look-up, https"),
        ("recording", "lenses", "some", "ping, rtsp"),
        ("maker", "chiller", "some", "pump-bus, ping"),
        ("house", "lenses", "none", ""),
    ],
)
def test_how_much_zones_open(climb: Climb, source: str, target: str, opens: str, services: str) -> None:
    """Only zones of one kind meet."""
    cell = next(c for c in policy(climb).cells if (c.source, c.target) == (source, target))
    assert (cell.opens, cell.services) == (opens, services)
    assert cell.kinds_fit == (target != "lenses" or source == "recording")


def test_a_rule_that_others_take_all_from_decides_nothing(demo: Loaded) -> None:
    """And those above it are named."""
    again = {
        "name": "again",
        "from": ["house"],
        "to": ["water"],
        "sources": ["10.64.130.77"],
        "services": ["ssh"],
        "action": "drop",
    }
    found = after(demo, {"op": "add", "path": f"{RULES}/-", "value": again}).rules[-1]
    assert (found.decides, found.shadowed_by) == ("nothing", ["keepers-watch-water"])
    off = after(demo, {"op": "add", "path": f"{RULES}/-", "value": again | {"enabled": False}}).rules[-1]
    assert off.decides == "off"


def test_every_rule_of_the_sound_demo_decides_something(climb: Climb) -> None:
    """None is there for nothing."""
    assert {r.decides for r in policy(climb).rules} == {"something"}


@pytest.mark.parametrize(
    ("look", "found"),
    [
        ("10.64.110.20", {"keepers-drive-pumps", "pumps-talk-to-chillers", "guests-stay-outside"}),
        ("tcp/502", {"keepers-drive-pumps", "pumps-talk-to-chillers"}),
        ("keepers-", {"keepers-lab", "keepers-out"}),
        ("10.64.999", set()),
    ],
)
def test_rules_are_found_by_address_service_or_name(climb: Climb, look: str, found: set[str]) -> None:
    """An address inside a set counts, and so does a port inside a service set."""
    names = {r.name for r in policy(climb, look).rules if r.found}
    assert found <= names
    assert (names < {r.name for r in policy(climb).rules}) or not look


def test_translations_say_what_they_change(climb: Climb) -> None:
    """And at which step."""
    publish, hide = policy(climb).nat
    assert (publish.changes, publish.changes_destination, publish.changes_source) == (
        "destination becomes 10.64.170.10",
        True,
        False,
    )
    assert (hide.changes_destination, hide.changes_source) == (False, True)
