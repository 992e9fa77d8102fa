"""A design held against its site: every difference found, none besides, and the site taken over piece by piece."""

from __future__ import annotations

import copy
import json
from random import Random

import pytest

from anabasis.climb import Climb
from anabasis.design import load_file, parse_design
from anabasis.design.pointers import value_at
from anabasis.facts import Differs, Drift
from anabasis.faults import Fault
from anabasis.interchange import Seen, drift, from_objects, seen_of, site_data, take_over, to_objects
from anabasis.standin import spoil
from anabasis.wording import drift_said
from tests.counts import count
from tests.sites import Tree
from tests.sound import ACROSS, sound_site

DEMO: Tree = json.loads(json.dumps(load_file("demo/tidewrack.yaml").raw))
EMPTY: Tree = {"anabasis": 1, "name": DEMO["name"], "devices": []}


def answers(tree: Tree, by_objects: bool = False, own: bool = True) -> list[Seen]:
    """Return what the boxes of a site would answer."""
    out = []
    for name, data in site_data(Climb(parse_design(tree)), tree).items():
        held = json.loads(json.dumps(data))
        held = held if own else {k: v for k, v in held.items() if not k.startswith("anabasis-site:")}
        out.append(seen_of(from_objects(to_objects(held)) if by_objects else held, name, by_objects))
    return out


@pytest.mark.parametrize(("by_objects", "own"), [(False, True), (False, False), (True, False)])
def test_a_site_as_designed_differs_in_nothing(by_objects: bool, own: bool) -> None:
    """By either protocol, with our module and without it."""
    for seed in range(count(40, 5)):
        for tree in (sound_site(seed), sound_site(ACROSS + seed)):
            plain = json.loads(json.dumps(tree))
            assert drift(plain, answers(plain, by_objects, own)) == []
    assert drift(DEMO, answers(DEMO, by_objects, own)) == []


def speaks_of(found: Drift, fault: Fault, spoiled: Tree) -> bool:
    """Tell whether a difference is one that a fault made: its box, and an item of its edit, or what leans on that."""
    for op in fault.edit:
        at = op["path"].split("/")
        owner = value_at(spoiled, "/".join(at[:3]))
        if at[1] == "devices" and isinstance(owner, dict) and owner["name"] == found.device and at[3] in found.path:
            return True
        if at[1] == found.path[0] and not found.device:
            return True
    return False


def test_twenty_differences_are_found_and_none_besides() -> None:
    """Each of twenty faults in the demo is seen, and every difference is of one of them; the site taken over is the site."""
    for seed in range(1, count(20, 3)):
        spoiled, faults = spoil(DEMO, 20, seed)
        assert len(faults) == 20
        found = drift(DEMO, answers(spoiled))
        for fault in faults:
            assert any(speaks_of(d, fault, spoiled) for d in found), (seed, fault)
        for one in found:
            assert any(speaks_of(one, f, spoiled) for f in faults), (seed, drift_said(one))
        assert drift(take_over(DEMO, found), answers(spoiled)) == [], seed


def test_a_site_is_rebuilt_from_nothing() -> None:
    """Boxes, plan, sets, zones, rules; cables as far as neighbours tell: all but those of a hub and of the air."""
    made = take_over(EMPTY, drift(EMPTY, answers(DEMO)))
    one, two = (Climb(parse_design(t)) for t in (DEMO, made))
    assert sorted(d["name"] for d in made["devices"]) == sorted(
        d["name"] for d in DEMO["devices"] if d["kind"] != "hub"
    )
    missing = {frozenset(c) for c in DEMO["cables"]} - {frozenset(c) for c in made["cables"]}
    assert all("chiller-tap" in " ".join(c) or "hall-ap:pier" in " ".join(c) for c in missing)
    for device in DEMO["devices"]:
        other = next((d for d in made["devices"] if d["name"] == device["name"]), device)
        assert other == device
    known = {s.name for s in two.site.segments.all}
    assert {s.name for s in one.site.segments.all if s.kind == "vlan"} <= known
    for key, table in two.site.net.tables.items():
        told = [(r.to, r.hop, r.interface) for r in table.routes if r.active]
        assert told == [(r.to, r.hop, r.interface) for r in one.site.net.tables[key].routes if r.active]


def test_some_are_taken_over_and_others_are_not() -> None:
    """In any order: what is taken over differs no longer, and the rest differs as before."""
    spoiled, _ = spoil(DEMO, 12, 5)
    seen = answers(spoiled)
    found = drift(DEMO, seen)
    half = Random(7).sample(found, len(found) // 2)
    keys = {d.key for d in half if d.what != Differs.DOWN}
    left = {d.key for d in drift(take_over(DEMO, half), seen)}
    assert not keys & left
    assert {d.key for d in found} - keys - left == set()


def test_a_box_that_was_not_asked_is_told_by_its_neighbours() -> None:
    """It becomes a stub with the ports they name, of the kind it says it is; a box of the design that keeps silent is not missed."""
    seen = [b for b in answers(DEMO) if b.box != "tank-sw"]
    assert drift(DEMO, seen) == []
    lacking = copy.deepcopy(DEMO)
    lacking["devices"] = [d for d in lacking["devices"] if d["name"] != "tank-sw"]
    lacking["cables"] = [c for c in lacking["cables"] if "tank-sw:" not in " ".join(c)]
    stub = next(d for d in drift(lacking, seen) if d.what == Differs.STUB)
    assert stub.path == ("devices", "tank-sw")
    assert stub.site["kind"] == "switch"
    assert {"1", "13", "14"} <= {p["name"] for p in stub.site["ports"]}
    made = take_over(lacking, drift(lacking, seen))
    assert {frozenset(c) for c in DEMO["cables"]} - {frozenset(c) for c in made["cables"]} == set()


def test_a_port_that_is_down_without_a_reason_is_told() -> None:
    """And a cable that nobody hears any more; neither can be written down."""
    seen = answers(DEMO)
    hall = next(b for b in seen if b.box == "hall-sw")
    hall.down |= {"1"}
    hall.neighbours = tuple(n for n in hall.neighbours if n.device != "till-1")
    till = next(b for b in seen if b.box == "till-1")
    till.neighbours = ()
    found = drift(DEMO, seen)
    assert {d.what for d in found} == {Differs.DOWN, Differs.DESIGN_ONLY}
    assert {drift_said(d) for d in found} == {
        "hall-sw: hall-sw:1 is down on the site, and up by the design",
        "the cable hall-sw:4 to till-1:1 is in the design, and not there on the site",
    }


def test_rules_in_another_order_differ() -> None:
    """Nothing else of them does; taken over, they stand in the site's order."""
    moved = copy.deepcopy(DEMO)
    gate = next(d for d in moved["devices"] if d["name"] == "gate")
    gate["rules"].insert(0, gate["rules"].pop(3))
    (found,) = drift(DEMO, answers(moved))
    assert found.path == ("rules",)
    assert take_over(DEMO, [found]) == moved
