"""What a server keeps in memory: a bounded number, of bounded size, for a bounded time."""

from __future__ import annotations

from dataclasses import replace

import pytest

from anabasis.design import Loaded
from anabasis.fabric import conditions_of
from anabasis.failover import WhatIf
from anabasis.server import state as module
from anabasis.server.state import State, size_of
from anabasis.store import Branch, Draft, Store
from tests.conftest import NOON


def state_of(store: Store) -> State:
    """Return an application's state over a store."""
    return State(store, lambda: NOON)


def drafts(store: Store, demo: Loaded, count: int) -> list[Draft]:
    """Return states of one design, each of another stamp."""
    draft = store.create("d", demo.raw, NOON)
    return [replace(draft, stamp=f"{k}") for k in range(count)]


def test_so_many_and_no_more(store: Store, demo: Loaded) -> None:
    """The one asked for last is the last to go, and is the same when asked for again."""
    state = state_of(store)
    many = drafts(store, demo, module.KEPT + 4)
    climbs = [state.climb(d) for d in many]
    assert state.kept == module.KEPT
    assert state.climb(many[-1]) is climbs[-1]
    assert state.climb(many[0]) is not climbs[0]


def test_by_their_size(store: Store, demo: Loaded, monkeypatch: pytest.MonkeyPatch) -> None:
    """Of large designs few are kept, of one that is larger than all room that one."""
    size = module.WEIGHT * size_of(demo.raw)
    some = drafts(store, demo, 6)
    for room, kept in ((3 * size, 3), (size // 2, 1)):
        monkeypatch.setattr(module, "KEPT_BYTES", room)
        state = state_of(store)
        for draft in some:
            state.climb(draft)
        assert state.kept == kept


def test_by_their_age_and_with_their_design(store: Store, demo: Loaded, monkeypatch: pytest.MonkeyPatch) -> None:
    """What nobody asked for in half an hour goes at the next asking; what is of a design that is gone, with it."""
    now = 0.0
    monkeypatch.setattr(module, "monotonic", lambda: now)
    state = state_of(store)
    one, two, three = drafts(store, demo, 3)
    state.climb(one)
    now = module.KEPT_S / 2
    state.climb(two)
    now = module.KEPT_S + 1
    state.climb(three)
    assert state.kept == 2
    state.forget("d")
    assert state.kept == 0


def test_a_what_if_shares_what_is_known_of_its_design(store: Store, demo: Loaded) -> None:
    """One memo and one turn for a design, its what-ifs, theirs, and its revisions; another design has its own."""
    state = state_of(store)
    design = store.create("d", demo.raw, NOON)
    branch = store.create("b", demo.raw, NOON, Branch("d", "doors", "draft 1"))
    twig = store.create("t", demo.raw, NOON, Branch("b", "more doors", "draft 1"))
    other = store.create("o", demo.raw, NOON)
    climbs = [state.climb(d) for d in (design, branch, twig)]
    climbs.append(state.climb(replace(design, id="d revision 1", stamp="r"), of="d"))
    assert len({id(c.memo) for c in climbs}) == 1
    assert state.climb(other).memo is not climbs[0].memo
    assert state.turns.of(state.family("t")) is state.turns.of(state.family("d"))
    assert state.family("o") == "o"
    planes = climbs[0].sweep.planes
    assert climbs[1].sweep.planes[4] is planes[4]
    state.forget("d")
    assert state.kept == 1


def test_what_an_event_takes_over(store: Store, demo: Loaded) -> None:
    """Failures begin from the flows that are known, and come out as they do from nothing."""
    climb = state_of(store).climb(store.create("d", demo.raw, NOON))
    sweep = climb.sweep
    event = climb.failover(["gate-a"])
    assert next(iter(climb._what_ifs.values())).well is sweep
    assert event == WhatIf(demo.design).event(conditions_of(demo.design, ["gate-a"]))
