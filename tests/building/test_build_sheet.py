"""The build sheet: its steps as edits give the draft, back they give the start, and nobody is cut off who is not told of."""

from __future__ import annotations

import copy
import json
from itertools import permutations
from pathlib import Path
from random import Random
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anabasis.building import BuildSheet, build_sheet, outage_rows, sheet_rows
from anabasis.building.changes import changes_between, made
from anabasis.climb import Climb
from anabasis.design import apply, load_file, parse_design
from anabasis.design.edits import patched
from anabasis.facts import ON_PAPER, Subject, WayBack
from anabasis.faults import faults_of
from anabasis.probe import managed
from anabasis.verdicts import lost_pairs
from tests.counts import count, law
from tests.sites import Tree, access, sites, switch, trunk
from tests.sound import ACROSS, sound_site
from tests.sound_fabrics import FABRICS, sound_fabric

DEMO = Path(__file__).parents[2] / "demo"
EMPTY: Tree = {"anabasis": 1, "name": "Empty", "devices": []}


def plain(tree: Any) -> Any:
    """Return a document as JSON has it."""
    return json.loads(json.dumps(tree))


def demo(name: str) -> Tree:
    """Return a demo."""
    return plain(load_file(DEMO / f"{name}.yaml").raw)  # type: ignore[no-any-return]


def some_site(rng: Random) -> Tree:
    """Return a sound site of any feature."""
    n = rng.randrange(400)
    return plain(rng.choice([sound_site, lambda k: sound_site(ACROSS + k), lambda k: sound_fabric(FABRICS + k)])(n))  # type: ignore[no-any-return]


def some_pair(seed: int) -> tuple[Tree, Tree]:
    """Return two states of a site: with a few mistakes and without, either way round; one in eight has nothing in common."""
    rng = Random(seed)
    one = some_site(rng)
    if rng.random() < 0.12:
        return one, some_site(rng) if rng.random() < 0.7 else EMPTY
    two = copy.deepcopy(one)
    for _ in range(rng.randint(1, 4)):
        faults = list(faults_of(two))
        two = apply(two, rng.choice(faults).edit)[0] if faults else two
    hosts = [d["name"] for d in one["devices"] if d["kind"] == "endpoint"]
    plans = [v["name"] for v in one.get("vlans", [])]
    operator = rng.choice([*hosts, *plans]) if hosts or plans else None
    for tree in (one, two):
        if operator is not None:
            tree["operator"] = operator
    return (one, plain(two)) if rng.random() < 0.5 else (plain(two), one)


def check_sheet(one: Tree, two: Tree, sheet: BuildSheet) -> None:
    """Its steps lead there and back; after each the operator reaches every box still to change, unless the step says otherwise."""
    states = [one]
    for step in sheet.steps:
        states.append(apply(states[-1], step.edit)[0])
    assert states[-1] == two
    for step, before, after in zip(sheet.steps, states, states[1:], strict=False):
        assert patched(after, step.undo) == before
    if not (sheet.live and sheet.operator):
        return
    reached = [managed(Climb(parse_design(t)).site) for t in states]
    for k, step in enumerate(sheet.steps):
        still = {s.device for s in sheet.steps[k + 1 :] if s.subject not in (*ON_PAPER, Subject.SAVE)}
        missed = (reached[k].reached - reached[k + 1].reached) & still
        if step.subject not in ON_PAPER:
            assert missed <= set(step.cuts) | {""}, step


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(count(500, 14)))
def test_its_steps_give_the_draft_and_back_the_start(seed: int) -> None:
    """On generated pairs of designs."""
    one, two = some_pair(seed)
    check_sheet(one, two, build_sheet(one, two, "boxes" if seed % 3 else "layers"))


@law(400, 25)
@given(sites(), sites(), st.randoms())
def test_changes_may_be_made_in_any_order(one: Tree, two: Tree, rng: Random) -> None:
    """Those of one thing in theirs, and what stands in something after it."""
    one, two = plain(one), plain(two)
    due: dict[tuple[str, ...], float] = {}
    ranked = []
    for k, change in enumerate(changes_between(one, two)):
        above = [o.path[:n] for o in change.ops for n in range(1, len(o.path) + 1)]
        at = max([rng.random(), *(due[p] + 1e-9 for p in above if p in due)])
        due |= {o.path: at for o in change.ops}
        ranked.append((at, k, change))
    tree = one
    for _, _, change in sorted(ranked, key=lambda r: r[:2]):
        tree = made(tree, change)
    assert tree == two


@pytest.mark.parametrize(("one", "two"), list(permutations(["tidewrack", "tidewrack-first-day"], 2)))
def test_between_the_demos(one: str, two: str) -> None:
    """Both ways, with the operator among the keepers."""
    a, b = demo(one), demo(two)
    sheet = build_sheet(a, b)
    check_sheet(a, b, sheet)
    assert sheet.operator
    assert [s.number for s in sheet.steps] == list(range(1, len(sheet.steps) + 1))
    assert {s.device for s in sheet.steps if s.subject == Subject.SAVE} >= {"gate", "tank-sw"}


def test_from_nothing() -> None:
    """Each thing after what it stands on, and nobody loses what is not there yet."""
    tree = demo("tidewrack")
    sheet = build_sheet(EMPTY, tree)
    check_sheet(EMPTY, tree, sheet)
    assert not sheet.live
    assert sheet.outages == ()
    gate = [s.subject for s in sheet.steps if s.device == "gate"]
    order = [
        Subject.BUNDLE,
        Subject.ZONE,
        Subject.INTERFACE,
        Subject.ROUTE,
        Subject.RULE,
        Subject.TRANSLATION,
        Subject.LEASE,
        Subject.SAVE,
    ]
    places = [gate.index(s) for s in order]
    assert places == sorted(places)
    rows = sheet_rows(sheet, "hall-sw")
    assert {r["device"] for r in rows} == {"hall-sw"}
    assert any("access port of VLAN" in r["do"] for r in rows)
    assert any(r["wait_s"] == 30 for r in rows)


