"""Events of the demo's pair: who takes over, when, what is lost, what becomes of sessions; and the laws of failures."""

from __future__ import annotations

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from anabasis.climb import Climb
from anabasis.design import Loaded, apply
from anabasis.fabric import Conditions, conditions_of
from anabasis.failover import Progress, WhatIf, breakable, drill_sheet, sweep_failures
from anabasis.failover.standing import standings
from anabasis.views import drill_view, pair_stands
from tests.counts import count

FAILOVER = "/devices/4/failover"


@pytest.fixture(scope="module")
def what_if(demo: Loaded) -> WhatIf:
    """The demo, with nothing failed."""
    return WhatIf(demo.design)


@pytest.mark.parametrize(
    ("failed", "active", "detect_ms", "sessions", "lost_meanwhile", "lost_for_good"),
    [
        ((), ("gate-a",), None, "unaffected", False, False),
        (("gate-a",), ("gate-b",), 3000, "kept", True, False),
        (("gate-a:1",), ("gate-b",), 0, "kept", True, False),
        (("gate-a:2",), ("gate-a",), None, "unaffected", False, False),
        (("gate-a:2", "gate-a:3"), ("gate-b",), 0, "kept", True, False),
        (("gate-b",), ("gate-a",), None, "unaffected", False, False),
        (("gate-a:7",), ("gate-a",), None, "unaffected", False, False),
        (("gate-a:7", "gate-b:8"), ("gate-a", "gate-b"), 3000, "lost", False, False),
        (("gate-a", "gate-b"), (), 3000, "lost", True, True),
        (("lab-sw",), ("gate-a",), None, "unaffected", True, True),
    ],
)
def test_events(
    what_if: WhatIf, demo: Loaded, failed: tuple[str, ...], active: tuple[str, ...], detect_ms: int | None,
    sessions: str, lost_meanwhile: bool, lost_for_good: bool,
) -> None:  # fmt: skip
    """Each line of the table."""
    event = what_if.event(conditions_of(demo.design, failed))
    assert event.standings[0].election.active == active
    assert (event.detect_ms, event.sessions) == (detect_ms, sessions)
    assert bool(event.moments[0].lost) == lost_meanwhile
    assert bool(event.settled.lost) == lost_for_good
    assert event.split_brain == (len(active) == 2)


def test_return_of_a_unit(demo: Loaded) -> None:
    """Without preempt gate-b stays active when gate-a is back; with preempt gate-a takes over again."""
    now = {("gate", 1): "gate-b"}
    assert WhatIf(demo.design, now).event(Conditions()).standings[0].election.active == ("gate-b",)
    eager = apply(demo.raw, [{"op": "replace", "path": f"{FAILOVER}/preempt", "value": True}])[1]
    back = WhatIf(eager, now).event(Conditions())
    assert back.standings[0].election.active == ("gate-a",)
    assert back.settled.lost == ()


def test_targets_decide_where_watched_ports_do_not(demo: Loaded) -> None:
    """With the street's router as a target and nothing watched, pulling the uplink moves the pair."""
    bare = apply(
        demo.raw,
        [
            {"op": "replace", "path": f"{FAILOVER}/watch", "value": []},
            {"op": "add", "path": f"{FAILOVER}/targets", "value": ["198.51.100.1"]},
        ],
    )[1]
    found = standings(bare, Conditions(frozenset({"gate-a:1"})))[0]
    assert found.election.active == ("gate-b",)
    assert "targets lost (198.51.100.1)" in found.election.why
    assert standings(bare, Conditions())[0].election.active == ("gate-a",)


def test_a_route_to_a_target_decides_after_an_edit_too(demo: Loaded) -> None:
    """Without the route neither unit reaches the target, so the pair goes back; nothing of the election before is kept."""
    watched = [
        {"op": "replace", "path": f"{FAILOVER}/watch", "value": []},
        {"op": "add", "path": f"{FAILOVER}/targets", "value": ["192.0.2.1"]},
    ]
    tree, bare = apply(demo.raw, watched)
    uplink = Conditions(frozenset({"gate-a:1"}))
    before = Climb(bare, uplink)
    assert before.site.conditions.active == {("gate", 1, "gate-b")}
    edited = apply(tree, [{"op": "remove", "path": "/devices/4/vrfs/0/routes/0"}], bare)[1]
    assert before.edited(edited).site.conditions.active == {("gate", 1, "gate-a")}


