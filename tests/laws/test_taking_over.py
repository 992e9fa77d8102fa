"""What is taken over from the state before an edit is what would have been computed from nothing."""

from __future__ import annotations

import copy
from collections.abc import Iterator

import numpy as np
from hypothesis import given, note
from hypothesis import strategies as st

from anabasis.allpairs.forwarding_classes import Shape
from anabasis.allpairs.permit_matrices import PermitMatrix
from anabasis.climb import Climb
from anabasis.design import Design, apply, parse_design
from anabasis.errors import InputRefused
from anabasis.verdicts import compare_reach
from anabasis.views import cabling, vlan_grid
from bench.generated import generated_site
from tests.counts import law
from tests.sites import Tree, design_of, sites


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
    for kind in ("ports", "lags"):
        for k, port in enumerate(device.get(kind, [])):
            for i in range(len(port.get("tagged", []))):
                able.append([{"op": "remove", "path": f"{at}/{kind}/{k}/tagged/{i}"}])
    if device.get("rules"):
        k, to = (data.draw(st.integers(0, len(device["rules"]) - 1)) for _ in range(2))
        able.append([{"op": "remove", "path": f"{at}/rules/{k}"}])
        able.append([{"op": "move", "from": f"{at}/rules/{k}", "path": f"{at}/rules/{to}"}])
        able.append([{"op": "add", "path": f"{at}/rules/{k}/services", "value": ["tcp/4000-4010"]}])
        able.append([{"op": "add", "path": f"{at}/rules/{k}/from", "value": ["no-such-zone"]}])
    able += list(_beyond_rules(tree, device, at, data))
    return data.draw(st.sampled_from(able))


ADDRESSES = ["10.64.11.0/25", "10.64.12.9", "10.64.13.64/26", "192.0.2.10", "198.51.100.0/24", "2001:db8:9::/64", "any"]
SERVICES = ["tcp/443", "tcp/8000-8100", "udp/53", "icmp", "proto/47", "any"]


def _beyond_rules(tree: Tree, device: Tree, at: str, data: st.DataObject) -> Iterator[list[dict[str, object]]]:
    """Yield edits of a device that are no edits of rules in place: new rules and addresses, zones, translations, defaults, interfaces."""
    zones = [z["name"] for z in device.get("zones", [])]
    if zones:
        rule = {
            "name": "new one",
            "from": [data.draw(st.sampled_from(zones))],
            "to": [data.draw(st.sampled_from(zones))],
            "sources": [data.draw(st.sampled_from(ADDRESSES))],
            "destinations": [data.draw(st.sampled_from(ADDRESSES))],
            "services": [data.draw(st.sampled_from(SERVICES))],
            "action": data.draw(st.sampled_from(["permit", "drop", "refuse"])),
        }
        place = f"{at}/rules/0" if device.get("rules") else f"{at}/rules"
        yield [{"op": "add", "path": place, "value": rule if device.get("rules") else [rule]}]
        yield [{"op": "add", "path": f"{at}/between_zones", "value": data.draw(st.sampled_from(["permit", "drop"]))}]
    if device.get("rules"):
        k = data.draw(st.integers(0, len(device["rules"]) - 1))
        yield [{"op": "add", "path": f"{at}/rules/{k}/sources", "value": [data.draw(st.sampled_from(ADDRESSES))]}]
        yield [{"op": "add", "path": f"{at}/rules/{k}/enabled", "value": data.draw(st.booleans())}]
    for i, _ in enumerate(device.get("nat", [])):
        yield [{"op": "add", "path": f"{at}/nat/{i}/enabled", "value": data.draw(st.booleans())}]
        yield [{"op": "remove", "path": f"{at}/nat/{i}"}]
    for kind in ("ports", "lags"):
        for k, port in enumerate(device.get(kind, [])):
            for where, one in (
                (f"{at}/{kind}/{k}", port),
                *((f"{at}/{kind}/{k}/subinterfaces/{s}", x) for s, x in enumerate(port.get("subinterfaces", []))),
            ):
                if "zone" in one and zones:
                    yield [{"op": "replace", "path": f"{where}/zone", "value": data.draw(st.sampled_from(zones))}]
                if one.get("addresses"):
                    yield [{"op": "remove", "path": f"{where}/addresses"}]
    for i in range(len(tree.get("addresses", []))):
        yield [{"op": "add", "path": f"/addresses/{i}/members", "value": [data.draw(st.sampled_from(ADDRESSES[:-1]))]}]


def outcome(tree: Tree, patch: list[dict[str, object]], design: Design | None) -> tuple[Tree, Design] | list[str]:
    """Return what an edit gives: the tree and its models, or where it is refused."""
    try:
        return apply(tree, patch, design)
    except InputRefused as refused:
        return [p.pointer for p in refused.problems]