def test_nothing_to_change_is_no_step() -> None:
    """And no sum."""
    tree = demo("tidewrack")
    sheet = build_sheet(tree, tree)
    assert (sheet.steps, sheet.outages, sheet.seconds) == ((), (), 0)


def chain(native: int) -> Tree:
    """Two switches in a row, run from a desk on the near one, by VLAN 10 that leaves without a tag between them where `native` is 10."""
    between = (
        trunk("2", 10, 20)
        if native == 20
        else {"name": "2", "mode": "bridged", "pvid": 10, "untagged": [10], "tagged": [20]}
    )
    near = switch("near", access("1", 10), between)
    far = switch("far", between | {"name": "1"}, access("2", 20))
    for k, box in enumerate((near, far), 1):
        box["vlan_interfaces"] = [{"vlan": 10, "addresses": [f"10.64.10.{k}/24"]}]
    return {
        "anabasis": 1,
        "name": "Row",
        "operator": "desk",
        "vlans": [{"id": 10, "name": "run", "subnets": ["10.64.10.0/24"]}, {"id": 20, "name": "work"}],
        "devices": [near, far, {"name": "desk", "kind": "endpoint", "addresses": ["10.64.10.9/24"], "gateway": "none"}],
        "cables": [["near:2", "far:1"], ["near:1", "desk:1"]],
    }


def test_the_far_end_comes_first() -> None:
    """Where both ends of the way change, the box behind it is changed while it is reached; nothing is left to do there when it is cut off."""
    one, two = chain(10), chain(20)
    sheet = build_sheet(one, two)
    check_sheet(one, two, sheet)
    assert [s.device for s in sheet.steps if s.subject == Subject.MEMBERSHIP] == ["far", "near"]
    assert not [s for s in sheet.steps if s.cuts]


def test_where_no_order_keeps_the_way_it_is_told() -> None:
    """All of it goes over to another VLAN, the operator's own port too: whatever is changed first at the near box, it is out of reach."""
    one = chain(20)
    two = copy.deepcopy(one)
    for device in two["devices"][:2]:
        device["vlan_interfaces"][0]["vlan"] = 20
    two["devices"][0]["ports"][0] = access("1", 20)
    two["vlans"] = [{"id": 10, "name": "run"}, {"id": 20, "name": "work", "subnets": ["10.64.10.0/24"]}]
    sheet = build_sheet(one, two)
    check_sheet(one, two, sheet)
    (cutting,) = [s for s in sheet.steps if s.cuts]
    assert (cutting.device, cutting.cuts, cutting.back) == ("near", ("near",), WayBack.TIMED)
    far = [s.number for s in sheet.steps if s.device == "far" and s.subject != Subject.SAVE]
    assert max(far) < cutting.number, "what lies behind it is done before"


def test_an_address_is_given_up_before_another_box_has_it() -> None:
    """The gateway of a VLAN that moves: never two at once, and the time without one is told."""
    one = chain(10)
    one["devices"][2]["gateway"] = "10.64.10.1"
    one["devices"][0]["routing"] = one["devices"][1]["routing"] = True
    for box, net in ((one["devices"][0], 30), (one["devices"][1], 20)):
        box["vlan_interfaces"].append({"vlan": net, "addresses": [f"10.64.{net}.1/24"]})
    one["vlans"][1]["subnets"] = ["10.64.20.0/24"]
    one["vlans"].append({"id": 30, "name": "store", "subnets": ["10.64.30.0/24"]})
    one["devices"][0]["ports"].append(access("3", 30))
    one["devices"][0]["vrfs"] = [{"name": "main", "routes": [{"to": "10.64.20.0/24", "via": "10.64.10.2"}]}]
    one["devices"][1]["vrfs"] = [{"name": "main", "routes": [{"to": "10.64.30.0/24", "via": "10.64.10.1"}]}]
    two = copy.deepcopy(one)
    near, far = two["devices"][:2]
    near["vlan_interfaces"][0]["addresses"], far["vlan_interfaces"][0]["addresses"] = (
        ["10.64.10.2/24"],
        ["10.64.10.1/24"],
    )
    near["vrfs"][0]["routes"][0]["via"], far["vrfs"][0]["routes"][0]["via"] = "10.64.10.1", "10.64.10.2"
    sheet = build_sheet(one, two)
    check_sheet(one, two, sheet)
    measured = [Climb(parse_design(one))]
    tree = one
    for step in sheet.steps:
        tree = apply(tree, step.edit)[0]
        measured.append(Climb(parse_design(tree)))
    lost = {(a, b) for c in measured for a, b, _ in lost_pairs(measured[0].sweep, c.sweep)}
    assert {(o.source, o.target) for o in sheet.outages} == lost - {
        (a, b) for a, b, _ in lost_pairs(measured[0].sweep, measured[-1].sweep)
    }
    assert all(r["seconds"] > 0 for r in outage_rows(sheet))


def test_a_cable_that_moves_is_one_step() -> None:
    """A port holds one cable."""
    one = chain(10)
    one["devices"][0]["ports"].append(access("9", 10))
    two = copy.deepcopy(one)
    two["cables"][1] = ["near:9", "desk:1"]
    sheet = build_sheet(one, two)
    check_sheet(one, two, sheet)
    (moved,) = [s for s in sheet.steps if s.subject == Subject.CABLE]
    assert moved.sign == "change"
    assert len(moved.lines) == 2
