"""Two documents compared in words."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anabasis.design import Loaded, compare, meet, merge, parse_design, siblings
from anabasis.design.edits import patched
from anabasis.design.keys import key_of, keyed
from anabasis.design.making import CopySegment, CopyThing, copy_segment, copy_thing, thing_fields
from anabasis.errors import InputRefused, UnknownPlace
from tests.counts import law
from tests.laws.test_taking_over import edits
from tests.sites import Tree, sites

GATE, HALL = "/devices/4", "/devices/5"


def told(one: Tree, patch: list[dict[str, Any]]) -> list[tuple[str, str, tuple[str, ...]]]:
    """Return what an edit changed, in words."""
    return [(d.sign, d.title, d.words) for d in compare(one, patched(one, patch))]


@pytest.mark.parametrize(
    ("patch", "said"),
    [
        ([{"op": "add", "path": f"{HALL}/ports/0/tagged/-", "value": 140}], ("changed", "tagged: + 140")),
        ([{"op": "replace", "path": f"{GATE}/rules/3/action", "value": "drop"}], ("changed", "action: permit → drop")),
        ([{"op": "move", "from": f"{GATE}/rules/1", "path": f"{GATE}/rules/4"}], ("moved", "from place 2 to place 5")),
        ([{"op": "replace", "path": "/vlans/3/name", "value": "tills"}], ("changed", "name: box-office → tills")),
        ([{"op": "replace", "path": f"{GATE}/rules/0/name", "value": "new-name"}], ("renamed", "→ gate new-name")),
        ([{"op": "remove", "path": "/cables/0"}], ("removed", "")),
    ],
)
def test_an_edit_in_words(demo: Loaded, patch: list[dict[str, Any]], said: tuple[str, str]) -> None:
    """One difference, of its kind, naming what changed."""
    found = told(demo.raw, patch)
    assert [f[0] for f in found] == [said[0]]
    assert said[1] in "; ".join(found[0][2])


@law(500, 80)
@given(sites(), st.data())
def test_something_differs_exactly_where_documents_do(tree: Tree, data: st.DataObject) -> None:
    """Nothing is said of the same document; something is said of every edit that changes it."""
    assert compare(tree, tree) == []
    try:
        edited = patched(tree, edits(tree, data))
    except InputRefused:
        return
    assert bool(compare(tree, edited)) == (edited != tree)


@law(500, 80)
@given(sites(), st.data())
def test_merging(tree: Tree, data: st.DataObject) -> None:
    """Who changed nothing changes nothing; two who made the same edit do not clash; without a clash both results are one."""
    try:
        mine, theirs = (patched(tree, edits(tree, data)) for _ in range(2))
    except InputRefused:
        return
    assert merge(tree, mine, tree).mine == mine
    assert merge(tree, tree, theirs).theirs == theirs
    assert merge(tree, mine, mine).clashes == ()
    both, swapped = merge(tree, mine, theirs), merge(tree, theirs, mine)
    assert len(both.clashes) == len(swapped.clashes)
    if not both.clashes:
        assert both.mine == both.theirs


def test_edits_of_two_devices_both_stand(demo: Loaded) -> None:
    """Even where one of them shifted what the other edited."""
    mine = patched(demo.raw, [{"op": "replace", "path": f"{GATE}/rules/3/action", "value": "drop"}])
    theirs = patched(demo.raw, [{"op": "remove", "path": f"{GATE}/rules/0"}, {"op": "remove", "path": "/devices/15"}])
    found = merge(demo.raw, mine, theirs)
    assert found.clashes == ()
    assert found.mine["devices"][4]["rules"][2]["action"] == "drop"
    assert len(found.mine["devices"]) == len(demo.raw["devices"]) - 1


def test_a_clash_shows_both_versions(demo: Loaded) -> None:
    """What it was, mine, theirs; either can win; a thing taken out against one changed likewise."""
    at = f"{GATE}/rules/3"
    mine = patched(demo.raw, [{"op": "add", "path": f"{at}/services", "value": ["tcp/22"]}])
    theirs = patched(demo.raw, [{"op": "add", "path": f"{at}/services", "value": ["tcp/23"]}])
    found = merge(demo.raw, mine, theirs)
    assert sorted(found.mine["devices"][4]["rules"][3]["services"]) == ["tcp/22", "tcp/23"], "both added to one list"
    rule = demo.raw["devices"][4]["rules"][3]["name"]
    drop = patched(demo.raw, [{"op": "replace", "path": f"{at}/action", "value": "drop"}])
    reject = patched(demo.raw, [{"op": "replace", "path": f"{at}/action", "value": "refuse"}])
    (clash,) = merge(demo.raw, drop, reject).clashes
    assert (clash.thing, clash.what, clash.was, clash.mine, clash.theirs) == (
        f"Rule gate {rule}",
        "action",
        "permit",
        "drop",
        "refuse",
    )
    gone = patched(demo.raw, [{"op": "remove", "path": at}])
    (clash,) = merge(demo.raw, drop, gone).clashes
    assert (clash.theirs, clash.pointer) == ("not there", None)
    assert merge(demo.raw, drop, gone).theirs["devices"][4]["rules"] == gone["devices"][4]["rules"]
    parse_design(merge(demo.raw, drop, gone).mine)


def test_siblings(demo: Loaded) -> None:
    """Two ports that should be alike: what differs is named; what each has for itself is marked as such."""
    found = siblings(demo.raw, f"{HALL}/ports/0", f"{HALL}/ports/1")
    assert found.kind == "Port"
    assert all(u.one != u.two for u in found.unlike)
    vlans = siblings(demo.raw, "/vlans/2", "/vlans/3")
    assert {u.what for u in vlans.unlike if not u.meant} >= {"id", "name", "subnets"}
    assert any(":" in u.what for u in vlans.unlike), "where each is carried"
    units = siblings(demo.raw, f"{GATE}/units/0", f"{GATE}/units/1")
    assert not [u for u in units.unlike if u.meant and "cable" in u.what and "—" in (u.one, u.two)]
    lost = next(i for i, c in enumerate(demo.raw["cables"]) if "gate-b:12" in c)
    cut = patched(demo.raw, [{"op": "remove", "path": f"/cables/{lost}"}])
    (missing,) = [u for u in siblings(cut, f"{GATE}/units/0", f"{GATE}/units/1").unlike if u.two == "—"]
    assert (missing.what, missing.one, missing.meant) == ("cable at port 12", "tank-sw", True)
    with pytest.raises(UnknownPlace, match="one kind"):
        siblings(demo.raw, "/vlans/2", HALL)
    with pytest.raises(UnknownPlace):
        siblings(demo.raw, "/vlans/99", "/vlans/1")


@law(500, 80)
@given(sites(), st.data())
def test_meeting(tree: Tree, data: st.DataObject) -> None:
    """Written for their document, my edit leads to one that holds both; where they changed nothing it is my edit itself."""
    try:
        mine, theirs = (patched(tree, edits(tree, data)) for _ in range(2))
    except InputRefused:
        return
    met, merged = meet(tree, mine, theirs), merge(tree, mine, theirs)
    assert patched(theirs, met.on_top) == merged.mine
    assert patched(theirs, met.beside) == merged.theirs
    assert patched(tree, meet(tree, mine, tree).on_top) == mine
    assert meet(tree, tree, theirs).on_top == []
    if not met.clashes:
        assert met.on_top == met.beside


def rule(demo: Loaded, at: int) -> str:
    """Return the name of a rule of the gate."""
    return str(demo.raw["devices"][4]["rules"][at]["name"])


def test_a_rename_and_an_edit_of_one_thing(demo: Loaded) -> None:
    """They do not clash: the thing has its new name and its new setting, and stands there once."""
    at = f"{GATE}/rules/3"
    mine = patched(demo.raw, [{"op": "replace", "path": f"{at}/name", "value": "fresh"}])
    theirs = patched(demo.raw, [{"op": "replace", "path": f"{at}/action", "value": "drop"}])
    found = merge(demo.raw, mine, theirs)
    rules = found.mine["devices"][4]["rules"]
    assert found.clashes == ()
    assert (rules[3]["name"], rules[3]["action"], len(rules)) == ("fresh", "drop", len(demo.raw["devices"][4]["rules"]))


def test_both_add_and_both_move(demo: Loaded) -> None:
    """Additions of both stand, each behind what stood before it; two other orders clash, and either can win."""
    extra = dict(demo.raw["devices"][4]["rules"][0])
    added = [
        patched(demo.raw, [{"op": "add", "path": f"{GATE}/rules/{k}", "value": extra | {"name": name}}])
        for k, name in ((1, "hers"), (3, "his"))
    ]
    names = [r["name"] for r in merge(demo.raw, *added).mine["devices"][4]["rules"]]
    assert names.index("hers") == 1
    assert names.index("his") == names.index(rule(demo, 2)) + 1
    moved = [
        patched(demo.raw, [{"op": "move", "from": f"{GATE}/rules/0", "path": f"{GATE}/rules/{k}"}]) for k in (2, 5)
    ]
    found = merge(demo.raw, *moved)
    assert [c.what for c in found.clashes] == ["order of rules"]
    assert found.mine == moved[0]
    assert found.theirs == moved[1]


def test_routes_to_one_prefix_are_told_by_their_next_hop() -> None:
    """And what is there twice by its number, so nothing is lost between two of a kind."""
    routes = [
        {"to": "0.0.0.0/0", "via": "10.0.0.1"},
        {"to": "0.0.0.0/0", "via": "10.0.0.2"},
        {"to": "0.0.0.0/0", "via": "10.0.0.2"},
    ]
    assert list(keyed(routes).values()) == [0, 1, 2]
    assert key_of(["b:1", "a:2"]) == key_of(["a:2", "b:1"])
    assert key_of({"id": 7, "name": "x"}) == "7"


def test_two_vrfs_side_by_side(demo: Loaded) -> None:
    """What stands in each is part of it."""
    boxes = [(d, v) for d, box in enumerate(demo.raw["devices"]) for v in range(len(box.get("vrfs", [])))]
    (one, two) = [f"/devices/{d}/vrfs/{v}" for d, v in boxes][:2]
    found = siblings(demo.raw, one, two)
    assert found.kind == "VRF"
    assert any(u.what.startswith("addresses of") for u in found.unlike)
    assert any(u.what.startswith("routes ") for u in found.unlike)


def test_a_copy_differs_in_its_own_things_only(demo: Loaded) -> None:
    """Made a moment ago, it has nothing that was probably meant to be alike and is not; a forgotten zone shows at once."""
    for at in (GATE, HALL, "/vlans/2"):
        vlan = at.startswith("/vlans")
        patch = copy_segment(demo.raw, CopySegment(130)) if vlan else copy_thing(demo.raw, CopyThing(at))
        copied = patched(demo.raw, patch)
        two = "/vlans/3" if vlan else f"/devices/{len(copied['devices']) - 1}"
        assert [u.what for u in siblings(copied, at, two).unlike if u.meant and ":" not in u.what] == []
        if at == GATE:
            port = next(k for k, p in enumerate(copied["devices"][-1]["ports"]) if p.get("zone"))
            spoilt = patched(copied, [{"op": "remove", "path": f"{two}/ports/{port}/zone"}])
            assert [u.two for u in siblings(spoilt, at, two).unlike if u.meant] == ["—"]


def test_what_a_copy_has_of_its_own_is_listed(demo: Loaded) -> None:
    """Every address, unit and router id once, each proposal free; one's own is taken, one that somebody has is refused."""
    fields = thing_fields(demo.raw, CopyThing(GATE))
    assert {f.kind for f in fields} == {"name", "unit", "address", "router id"}
    known = str(demo.raw)
    assert all(f.proposed.partition("/")[0] + "/" not in known for f in fields if f.kind == "address")
    proposed = [f.proposed for f in fields if f.proposed]
    assert len(proposed) == len(set(proposed))
    own = {"address 10.64.130.1/24": "10.64.130.9/24", "unit gate-a": "pier-a"}
    made = patched(demo.raw, copy_thing(demo.raw, CopyThing(GATE, "pier", own)))["devices"][-1]
    assert (made["name"], made["units"][0]["name"]) == ("pier", "pier-a")
    assert "10.64.130.9/24" in str(made)
    for value, said in (
        ("10.64.130.1/24", "somebody has"),
        ("10.64.130.9", "badly written"),
        ("pier", "badly written"),
    ):
        with pytest.raises(InputRefused, match=said):
            copy_thing(demo.raw, CopyThing(GATE, "pier", {"address 10.64.130.1/24": value}))