@law(1000, 50)
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
    over, anew = before.edited(beside[1]), Climb(plain[1])
    assert before.sweep.fingerprints is not None
    assert before.sweep.tally() is not None
    assert over.site.conditions == anew.site.conditions
    assert over.site.policies.of == anew.site.policies.of
    assert (over.sweep.fingerprints == anew.sweep.fingerprints).all()
    for said in ("known", "some", "full", "led"):
        assert np.array_equal(getattr(over.sweep.tally(), said), getattr(anew.sweep.tally(), said))
    assert compare_reach(before.sweep, over.sweep) == compare_reach(Climb(parse_design(kept)).sweep, anew.sweep)
    assert [f.sentence for f in over.findings] == [f.sentence for f in anew.findings]


def parts(value: object, at: str = "") -> list[str]:
    """Return the pointers of all parts of a document: each may have a note."""
    if isinstance(value, dict):
        found = [at] if "note" in value or at.rpartition("/")[2].isdigit() or at == "" else []
        return found + [p for k, v in value.items() for p in parts(v, f"{at}/{k}")]
    return [p for k, v in enumerate(value) for p in parts(v, f"{at}/{k}")] if isinstance(value, list) else []


@law(2000, 50)
@given(sites(), st.data())
def test_edits_of_every_kind_one_after_the_other(tree: Tree, data: st.DataObject) -> None:
    """One memo through them all, and back to where one began: every state is what it is from nothing."""
    tree["expectations"] = [
        {"name": f"{a} {b} {e}", "from": a, "to": b, "services": s, "expect": e}
        for a, b, s, e in (
            ("v11", "v12", ["any"], "closed"),
            ("v12", "internet", ["tcp/443"], "open"),
            ("10.64.11.0/25", "v13", ["tcp/80", "icmp"], "only"),
        )
    ]
    design = parse_design(tree)
    states, here = [(tree, design)], Climb(design)
    for _ in range(data.draw(st.integers(1, 4))):
        if data.draw(st.booleans()):
            assert here.verdicts().all is not None
        found = outcome(states[-1][0], edits(states[-1][0], data), states[-1][1])
        if not isinstance(found, list):
            states.append(found)
    for tree_then, design_then in (*states, states[0]):
        here, anew = here.edited(design_then), Climb(parse_design(tree_then))
        assert (here.sweep.fingerprints == anew.sweep.fingerprints).all()
        for said in ("known", "some", "full", "led"):
            assert np.array_equal(getattr(here.sweep.tally(), said), getattr(anew.sweep.tally(), said))
        assert here.verdicts().all == anew.verdicts().all
        assert [f.sentence for f in here.findings] == [f.sentence for f in anew.findings]
        assert here.policies() == anew.policies()
        assert here.expectations == anew.expectations


def told(climb: Climb) -> dict[str, object]:
    """Return what stages tell of a state."""
    return {
        "findings": climb.findings,
        "verdicts": climb.verdicts().all,
        "policies": climb.policies(),
        "expectations": climb.expectations,
        "unasked": climb.unasked,
        "suggestions": climb.suggestions,
        "grid": vlan_grid(climb.site.segments),
        "cabling": cabling(climb.site.fabric, climb.conditions),
        "routes": [t.routes for t in climb.site.net.tables.values()],
        "written": climb.site.written,
    }


@law(600, 40)
@given(sites(), st.data())
def test_a_note_changes_words_alone(tree: Tree, data: st.DataObject) -> None:
    """Whatever part it is written on: all stages tell what they would tell from nothing, and so does the edit after it."""
    design = parse_design(tree)
    before = Climb(design)
    if data.draw(st.booleans()):
        told(before)
    noted = outcome(
        tree, [{"op": "add", "path": f"{data.draw(st.sampled_from(parts(tree)))}/note", "value": "why"}], design
    )
    if isinstance(noted, list):
        return
    over = before.edited(noted[1])
    assert told(over) == told(Climb(parse_design(noted[0])))
    assert not over.consequences_since(before)
    after = outcome(noted[0], edits(noted[0], data), noted[1])
    if not isinstance(after, list):
        assert told(over.edited(after[1])) == told(Climb(parse_design(after[0])))


@law(400, 25)
@given(sites(), st.data())
def test_what_differs_between_two_states_with_the_same_classes(tree: Tree, data: st.DataObject) -> None:
    """Told from their classes it is what cutting boxes tells, box by box."""
    design = parse_design(tree)
    found = outcome(tree, edits(tree, data), design)
    if isinstance(found, list):
        return
    before = Climb(design)
    one, two = before.sweep, before.edited(found[1]).sweep
    for pair in set(one.pairs) & set(two.pairs):
        assert two.beyond(pair, one, pair) == two.flows(*pair).minus(one.flows(*pair))
        assert one.beyond(pair, two, pair) == one.flows(*pair).minus(two.flows(*pair))


