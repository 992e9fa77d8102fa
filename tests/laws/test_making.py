"""Making things in random sites: an edit adds what it says and leaves the rest alone; what is proposed is free; a look changes nothing."""

from __future__ import annotations

import copy
from typing import Any

import jsonpointer
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from anabasis.design import Tree, apply, parse_design
from anabasis.design.making import (
    KINDS,
    CopyThing,
    NewCables,
    NewDevice,
    NewPorts,
    NewThing,
    VlanList,
    copy_thing,
    fresh,
    make,
    new_cables,
    new_device,
    new_ports,
    vlan_list,
)
from anabasis.errors import InputRefused, UnknownPlace
from tests.counts import law
from tests.sites import sites


def places(tree: Any, at: str = "") -> list[str]:
    """Return the pointer of every mapping of a document."""
    inside = tree.items() if isinstance(tree, dict) else enumerate(tree) if isinstance(tree, list) else ()
    own = [at] if isinstance(tree, dict) else []
    return own + [p for key, value in inside for p in places(value, f"{at}/{key}")]


def leaves(tree: Any, at: str = "") -> set[tuple[str, str]]:
    """Return what a document says, as (pointer, value)."""
    if isinstance(tree, dict | list):
        inside = tree.items() if isinstance(tree, dict) else enumerate(tree)
        return {x for key, value in inside for x in leaves(value, f"{at}/{key}")}
    return {(at, repr(tree))}


@law(1000, 60)
@given(sites(), st.data())
def test_a_thing_that_is_made_is_all_that_is_new(tree: Tree, data: st.DataObject) -> None:
    """Whatever stood in the document stands there still; what is proposed next is another one."""
    before = copy.deepcopy(tree)
    at, kind = data.draw(st.sampled_from(places(tree))), data.draw(st.sampled_from(sorted(KINDS)))
    try:
        wanted = fresh(tree, kind, at)
        patch = make(tree, NewThing(kind, at, wanted.value))
        after, _ = apply(tree, patch)
    except (UnknownPlace, InputRefused):
        assert tree == before
        return
    assert tree == before
    assert leaves(before) <= leaves(after)
    if set(wanted.value) & {"name", "id", "tag", "vlan"}:
        try:
            again = fresh(after, kind, at)
        except (UnknownPlace, InputRefused):  # there is none left
            return
        assert again.value != wanted.value


@law(1000, 60)
@given(sites(), st.sampled_from(("switch", "router", "firewall", "hub", "endpoint", "outside")), st.booleans())
def test_a_box_of_any_kind_can_be_added_to_any_site(tree: Tree, kind: Any, routing: bool) -> None:
    """Under a name that is free; under one that is not it is refused, and nothing has happened."""
    after, design = apply(tree, new_device(tree, NewDevice(kind, "bollard", "1-3", routing)))
    assert leaves(tree) <= leaves(after)
    assert design.devices[-1].name == "bollard"
    taken = copy.deepcopy(after)
    with pytest.raises(InputRefused, match="bollard"):
        apply(after, new_device(after, NewDevice(kind, "bollard", "1-3")))
    assert after == taken


@law(600, 40)
@given(sites(), st.integers(1, 4), st.data())
def test_new_uplinks_carry_the_same_at_both_ends(tree: Tree, count: int, data: st.DataObject) -> None:
    """What both switches know, tagged; ports that said something already are cabled and left as they are."""
    switches = [d["name"] for d in tree["devices"] if d["kind"] == "switch"]
    assume(len(switches) > 1)
    one, two = data.draw(st.permutations(switches))[:2]
    names = f"up-{data.draw(st.sampled_from('abc'))}"
    ports = ",".join(f"{names}{k}" for k in range(count))
    for box in (one, two):
        tree = apply(tree, new_ports(tree, NewPorts(box, ports)))[0]
    after, design = apply(tree, new_cables(tree, NewCables(f"{one}:{ports}", f"{two}:{ports}")))
    assert leaves(tree) <= leaves(after)
    ends = [{p.name: p for p in d.ports} for name in (one, two) for d in design.devices if d.name == name]  # type: ignore[union-attr]
    plan = [v["id"] for v in tree["vlans"]]
    tables = [d.get("vlans", plan) for d in tree["devices"] if d["name"] in (one, two)]
    for k in range(count):
        near, far = (side[f"{names}{k}"] for side in ends)
        assert near.tagged == far.tagged == [v for v in plan if all(v in t for t in tables)]
        assert [f"{one}:{names}{k}", f"{two}:{names}{k}"] in after["cables"]


