"""Verdicts, the matrix, the profile and the consequences of the demo."""

from __future__ import annotations

import itertools

from anabasis.climb import Climb
from anabasis.design import Loaded, apply, set_membership
from anabasis.verdicts import ask
from anabasis.views import matrix, pair_view

RULE = "/devices/4/rules/2"


def test_verdicts(climb: Climb) -> None:
    """All inside a zone, some by rules, none by default; every verdict but `all` names a layer and an item."""
    found = {(v.source, v.target): v for v in climb.verdicts().all}
    assert found["life-support", "tank-sensors"].verdict == "all"
    assert found["keepers", "life-support"].verdict == "some"
    assert found["visitors", "life-support"].decided_by == ("/devices/4/rules/0",)
    for verdict in found.values():
        assert (verdict.verdict == "all") == (verdict.layer is None)
        assert verdict.decided_by, verdict
    assert len(found) == len(climb.site.segments.all) * (len(climb.site.segments.all) - 1)


def test_a_question_narrows(climb: Climb) -> None:
    """Of one service and one family, `some` becomes `all` or `none`."""
    a, b = climb.segment("keepers"), climb.segment("life-support")
    for service, family, verdict in (
        ("https", None, "all"),
        ("pump-bus", 4, "some"),
        ("pump-bus", 6, "none"),
        ("rtsp", None, "none"),
    ):
        assert climb.verdicts(ask(climb.site, service, family)).judge(a, b).verdict == verdict


def test_flows_are_exact_and_written_twice(climb: Climb) -> None:
    """For scripts as prefixes and services, for people by name."""
    a, b = climb.segment("tank-sensors"), climb.segment("lab")
    assert climb.verdicts().written(a, b) == [
        {"sources": ["10.64.120.0/24"], "destinations": ["10.64.170.10"], "services": ["tcp/1883", "udp/5683"]}
    ]
    assert pair_view(climb.verdicts(), a, b).flows[0]["services"] == "probe-feed"


def test_the_matrix_tells_policy_from_breakage(demo: Loaded, climb: Climb) -> None:
    """Sound: nothing is broken. With the uplink's tag gone: layer vlan, in the row of the island."""
    sound = matrix(climb.verdicts())
    assert {c.tone for row in sound.cells for c in row if c} == {"open", "closed", "apart"}
    broken = Climb(apply(demo.raw, set_membership(demo.raw, "tank-sw", "across", 130, "none"))[1])
    found = matrix(broken.verdicts())
    names = [s.name for s in found.segments]
    row = found.cells[names.index("keepers@tank-sw")]
    assert {c.layer for c in row if c and c.tone == "broken"} == {"vlan"}


def test_the_matrix_is_grouped_by_zone_and_folds_transits(climb: Climb) -> None:
    """Each zone is one run; transit segments come only when asked for."""
    found = matrix(climb.verdicts())
    zones = [s.zone for s in found.segments]
    assert len({*zones}) == 1 + sum(a != b for a, b in itertools.pairwise(zones))
    assert {s.name: s.zone for s in found.segments}["lab"] == "chemistry"
    assert not any(s.kind == "transit" for s in found.segments)
    assert any(s.kind == "transit" for s in matrix(climb.verdicts(), transits=True).segments)


def test_the_profile_climbs_from_cable_to_rule(climb: Climb) -> None:
    """One that passes goes all the way up and comes back; one that stops ends at its layer."""
    a, b = climb.segment("keepers"), climb.segment("life-support")
    passes, stops = pair_view(climb.verdicts(), a, b, passing=True), pair_view(climb.verdicts(), a, b)
    assert passes.there is not None
    assert passes.back is not None
    assert {p.level for p in passes.there.points} == set(range(len(passes.levels)))
    assert stops.there is not None
    assert [p.stopped for p in stops.there.points].index(True) == len(stops.there.points) - 1
    assert stops.back is None


def test_switching_a_rule_off_closes_what_it_opened(demo: Loaded, climb: Climb) -> None:
    """Exactly the pairs the rule spoke of, with its services; and its inverse opens them again."""
    off = Climb(apply(demo.raw, [{"op": "add", "path": f"{RULE}/enabled", "value": False}])[1])
    there, back = off.consequences_since(climb), climb.consequences_since(off)
    targets = ("life-support", "tank-sensors", "life-support@chiller-1")
    assert {(c.source, c.target) for c in there.closed} == {("keepers", t) for t in targets}
    assert not there.opened
    assert {(c.source, c.target) for c in back.opened} == {(c.source, c.target) for c in there.closed}
    assert there.closed[0].lost[0]["services"] == "ping, https, ssh"
