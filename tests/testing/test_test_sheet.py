"""The test sheet: what it expects is what the walk says, every fault that can be seen is shown, no smaller sheet does, and results come back."""

from __future__ import annotations

import copy
import json
from functools import cache
from itertools import combinations
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from anabasis.climb import Climb
from anabasis.design import apply, load_file, parse_design
from anabasis.errors import InputRefused
from anabasis.facts import AimKind, Do, Shown
from anabasis.testing import Scene, Signatures, TestSheet, as_csv, ask, read_results, scene_of, sheet_row, signatures
from anabasis.testing.cover import cover, telling
from anabasis.testing.results import allowed_for, read_seen
from anabasis.testing.sheet import sheet_of
from anabasis.testing.signatures import shown_under
from tests.counts import law
from tests.sites import Tree
from tests.sound import sound_site

DEMO = Path(__file__).parents[2] / "demo"
SMALL = 3
"""A sound site that is soon worked out."""


def plain(tree: Any) -> Any:
    """Return a document as JSON has it."""
    return json.loads(json.dumps(tree))


@cache
def worked_out() -> tuple[Scene, Signatures, TestSheet]:
    """Return a small site, what its faults show, and its sheet."""
    scene = scene_of(plain(sound_site(SMALL)))
    pool = signatures(scene, ask(scene))
    return scene, pool, sheet_of(scene, pool, 5)


@cache
def demo() -> tuple[Tree, Scene]:
    """Return the demo with laptops at all places."""
    tree = plain(load_file(DEMO / "tidewrack.yaml").raw)
    return tree, scene_of(tree)


def test_every_vlan_zone_pair_and_expectation_of_the_demo_can_be_tested() -> None:
    """From some place, with both sides of each pair of zones that has two; what is expected is what the walk says of the site itself."""
    tree, scene = demo()
    tests = ask(scene)
    aims = {(a.kind, a.name) for t in tests for a in t.aims}
    segments = [s.name for s in scene.by_hand.segments.all if s.kind == "vlan"]
    assert {n for k, n in aims if k == AimKind.VLAN} >= set(segments)
    assert {n for k, n in aims if k == AimKind.EXPECTATION} == {e["name"] for e in tree["expectations"]}
    climb = Climb(parse_design(tree))
    hosts = {d["name"] for d in tree["devices"] if d["kind"] == "endpoint"}
    compared = 0
    for test in tests:
        if (
            test.do in (Do.PING, Do.CONNECT)
            and test.at in hosts
            and (test.host in hosts or not test.host)
            and "." in test.target
        ):
            went = climb.walk(test.at, test.host or test.target, test.service)
            assert (test.expect.kind == "answer") == (went.outcome != "stopped"), test
            compared += 1
    assert compared > 20
    leases = [t for t in tests if t.do == Do.LEASE]
    assert {t.expect.network for t in leases} >= {"10.64.130.0/24", "10.64.160.0/23"}
    assert any(t.range == "10.64.130.50-10.64.130.199" for t in leases)
    assert any(t.translated == "198.51.100.2" for t in tests)
    assert any(t.rule == "gate keepers-out" for t in tests)


@pytest.mark.parametrize("seed", range(4))
def test_who_asks_for_an_address_is_asked_for_it(seed: int) -> None:
    """A client that stands in the design has a test of its own; laptops in its segment have theirs."""
    tree = plain(sound_site(seed))
    scene = scene_of(tree)
    clients = {d["name"] for d in tree["devices"] if d.get("dhcp") is True} & {s.host for s in scene.stands}
    leases = {t.at: t.expect for t in ask(scene) if t.do == Do.LEASE}
    assert clients <= set(leases)
    assert all(leases[name].kind == "address" for name in clients)
    assert clients


def test_the_sheet_shows_every_fault_that_can_be_seen() -> None:
    """A fault it leaves out no test of all shows; and what is shown under a fault is what the site with the fault shows."""
    scene, pool, sheet = worked_out()
    differs = pool.matrix != pool.sound
    chosen = [pool.tests.index(t) for t in sheet.tests]
    assert differs[:, chosen].any(axis=1).tolist() == differs.any(axis=1).tolist()
    assert [f for f, seen in zip(pool.faults, differs.any(axis=1), strict=True) if not seen] == list(sheet.unseen)
    for k in range(0, len(pool.faults), 29):
        shown = shown_under(scene, pool.faults[k], pool.tests)
        assert shown is not None
        assert [pool.number(s) for s in shown] == pool.matrix[k].tolist()
    assert len(sheet.tests) - len(sheet.telling) >= sheet.bound


def test_by_two_processes_the_same() -> None:
    """Faults in chunks, in their order."""
    scene, pool, _ = worked_out()
    both = signatures(scene, pool.tests, workers=2)
    assert both.faults == pool.faults
    assert both.matrix.tolist() == pool.matrix.tolist()


