"""Designs removed and brought back, in any order: the store against a model of it."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from anabasis.errors import NoSuchThing
from anabasis.store import Store
from anabasis.store.designs import KEPT_REMOVED
from tests.conftest import NOON
from tests.counts import count

NAMES = ("quay", "shed", "rim")
STEPS = st.lists(
    st.tuples(
        st.sampled_from(("create", "remove", "bring back", "drop", "edit", "wait")),
        st.sampled_from(NAMES),
    ),
    max_size=14,
)


def tried(step: Any) -> bool:
    """Do something; tell whether it was done."""
    try:
        step()
    except NoSuchThing:
        return False
    return True


@settings(max_examples=count(300, 40), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(STEPS)
def test_any_order_of_removing_and_bringing_back(store: Store, steps: list[tuple[str, str]]) -> None:
    """What is there, what can be brought back and how far each has come is what a person would say; nothing else happens."""
    for name in NAMES:  # what the example before left
        tried(lambda name=name: store.bring_back(name))
        tried(lambda name=name: store.drop(name))
    now = NOON
    there: dict[str, int] = {}
    gone: dict[str, tuple[int, Any]] = {}
    for step, name in steps:
        if step == "create" and name not in there and name not in gone:
            store.create(name, {"anabasis": 1, "name": name.title()}, now)
            there[name] = 1
        elif step == "remove":
            assert tried(lambda name=name, now=now: store.remove(name, now)) == (name in there)
            if name in there:
                gone[name] = there.pop(name), now
                gone = {k: v for k, v in gone.items() if v[1] >= now - KEPT_REMOVED}  # old ones go for good
        elif step == "bring back":
            assert tried(lambda name=name: store.bring_back(name)) == (name in gone)
            if name in gone:
                there[name], _ = gone.pop(name)
        elif step == "drop":
            assert tried(lambda name=name: store.drop(name)) == (name in there)
            there.pop(name, None)
        elif step == "edit":
            patch = [{"op": "add", "path": "/note", "value": f"at {now}"}]
            seen = there.get(name, 1)
            assert tried(
                lambda name=name, seen=seen, now=now, patch=patch: store.edit(name, seen, patch, "Oda", now)
            ) == (name in there)
            if name in there:
                there[name] += 1
        now += KEPT_REMOVED if step == "wait" else timedelta(minutes=1)
        assert {d.id: d.version for d in store.designs()} == there
        assert {d.id: d.version for d in store.designs(removed=True)} == {k: v for k, (v, _) in gone.items()}
        assert store.untouched == (not there and not gone)