def test_a_pair_that_shares_its_gateways(demo: Loaded) -> None:
    """Each group has its own active unit; when one dies the other carries both, and nothing is lost for good."""
    shared = apply(
        demo.raw,
        [
            {"op": "replace", "path": f"{FAILOVER}/mode", "value": "shared"},
            {"op": "add", "path": "/devices/4/lags/0/subinterfaces/0/group", "value": 2},
        ],
    )[1]
    what_if = WhatIf(shared)
    assert what_if.before == {("gate", 1): "gate-a", ("gate", 2): "gate-b"}
    held = {j.name: j.holds for j in Climb(shared).expectations}
    assert all(held.values())
    keepers = next(i for i in Climb(shared).site.net.interfaces if i.name == "hall.130")
    assert keepers.attachment is not None
    assert keepers.attachment.box == "gate-b"
    for unit, other in (("gate-a", "gate-b"), ("gate-b", "gate-a")):
        event = what_if.event(Conditions(frozenset({unit})))
        assert {s.election.active for s in event.standings} == {(other,)}
        assert event.settled.lost == ()


@settings(max_examples=count(25, 12), suppress_health_check=[HealthCheck.function_scoped_fixture], deadline=None)
@given(st.data())
def test_laws_of_failures(demo: Loaded, what_if: WhatIf, data: st.DataObject) -> None:
    """A part of the standby unit changes no reach; more failures never bring a dead unit to life; their order is nothing."""
    parts = [n for p in breakable(demo.design) for n in (p.name, *p.alike)]
    standby = [n for n in parts if n.startswith("gate-b:") and "--" not in n and n[-2:] not in (":7", ":8")]
    one = data.draw(st.sampled_from(standby))
    assert what_if.event(Conditions(frozenset({one}))).settled.lost == ()
    few = data.draw(st.lists(st.sampled_from(parts), max_size=3, unique=True))
    more = data.draw(st.lists(st.sampled_from(parts), max_size=3, unique=True))
    fewer, all_ = (standings(demo.design, Conditions(frozenset(x)))[0] for x in (few, few + more))
    dead = {c.unit for c in fewer.claims if not c.alive}
    assert dead.isdisjoint(all_.election.active)
    assert standings(demo.design, Conditions(frozenset(more + few)))[0].election == all_.election


def test_order_matters_only_without_preempt(demo: Loaded) -> None:
    """First a's uplink, then b's: b stays, being active then; at once, a stays. With preempt both ways end with a."""
    for preempt, then in ((False, "gate-b"), (True, "gate-a")):
        design = apply(demo.raw, [{"op": "replace", "path": f"{FAILOVER}/preempt", "value": preempt}])[1]
        both = Conditions(frozenset({"gate-a:1", "gate-b:1"}))
        first = standings(design, Conditions(frozenset({"gate-a:1"})))[0].election.active[0]
        assert first == "gate-b"
        assert standings(design, both, {("gate", 1): first})[0].election.active == (then,)
        assert standings(design, both)[0].election.active == ("gate-a",)


def test_the_sweep_folds_and_sorts(demo: Loaded) -> None:
    """Every part is told once; worst first; what a sweep says of a part is what its event says; it can be stopped."""
    seen: list[Progress] = []
    found = sweep_failures(demo.design, 1, lambda p: bool(seen.append(p)) or True, workers=1)
    told = [f for s in found for f in (s.failed, *s.alike)]
    parts = [(n,) for p in breakable(demo.design) for n in (p.name, *p.alike)]
    assert sorted(told) == sorted(parts)
    assert [s.event.harm for s in found] == sorted((s.event.harm for s in found), reverse=True)
    assert seen[-1].done == seen[-1].total
    single = {s.failed for s in found if s.single_point} | {a for s in found if s.single_point for a in s.alike}
    assert ("hall-sw",) in single
    assert ("gate-a",) not in single
    stopped = sweep_failures(demo.design, 2, lambda p: False, workers=1)
    assert 0 < sum(1 + len(s.alike) for s in stopped) < len(parts)