@law(300, 60)
@given(st.lists(st.lists(st.booleans(), min_size=6, max_size=6), min_size=1, max_size=7))
def test_no_smaller_choice_covers(rows: list[list[bool]]) -> None:
    """Against every smaller choice, tried one by one."""
    differs = np.array(rows)
    found = cover(differs)
    seen = differs.any(axis=1)
    assert differs[:, found.chosen].any(axis=1).tolist() == seen.tolist()
    assert found.unseen == np.flatnonzero(~seen).tolist()
    for size in range(len(found.chosen)):
        assert (
            not any((differs[:, list(c)].any(axis=1) == seen).all() for c in combinations(range(6), size))
            or not seen.any()
        )
    assert found.proved
    assert found.bound == len(found.chosen)


def test_duties_are_done() -> None:
    """A test of a group is made though no fault needs it."""
    found = cover(np.array([[True, False, False]]), [[1, 2]])
    assert 0 in found.chosen
    assert {1, 2} & set(found.chosen)
    assert cover(np.zeros((0, 3), dtype=bool)).chosen == []


@law(200, 40)
@given(st.lists(st.lists(st.integers(0, 2), min_size=5, max_size=5), min_size=1, max_size=12))
def test_telling_tests_tell_apart_what_all_do(rows: list[list[int]]) -> None:
    """Or stop where the likeliest is nearly always right."""
    values = np.array(rows, dtype=np.int32)
    made = telling(values, np.ones(len(rows)), [])
    assert len(set(made)) == len(made)
    assert len(np.unique(values[:, made], axis=0)) <= len(np.unique(values, axis=0))
    if len(np.unique(values, axis=0)) > 1:
        assert made


def test_results_come_back() -> None:
    """Written, filled in and read: what was typed in, by the place and the deed though the numbers are others; lines of nobody are told."""
    _, pool, sheet = worked_out()
    rows = [sheet_row(t) for t in sheet.tests]
    for row in rows:
        row["seen"] = row["expect"]
    text = as_csv([*rows, rows[0] | {"at": "nowhere:1"}])
    results, strange = read_results(text.replace("T1,", "T999,", 1), pool)
    assert [r.seen for r in results] == [t.expect for t in sheet.tests]
    assert strange == [str(len(rows) + 2)]
    assert read_results(as_csv([sheet_row(t) for t in sheet.tests]), pool)[0] == []


@pytest.mark.parametrize(
    ("do", "text", "kind"),
    [
        (Do.PING, "yes", "answer"), (Do.PING, "timeout", "none"), (Do.PING, "perhaps", None), (Do.LINK, "UP", "up"), (Do.LOOK, "down", "down"),
        (Do.LEASE, "none", "none"), (Do.LEASE, "10.9.9.9", "address"), (Do.LEASE, "ten", None), (Do.LOOK, "up 1", "up"),
    ],
)  # fmt: skip
def test_what_people_type(do: Do, text: str, kind: str | None) -> None:
    """Yes and no, up and down, an address; anything else is refused with what is allowed."""
    _, pool, _ = worked_out()
    test = next(t for t in pool.tests if t.do == do)
    seen = read_seen(text, test, pool.values)
    assert (seen.kind if seen is not None else None) == kind
    assert allowed_for(test)


def test_an_address_is_of_the_subnet_it_lies_in() -> None:
    """With the gateway that was handed out, or as expected where none is typed in."""
    _, pool, _ = worked_out()
    test = next(t for t in pool.tests if t.do == Do.LEASE)
    host = test.expect.network.split("/")[0].rsplit(".", 1)[0] + ".77"
    assert read_seen(host, test, pool.values) == test.expect
    assert read_seen(f"{host} via {test.expect.gateway}", test, pool.values) == test.expect
    other = read_seen(f"{host} via 10.9.9.9", test, pool.values)
    assert other is not None
    assert (other.network, other.gateway) == (test.expect.network, "10.9.9.9")
    assert read_seen("172.16.0.9", test, pool.values) == Shown("address", "172.16.0.9/32")


def test_wrong_files_are_refused() -> None:
    """With the line and what is allowed."""
    _, pool, sheet = worked_out()
    with pytest.raises(InputRefused, match="no results"):
        read_results("a,b\n1,2\n", pool)
    ping = next(t for t in sheet.tests if t.do == Do.PING)
    with pytest.raises(InputRefused, match="answer, none"):
        read_results(as_csv([sheet_row(ping, "perhaps")]), pool)


def test_an_empty_design_has_nothing_to_test() -> None:
    """No place to stand, and no error."""
    scene = scene_of({"anabasis": 1, "name": "Empty", "devices": []})
    pool = signatures(scene, ask(scene))
    assert sheet_of(scene, pool).tests == ()


def test_a_place_that_is_taken_meanwhile_is_left_alone() -> None:
    """A laptop does not push a host off its port, nor stand at one that is gone."""
    tree, scene = demo()
    stand = next(s for s in scene.stands if s.laptop and s.tag is None and ":" in s.at)
    other = copy.deepcopy(tree)
    other["devices"].append({"name": "newcomer", "kind": "endpoint", "addresses": []})
    other["cables"].append([stand.at, "newcomer:1"])
    edit = [
        {"op": "add", "path": "/devices/-", "value": other["devices"][-1]},
        {"op": "add", "path": "/cables/-", "value": other["cables"][-1]},
    ]
    assert apply(tree, edit)[0] == other
    tests = [t for t in ask(scene) if t.at == stand.at]
    assert len(scene.shows(tests, edit)) == len(tests)
