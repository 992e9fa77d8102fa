"""Depth of defence: how many things must go wrong before something passes that must not."""

from __future__ import annotations

import json
from random import Random
from typing import Any

import pytest

from anabasis.campaign import Defence, Opened, Progress
from anabasis.campaign.cases import Case, fault_named
from anabasis.campaign.defence import Guard, pair_cases, single_cases
from anabasis.climb import Climb
from anabasis.design import parse_design
from anabasis.design.together import together
from anabasis.errors import InputRefused
from anabasis.fabric import conditions_of
from tests.counts import count
from tests.sound import sound_site


def fort(walls: int) -> Any:
    """Return a site whose cellar is kept from the yard by so many firewalls in a row, none of which permits anything; 0 = by a router that keeps nobody."""
    last = max(walls, 1)
    devices: list[Any] = []
    for k in range(last):
        inward, outward = f"10.1.{20 if k == last - 1 else 100 + k}", f"10.1.{10 if k == 0 else 99 + k}"
        ports: list[Any] = [
            {"name": "1", "mode": "routed", "addresses": [f"{outward}.{1 if k == 0 else 2}/24"]},
            {"name": "2", "mode": "routed", "addresses": [f"{inward}.1/24"]},
        ]
        routes = [{"to": "10.1.10.0/24", "via": f"{outward}.1"}] if k else []
        routes += [{"to": "10.1.20.0/24", "via": f"{inward}.2"}] if k < last - 1 else []
        box: Any = {
            "name": f"wall-{k}",
            "kind": "firewall" if walls else "router",
            "ports": ports,
            "vrfs": [{"name": "main", "routes": routes}],
        }
        if walls:
            box["zones"] = [{"name": "out", "kind": "routed"}, {"name": "in", "kind": "routed"}]
            ports[0]["zone"], ports[1]["zone"] = "out", "in"
        devices.append(box)
    return {
        "anabasis": 1,
        "name": "Fort",
        "devices": [
            *devices,
            {"name": "guest", "kind": "endpoint", "addresses": ["10.1.10.7/24"], "gateway": "10.1.10.1"},
            {"name": "cask", "kind": "endpoint", "addresses": ["10.1.20.7/24"], "gateway": "10.1.20.1"},
        ],
        "cables": [
            ["guest:1", "wall-0:1"],
            *([f"wall-{k}:2", f"wall-{k + 1}:1"] for k in range(last - 1)),
            ["cask:1", f"wall-{last - 1}:2"],
        ],
        "expectations": [
            {"name": "no way down", "from": "10.1.10.7", "to": "10.1.20.7", "expect": "closed"},
        ],
    }


def hermitage() -> Any:
    """Return a site in which no two mistakes lead the guest to the hermit: no box routes to him. Small, so that all pairs are tried in seconds."""
    tree = fort(0)
    tree["devices"] += [
        {"name": "hermit", "kind": "endpoint", "addresses": ["10.1.30.7/24"]},
        {"name": "raven", "kind": "endpoint", "addresses": ["10.1.30.8/24"]},
    ]
    tree["cables"].append(["hermit:1", "raven:1"])
    tree["expectations"] = [{"name": "left alone", "from": "10.1.10.7", "to": "10.1.30.7", "expect": "closed"}]
    return tree


def searched(tree: Any, **options: Any) -> Defence:
    """Return a search that has ended."""
    search = Defence("fort", tree)
    for _ in search.run(**options):
        pass
    return search


@pytest.mark.slow
@pytest.mark.parametrize("depth", [0, 1, 2])
def test_each_box_is_a_wall(depth: int) -> None:
    """As deep as there are firewalls in the way; ways in are named, and lead in."""
    (found,) = searched(fort(depth)).depths
    assert (found.expectation, found.depth, found.exact) == ("no way down", depth, True)
    if depth in (1, 2):
        assert found.ways
        for way in found.ways:
            assert len(way.failed) + len(way.faults) == depth
            edits = [fault_named(fort(depth), f).edit for f in way.faults]
            spoilt = parse_design(together(fort(depth), edits))
            assert any(j.opened for j in Climb(spoilt, conditions_of(spoilt, way.failed)).expectations)


def test_what_is_not_tried_yet_is_told_of_as_at_least() -> None:
    """Singles alone: at least two, and nobody says exactly."""
    (found,) = searched(hermitage(), pairs=False).depths
    assert (found.depth, found.exact, found.ways) == (2, False, ())