@law(400, 25)
@given(sites(), st.data())
def test_what_is_not_spelled_out_is_of_the_same_kind(tree: Tree, data: st.DataObject) -> None:
    """Pairs told by their fingerprints alone are those that comparing exact flows tells, each of the same kind."""
    found = outcome(tree, edits(tree, data), None)
    if isinstance(found, list):
        return
    sweeps = Climb(parse_design(tree)).sweep, Climb(found[1]).sweep
    briefly, exactly = (compare_reach(*sweeps, spelled=n) for n in (0, 10**6))
    for kind in ("opened", "closed", "changed"):
        told, spelled = ([(c.source, c.target, c.now) for c in getattr(x, kind)] for x in (briefly, exactly))
        assert told == spelled


def test_a_part_of_a_class_is_not_taken_for_the_whole() -> None:
    """An address that a box gets back is a class of its own again, and so a forwarding class: its neighbours are not all there was."""
    fence = {
        "name": "fw",
        "kind": "firewall",
        "zones": [{"name": "in"}, {"name": "out"}],
        "nat": [{"name": "n", "from": ["out"], "to": ["any"], "sources": ["10.64.0.0/16"], "source_to": "interface"}],
        "ports": [
            {
                "name": "t",
                "mode": "routed",
                "subinterfaces": [{"tag": 12, "addresses": ["10.64.12.1/24"], "zone": "in"}],
            }
        ],
    }
    bridge = {
        "name": "ml",
        "kind": "switch",
        "routing": True,
        "ports": [{"name": "1", "tagged": [12, 13]}],
        "vlan_interfaces": [{"vlan": v, "addresses": [f"10.64.{v}.2/24"]} for v in (12, 13)],
    }
    design = design_of(devices=[fence, bridge])
    tree = design.model_dump(mode="json", by_alias=True, exclude_unset=True)
    _, without = apply(tree, [{"op": "remove", "path": "/devices/0/ports/0/subinterfaces/0/addresses"}], design)
    here = Climb(design)
    for state in (without, design, without, design):
        assert here.sweep.fingerprints is not None
        here = here.edited(state)
        assert (here.sweep.fingerprints == Climb(state).sweep.fingerprints).all()


def test_a_segment_falls_apart_and_most_stays() -> None:
    """Only what crossings and parts of the split segment have a say in is read again, though all segments behind it have other numbers."""
    tree = generated_site(60, 300)
    before = Climb(parse_design(tree))
    d, k = next(
        (d, k)
        for d, device in enumerate(tree["devices"])
        if device["kind"] == "switch"
        for k, port in enumerate(device["ports"])
        if len(port.get("tagged", [])) > 1
    )
    assert before.sweep.fingerprints is not None
    tag = tree["devices"][d]["ports"][k]["tagged"][0]
    edited = apply(tree, [{"op": "remove", "path": f"/devices/{d}/ports/{k}/tagged/0"}], before.design)[1]
    over, anew = before.edited(edited), Climb(edited)
    names = [[s.name for s in c.site.segments.all] for c in (before, over)]
    assert names[0] != names[1], f"VLAN {tag} fell apart"
    assert np.array_equal(over.sweep.fingerprints, anew.sweep.fingerprints)
    for matrices in over.sweep.matrices.values():
        assert len(matrices.fresh) < len(matrices.matrices) / 5


@law(200, 15)
@given(st.permutations(range(6)), st.sets(st.integers(0, 5), min_size=1), st.integers(0, 2**36 - 1))
def test_a_matrix_by_other_numbers(order: list[int], mine: set[int], inside: int) -> None:
    """A matrix about the same pairs under other numbers says the same of each; about other pairs it is none."""
    rows = np.array(sorted(mine), dtype=np.intp)
    shape = Shape(rows, rows, np.array([[inside >> 6 * a + b & 1 for b in rows] for a in rows], dtype=bool))
    marks = np.eye(6, dtype=np.float32)[rows]
    weights = np.arange(36, dtype=np.uint64).reshape(6, 6)[rows]
    matrix = PermitMatrix(shape, marks, marks, np.zeros((6, 6, 1), dtype=np.uint64), weights, weights)
    number = np.array(order)  # old number -> new number
    new = np.sort(number[rows])
    old = np.argsort(number)[new]
    moved = matrix.moved(Shape(new, new, shape.inside[np.ix_(*[np.searchsorted(rows, old)] * 2)]), old, old)
    assert moved is not None
    assert (moved.sources.argmax(axis=1) == old).all()
    assert (moved.source_weights[:, 0] == 6 * old).all()
    assert moved.passed is matrix.passed
    assert matrix.moved(Shape(new, new, None), old, old) is None
    other = np.where(old == old[0], -1, old)
    assert matrix.moved(Shape(new, new, shape.inside), other, old) is None
