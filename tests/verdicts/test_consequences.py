"""Consequences of the edits people make at night: what opened, what closed, what fell apart, what grew together."""

from __future__ import annotations

from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.design import Loaded, apply, set_membership
from anabasis.verdicts import Consequences

GATE, HALL, TANK = "/devices/4", "/devices/5", "/devices/6"


def after(demo: Loaded, climb: Climb, *patch: dict[str, Any]) -> Consequences:
    """Return what an edit of the demo changes."""
    return Climb(apply(demo.raw, list(patch))[1]).consequences_since(climb)


def pairs(consequences: Consequences, kind: str) -> set[tuple[str, str]]:
    """Return the pairs of a kind, transits aside."""
    return {(c.source, c.target) for c in getattr(consequences, kind) if not c.folded}


def put(path: str, value: Any, op: str = "add") -> dict[str, Any]:
    """Return one operation."""
    return {"op": op, "path": path, "value": value}


@pytest.mark.parametrize(
    "patch",
    [
        put("/vlans/0/note", "renamed by nobody"),
        put(f"{GATE}/rules/0/name", "guests-keep-out", "replace"),
        put(f"{HALL}/ports/4/note", "Till 2"),
        put("/services/-", {"name": "spare", "members": ["tcp/9"]}),
    ],
)
def test_words_change_nothing(demo: Loaded, climb: Climb, patch: dict[str, Any]) -> None:
    """Notes, names and unused sets have no consequences."""
    assert not after(demo, climb, patch)


def test_a_narrower_rule_closes_exactly_what_it_gives_up(demo: Loaded, climb: Climb) -> None:
    """The keepers lose ssh into the water, and keep the rest."""
    found = after(demo, climb, put(f"{GATE}/rules/2/services", ["ping", "https"], "replace"))
    assert not found.opened
    assert {t for _, t in pairs(found, "closed")} == {
        "life-support",
        "tank-sensors",
    }  # the pair in front of the chiller lets no ssh through anyway
    assert {f["services"] for c in found.closed for f in c.lost} == {"ssh"}


def test_a_rule_moved_in_front_of_the_guard_opens_the_house(demo: Loaded, climb: Climb) -> None:
    """Order matters: visitors allowed out to anywhere, above the rule that keeps them outside."""
    rule = {"name": "oops", "from": ["guests"], "to": ["any"], "services": ["https"], "action": "permit"}
    found = after(demo, climb, put(f"{GATE}/rules/0", rule))
    assert ("visitors", "life-support") in pairs(found, "opened")
    assert not found.closed
    below = after(demo, climb, put(f"{GATE}/rules/1", rule))
    assert ("visitors", "life-support") not in pairs(below, "opened")


def test_a_native_vlan_that_leaks_joins_two_segments(demo: Loaded, climb: Climb) -> None:
    """Untagged on both ends of the uplink, in different VLANs: one segment out of two, and that is said."""
    patch = [
        put(f"{HALL}/lags/0/pvid", 140),
        put(f"{HALL}/lags/0/untagged", [140]),
        put(f"{TANK}/lags/0/pvid", 120),
        put(f"{TANK}/lags/0/untagged", [120]),
    ]
    found = after(demo, climb, *patch)
    assert [set(j.parts) for j in found.joined] == [{"tank-sensors", "box-office"}]
    inside = [c for c in found.opened if {c.source, c.target} == {"tank-sensors", "box-office"}]
    assert inside
    assert all(c.now is None and "inside one segment" in str(c.gained) for c in inside)


def test_a_route_taken_away_closes_what_went_by_it(demo: Loaded, climb: Climb) -> None:
    """Without its default route the firewall loses the internet for everyone; the lab, which has learnt it from there, its way back and out."""
    found = after(demo, climb, {"op": "remove", "path": f"{GATE}/vrfs/0/routes/0"})
    away = {*pairs(found, "closed"), *pairs(found, "changed")}
    assert {t for s, t in away if not _is_transit(climb, t) and "lab" not in (s, t)} == {"internet"}
    assert {s for s, t in away if t == "lab"} >= {"internet", "keepers"}
    assert not pairs(found, "opened")


def _is_transit(climb: Climb, name: str) -> bool:
    return climb.site.segments.all[climb.segment(name)].kind == "transit"


def test_a_port_that_changes_sides(demo: Loaded, climb: Climb) -> None:
    """A probe's port put into the life-support VLAN: part of one segment is now the other."""
    patch = set_membership(demo.raw, "tank-sw", "3", 110, "untagged")
    found = after(demo, climb, *patch)
    assert [(r.whole, set(r.parts)) for r in found.split] == [("tank-sensors", {"tank-sensors", "life-support"})]