def test_too_many_pairs_are_not_begun(monkeypatch: pytest.MonkeyPatch) -> None:
    """None of them proves anything; what is known from single cases is told as such."""
    monkeypatch.setattr("anabasis.campaign.defence.MOST_PAIRS", 10)
    search = searched(hermitage())
    assert (search.pairs, search.exhausted, search.done == search.total) == (None, False, True)
    assert [(d.depth, d.exact) for d in search.depths] == [(2, False)]


def test_an_end_that_is_gone_is_no_way_in() -> None:
    """A failure that leaves nobody to reach opens nothing."""
    tree = fort(1)
    tree["expectations"].append({"name": "by prefix", "from": "10.1.10.0/24", "to": "10.1.20.0/24", "expect": "closed"})
    guard = Guard(tree)
    for case in single_cases("fort", tree):
        row = guard.judge(case)
        assert not (row.failed and row.opened), row


def test_a_search_goes_on_where_it_was() -> None:
    """Stopped among the single cases, and among the pairs: what is kept and how many pairs were behind are enough; nothing is tried twice."""
    tree = hermitage()
    whole = searched(tree)
    seen: list[Opened] = []
    search, tried = Defence("fort", tree), 0
    for stop in (7, 40, 90):
        had: list[int] = []

        def tell(progress: Progress, had: list[int] = had, stop: int = stop) -> bool:
            had.append(progress.done)
            return len(had) < stop

        rows = list(search.run(tell=tell))
        assert len(rows) == stop
        assert not {r.case.key for r in rows} & {r.case.key for r in seen}
        seen += rows
        tried = search.tried
        search = Defence("fort", tree, [r for r in seen if r.case.size == 1 or r.opened], tried)
    assert tried > 0
    rest = list(search.run())
    assert [(d.depth, d.exact, d.ways) for d in search.depths] == [(3, True, ())]
    assert search.depths == whole.depths
    assert search.done == whole.done == whole.total
    assert len(seen) + len(rest) == whole.done


@pytest.mark.slow
def test_two_workers_find_the_same() -> None:
    """In processes of their own."""
    assert searched(hermitage(), workers=2).depths == searched(hermitage()).depths


def guarded(seed: int) -> Any:
    """Return a sound site that expects of four pairs of segments which do not reach each other that they never do."""
    tree = json.loads(json.dumps(sound_site(seed)))
    climb = Climb(parse_design(tree))
    names = [s.name for s in climb.site.segments.all if s.kind == "vlan"]
    apart = [
        (a, b) for a in names for b in names if a != b and not climb.sweep.flows(climb.segment(a), climb.segment(b))
    ]
    chosen = Random(seed).sample(apart, min(4, len(apart)))
    tree["expectations"] = [{"name": f"{a} not {b}", "from": a, "to": b, "expect": "closed"} for a, b in chosen]
    return tree


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(count(60, 3)))
def test_what_is_taken_over_changes_no_pair(seed: int) -> None:
    """Two things at once, judged one pair after the other from what is kept, open what the bare document says they open."""
    tree = guarded(seed)
    guard, rng = Guard(tree), Random(seed)
    if not guard.names - guard.open:
        return
    singles = [guard.judge(c) for c in single_cases("x", tree)]
    for _ in range(20):
        pair = (rng.choice(singles), rng.choice(singles))
        row = guard.judge(beside(*pair))
        assert (None if row.refused else row.opened) == bare(tree, guard, pair), pair


def beside(one: Opened, two: Opened) -> Case:
    """Return the case of two."""
    return Case("x", tuple(sorted({*one.failed, *two.failed})), (*one.faults, *two.faults))


def bare(tree: Any, guard: Guard, rows: tuple[Opened, Opened]) -> tuple[str, ...] | None:
    """Return what two cases open together, nothing taken over from anywhere; None where the document refuses them."""
    case = beside(*rows)
    try:
        design = parse_design(together(tree, [fault_named(tree, f).edit for f in case.faults]))
    except InputRefused:
        return None
    judged = Climb(design, conditions_of(design, case.failed)).expectations
    return tuple(j.name for j in judged if j.opened and j.name not in guard.open)


def test_pairs_are_of_different_things() -> None:
    """Each two of those that come to something of their own, once."""
    tree = fort(2)
    guard = Guard(tree)
    singles = [guard.judge(c) for c in single_cases("fort", tree)]
    pairs = pair_cases(singles) or []
    of = {r.print for r in singles if not r.refused}
    assert len(pairs) == len(of) * (len(of) - 1) // 2
    assert len({c.key for c in pairs}) == len(pairs)
