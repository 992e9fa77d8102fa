"""What is taken over from the state before an edit is what would have been computed from nothing."""

from __future__ import annotations

import copy

from hypothesis import given, note, settings
from hypothesis import strategies as st

from anabasis.climb import Climb
from anabasis.design import Design, apply, parse_design
from anabasis.errors import InputRefused
from anabasis.reach import compare_reach
from tests.sites import Tree, sites


def edits(tree: Tree, data: st.DataObject) -> list[dict[str, object]]:
    """Draw one edit of a device, a rule, a VLAN or a cable."""
    d = data.draw(st.integers(0, len(tree["devices"]) - 1))
    device, at = tree["devices"][d], f"/devices/{d}"
    able: list[list[dict[str, object]]] = [
        [{"op": "add", "path": "/vlans/-", "value": {"id": 77, "name": "fresh", "subnets": ["10.77.0.0/24"]}}],
        [{"op": "add", "path": f"{at}/note_that_is_no_key", "value": 1}],
    ]
    if tree.get("cables"):
        able.append([{"op": "remove", "path": f"/cables/{data.draw(st.integers(0, len(tree['cables']) - 1))}"}])
    if device.get("ports"):
        k = data.draw(st.integers(0, len(device["ports"]) - 1))
        able.append([{"op": "add", "path": f"{at}/ports/{k}/enabled", "value": data.draw(st.booleans())}])
    for v, vrf in enumerate(device.get("vrfs", [])):
        if vrf.get("routes"):
            k = data.draw(st.integers(0, len(vrf["routes"]) - 1))
            able.append([{"op": "remove", "path": f"{at}/vrfs/{v}/routes/{k}"}])
            able.append([{"op": "add", "path": f"{at}/vrfs/{v}/routes/{k}/metric", "value": 7}])
    if device.get("rules"):
        k, to = (data.draw(st.integers(0, len(device["rules"]) - 1)) for _ in range(2))
        able.append([{"op": "remove", "path": f"{at}/rules/{k}"}])
        able.append([{"op": "move", "from": f"{at}/rules/{k}", "path": f"{at}/rules/{to}"}])
        able.append([{"op": "add", "path": f"{at}/rules/{k}/services", "value": ["tcp/4000-4010"]}])
        able.append([{"op": "add", "path": f"{at}/rules/{k}/from", "value": ["no-such-zone"]}])
    return data.draw(st.sampled_from(able))


def outcome(tree: Tree, patch: list[dict[str, object]], design: Design | None) -> tuple[Tree, Design] | list[str]:
    """Return what an edit gives: the tree and its models, or where it is refused."""
    try:
        return apply(tree, patch, design)
    except InputRefused as refused:
        return [p.pointer for p in refused.problems]


@settings(max_examples=200)
@given(sites(), st.data())
def test_an_edit_beside_the_models_of_the_state_before(tree: Tree, data: st.DataObject) -> None:
    """The same models, the same refusal, nothing changed in the tree before; reach and its consequences are those of a climb from nothing."""
    design, kept = parse_design(tree), copy.deepcopy(tree)
    patch = edits(tree, data)
    note(patch)
    plain, beside = outcome(tree, patch, None), outcome(tree, patch, design)
    if isinstance(plain, list) or isinstance(beside, list):
        assert plain == beside
        return
    assert beside == plain
    assert tree == kept
    before = Climb(design)
    over, anew = Climb(beside[1], before=before), Climb(plain[1])
    assert before.sweep.prints is not None
    assert (over.sweep.prints == anew.sweep.prints).all()
    assert over.sweep.tally().led.tolist() == anew.sweep.tally().led.tolist()
    assert compare_reach(before.sweep, over.sweep) == compare_reach(Climb(parse_design(kept)).sweep, anew.sweep)
    assert [f.sentence for f in over.findings] == [f.sentence for f in anew.findings]


@settings(max_examples=60)
@given(sites(), st.data())
def test_what_is_not_spelled_out_is_of_the_same_kind(tree: Tree, data: st.DataObject) -> None:
    """Pairs told by their prints alone are those that comparing exact flows tells, each of the same kind."""
    found = outcome(tree, edits(tree, data), None)
    if isinstance(found, list):
        return
    sweeps = Climb(parse_design(tree)).sweep, Climb(found[1]).sweep
    briefly, exactly = (compare_reach(*sweeps, spelled=n) for n in (0, 10**6))
    for kind in ("opened", "closed", "changed"):
        told, spelled = ([(c.source, c.target, c.now) for c in getattr(x, kind)] for x in (briefly, exactly))
        assert told == spelled