def test_alike_parts_come_out_alike(demo: Loaded, what_if: WhatIf) -> None:
    """A cable, either of its ports: one event but for the name."""
    for part in breakable(demo.design)[9:20]:
        events = [what_if.event(Conditions(frozenset({n}))) for n in (part.name, *part.alike)]
        assert len({(e.settled.lost, e.settled.broken, e.standings[0].election.active) for e in events}) == 1


def test_side_by_side_and_the_drill(demo: Loaded) -> None:
    """The units are alike and cabled alike; the sheet pulls each in turn and says who is to be active then."""
    pair = pair_stands(demo.design)[0]
    assert (pair.unlike, pair.heartbeats) == ([], 2)
    assert all(p.alike for p in pair.ports)
    assert [u.active for u in pair.units] == [True, False]
    sheet = drill_view(drill_sheet(demo.design, "gate"))
    steps = {s.name: s for s in sheet.steps}
    assert (steps["plug"].active, steps["plug"].within_ms, steps["plug"].sessions) == (("gate-b",), 3000, "kept")
    assert steps["return"].active == ("gate-b",)
    assert steps["turn back"].active == ("gate-a",)
    assert steps["all heartbeats"].active == ("gate-a", "gate-b")
    assert all(not s.lost for s in sheet.steps)


UNITS = "/devices/4/units"


def test_units_whose_cabling_differs_refuse_each_other(demo: Loaded) -> None:
    """A heartbeat that leads elsewhere, or ports into other VLANs: whoever is active stays, and nobody takes over."""
    swapped = [
        {"op": "replace", "path": "/cables/12", "value": ["gate-a:4", "hall-sw:23"]},
        {"op": "replace", "path": "/cables/10", "value": ["gate-b:2", "tank-sw:21"]},
    ]
    nowhere = [{"op": "remove", "path": "/cables/7"}, {"op": "remove", "path": "/cables/6"}]
    for patch, words in ((swapped, "different segments"), (nowhere, "no heartbeat is cabled")):
        climb = Climb(apply(demo.raw, patch)[1])
        event = climb.failover(["gate-a"])
        assert words in event.standings[0].election.why
        assert event.standings[0].election.active == ()


def test_a_smaller_priority_may_win(demo: Loaded) -> None:
    """A setting of the pair."""
    patch = [{"op": "add", "path": "/devices/4/failover/priority_wins", "value": "smaller"}]
    assert [u.active for u in Climb(apply(demo.raw, patch)[1]).pairs[0].units] == [False, True]


def test_a_unit_has_an_address_of_its_own(demo: Loaded) -> None:
    """It is asked as the box is, by the answers of the interface in its subnet; while its unit lives."""
    patch = [{"op": "add", "path": f"{UNITS}/{k}/address", "value": f"10.64.130.{k + 2}/24"} for k in range(2)]
    design = apply(demo.raw, patch)[1]
    climb = Climb(design)
    for k in (2, 3):
        assert climb.walk("desk-7", f"10.64.130.{k}", "ssh").outcome == "answered"
    assert climb.walk("till-1", "10.64.130.2", "ssh").outcome == "stopped"
    assert climb.findings == []
    down = Climb(design, conditions_of(design, ["gate-b"]))
    assert down.walk("desk-7", "10.64.130.2", "ssh").outcome == "answered"
    assert down.walk("desk-7", "10.64.130.3", "ssh").outcome == "stopped"


def test_a_target_is_pinged_from_an_address_of_its_own_family(demo: Loaded) -> None:
    """A unit that has no IPv6 address where its route to an IPv6 target leaves does not reach the target, however good the route."""
    bare = apply(
        demo.raw,
        [
            {"op": "replace", "path": f"{FAILOVER}/watch", "value": []},
            {"op": "add", "path": f"{FAILOVER}/targets", "value": ["2001:db8:5::1"]},
            {"op": "add", "path": "/devices/4/vrfs/0/routes/-", "value": {"to": "2001:db8:5::/64", "interface": "6"}},
        ],
    )[1]
    found = standings(bare, Conditions())[0]
    assert found.election.active
    assert all(c.targets_lost == ("2001:db8:5::1",) for c in found.claims)