@law(600, 40)
@given(
    st.lists(
        st.tuples(st.integers(1, 4094), st.text("abcdefgh-", min_size=1, max_size=9), st.booleans()),
        max_size=12,
        unique_by=(lambda x: x[0], lambda x: x[1]),
    ),
    st.sampled_from((" ", "\t", ", ", ";", " | ")),
    st.booleans(),
)
def test_a_pasted_list_becomes_the_plan(lines: list[tuple[int, str, bool]], between: str, heading: bool) -> None:
    """Every line a VLAN under its number and name, whatever stands between the columns; the same list again changes nothing."""
    tree: Tree = {"anabasis": 1, "name": "Kelp yard", "vlans": [{"id": 1, "name": "zero"}]}
    rows = [
        between.join([str(n), f"v{name}", *([f"10.{n // 256}.{n % 256}.0/24"] if subnet else [])])
        for n, name, subnet in lines
    ]
    text = "\n".join([*(["VLAN name subnet"] if heading else []), "", *rows])
    after, design = apply(tree, vlan_list(tree, VlanList(text)))
    held = {v.id: v for v in design.vlans}
    assert held.keys() == {1} | {n for n, _, _ in lines}
    assert held[1].name == "zero"
    for number, name, subnet in lines:
        if number != 1:
            assert (held[number].name, len(held[number].subnets)) == (f"v{name}", int(subnet))
    assert vlan_list(after, VlanList(text)) == []


@law(600, 40)
@given(sites(), st.data())
def test_what_is_proposed_stands_where_it_was_asked_for(tree: Tree, data: st.DataObject) -> None:
    """A proposal names its owner, and only what the model of its kind knows."""
    design = parse_design(tree)
    at = data.draw(st.sampled_from(places(tree)))
    for kind in KINDS:
        try:
            wanted = fresh(tree, kind, at)
        except (UnknownPlace, InputRefused):
            continue
        assert (wanted.kind, wanted.at, wanted.model) == (kind, at, KINDS[kind].model)
        assert jsonpointer.resolve_pointer(tree, at) is not None
        assert all(value is not None for value in wanted.value.values())
    assert parse_design(tree) == design


@law(1500, 80)
@given(sites(), st.data())
def test_a_copy_is_like_its_original_and_goes_without_a_trace(tree: Tree, data: st.DataObject) -> None:
    """Refused, or one thing more: it says what the original says but for names, numbers and addresses; taken out, all is as before."""
    before = copy.deepcopy(tree)
    at = data.draw(st.sampled_from([p for p in places(tree) if p.rpartition("/")[2].isdigit()]))
    try:
        patch = copy_thing(tree, CopyThing(at))
        after, _ = apply(tree, patch)
    except (UnknownPlace, InputRefused):
        assert tree == before
        return
    above, _, index = at.rpartition("/")
    entries, were = (jsonpointer.resolve_pointer(t, above) for t in (after, tree))
    place = len(were) if above == "/devices" else int(index) + 1
    made = entries.pop(place)
    assert after == before
    original = were[int(index)]
    assert made.keys() <= original.keys()
    own = {
        "name",
        "id",
        "tag",
        "vlan",
        "subnets",
        "addresses",
        "ports",
        "lags",
        "vlan_interfaces",
        "loopbacks",
        "units",
        "tunnels",
        "remote_access",
    }
    assert {k: v for k, v in made.items() if k not in own} == {
        k: v for k, v in original.items() if k in made and k not in own
    }
    if "name" in made:
        assert made["name"] not in [e.get("name") for e in were]
