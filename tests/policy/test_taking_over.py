"""Policies beside those of the state before: what is read again is what was edited, and nothing else."""

from __future__ import annotations

from typing import Any

import pytest

from anabasis.design import Loaded, apply
from anabasis.policy import Policy, build_policies

RULES = "/devices/4/rules"
GATE = "gate"


def beside(demo: Loaded, patch: list[dict[str, Any]]) -> tuple[Policy, Policy, Policy]:
    """Return the policy of gate before an edit, after it beside the one before, and after it from nothing."""
    before = build_policies(demo.design)
    edited = apply(demo.raw, patch, demo.design)[1]
    over, anew = build_policies(edited, (demo.design, before)), build_policies(edited)
    return before.of[GATE], over.of[GATE], anew.of[GATE]


@pytest.mark.parametrize(
    ("patch", "kept"),
    [
        ([{"op": "replace", "path": f"{RULES}/2/services", "value": ["ping"]}], 14),
        ([{"op": "add", "path": f"{RULES}/2/enabled", "value": False}], 14),
        ([{"op": "remove", "path": f"{RULES}/0"}], 0),  # all behind it stand elsewhere now
        ([{"op": "remove", "path": f"{RULES}/14"}], 14),
        ([{"op": "move", "from": f"{RULES}/3", "path": f"{RULES}/2"}], 13),
        ([{"op": "replace", "path": "/services/0/members", "value": ["tcp/9"]}], 0),  # words may mean something else
        ([{"op": "add", "path": "/devices/4/same_zone", "value": "drop"}], 15),
    ],
)
def test_only_lines_that_stay_are_taken_over(demo: Loaded, patch: list[dict[str, Any]], kept: int) -> None:
    """The same lines as from nothing, and as many of them the very ones of before as stayed where they were."""
    before, over, anew = beside(demo, patch)
    assert over == anew
    assert len(before.rules) == 15
    assert sum(any(line is old for old in before.rules) for line in over.rules) == kept


def test_an_edit_elsewhere_leaves_the_policy_whole(demo: Loaded) -> None:
    """Of a firewall that is the same; not where it stands at another place of the document."""
    before, over, _ = beside(demo, [{"op": "replace", "path": "/vlans/2/note", "value": "x"}])
    assert over is before
    before, over, anew = beside(demo, [{"op": "move", "from": "/devices/15", "path": "/devices/0"}])
    assert over is not before
    assert over == anew
    assert over.pointer == "/devices/5"


def test_what_zone_pairs_were_asked_is_not_kept(demo: Loaded) -> None:
    """A taken-over line in an edited policy is found by the zones of the edited rules."""
    design = build_policies(demo.design)
    asked = [r.name for r in design.of[GATE].lines("house", "water")]
    edited = apply(demo.raw, [{"op": "replace", "path": f"{RULES}/2/to", "value": ["eyes"]}], demo.design)[1]
    over = build_policies(edited, (demo.design, design)).of[GATE]
    assert [r.name for r in over.lines("house", "water")] == [n for n in asked if n != "keepers-watch-water"]
