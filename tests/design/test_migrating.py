"""Migrations: the design after each is sound, nothing of what was is left, and what was asked for is there."""

from __future__ import annotations

import copy
import json
from pathlib import Path
from typing import Any

import pytest

from anabasis.building import build_sheet
from anabasis.climb import Climb
from anabasis.design import apply, load_file, parse_design
from anabasis.design.edits import patched
from anabasis.design.migrating import KINDS, Migration, asked, migrate, read_plan
from anabasis.errors import InputRefused
from anabasis.facts import Left, Took
from tests.counts import count
from tests.sites import Tree, access
from tests.sound import sound_site

DEMO = Path(__file__).parents[2] / "demo"


def plain(tree: Any) -> Any:
    """Return a document as JSON has it."""
    return json.loads(json.dumps(tree))


def demo() -> Tree:
    """Return the sound demo."""
    return plain(load_file(DEMO / "tidewrack.yaml").raw)  # type: ignore[no-any-return]


def went(tree: Tree, *plans: Tree) -> tuple[Tree, Migration]:
    """Return the design after migrations; steps lead to it."""
    found = migrate(tree, read_plan(list(plans)))
    after = apply(tree, found.patch)[0]
    built = tree
    for step in build_sheet(tree, after).steps:
        built = patched(built, step.edit)
    assert built == after
    return after, found


def broken(tree: Tree) -> list[str]:
    """Return what is broken in a design."""
    return [f.sentence for f in Climb(parse_design(tree)).findings if f.kind.severity == "breaks"]


def reach(tree: Tree) -> list[list[bool]]:
    """Return which segments have anything to say to which, by their order."""
    climb = Climb(parse_design(tree))
    return (climb.sweep.fingerprints != 0).tolist()  # type: ignore[no-any-return]


def test_a_subnet_is_renumbered() -> None:
    """Everywhere but in prose; back again is the start; reach and expectations are what they were."""
    one = demo()
    two, found = went(one, {"kind": "renumber", "subnet": "10.64.130.0/24", "to": "10.64.213.0/24"})
    assert found.open == []
    bare = json.dumps(
        [{k: v for k, v in x.items() if k != "note"} if isinstance(x, dict) else x for x in two["devices"]]
    )
    assert "10.64.213.77" in bare
    assert "10.64.130." not in bare
    assert went(two, {"kind": "renumber", "subnet": "10.64.213.0/24", "to": "10.64.130.0/24"})[0] == one
    assert broken(two) == []
    assert reach(two) == reach(one)


@pytest.mark.parametrize("seed", range(count(60, 6)))
def test_any_subnet_is_renumbered(seed: int) -> None:
    """Of sound sites: nothing breaks, the same reach the same."""
    one = plain(sound_site(seed))
    subnets = [s for v in one["vlans"] for s in v.get("subnets", []) if "." in s and s.endswith("/24")]
    chosen = subnets[seed % len(subnets)]
    house = ".".join(chosen.split(".")[:2])
    two, _ = went(one, {"kind": "renumber", "subnet": chosen, "to": f"{house}.251.0/24"})
    assert broken(two) == []
    assert reach(two) == reach(one)


def test_a_wider_subnet_needs_room() -> None:
    """A host that would fall out of it is named; a subnet that others have is refused."""
    one = demo()
    with pytest.raises(InputRefused, match="no place for every host"):
        went(one, {"kind": "renumber", "subnet": "10.64.130.0/24", "to": "10.64.213.0/28"})
    with pytest.raises(InputRefused, match="overlaps"):
        went(one, {"kind": "renumber", "subnet": "10.64.130.0/24", "to": "10.64.140.0/24"})
    with pytest.raises(InputRefused, match="nothing has an address"):
        went(one, {"kind": "renumber", "subnet": "10.64.131.0/24", "to": "10.64.213.0/24"})


def test_a_gateway_moves() -> None:
    """The lab from its own switch to the firewall and its bundle: one box has the address, the other finds it."""
    one = demo()
    two, found = went(
        one,
        {
            "kind": "move-gateway",
            "vlan": 170,
            "device": "gate",
            "line": "6",
            "zone": "chemistry",
            "answers": "ping-only",
        },
    )
    gate, lab = (next(d for d in two["devices"] if d["name"] == n) for n in ("gate", "lab-sw"))
    port = next(p for p in gate["ports"] if p["name"] == "6")
    assert port["subinterfaces"] == [
        {"tag": 170, "addresses": ["10.64.170.1/24"], "zone": "chemistry", "answers": "ping-only"}
    ]
    assert [i["vlan"] for i in lab["vlan_interfaces"]] == [171]
    assert {n.known["line"] for n in found.assumed if n.what == Took.CARRIES} == {"lab-sw:1", "lab-sw:2"}
    assert "vlan170" not in json.dumps(lab["vrfs"])
    assert found.assumed
    assert [s for s in broken(two) if s not in broken(one)] == []


def across(mode: str) -> Tree:
    """A firewall between a router and its hosts, unseen."""
    ends: list[Tree] = [{"name": "out", "mode": mode, "zone": "outer"}, {"name": "in", "mode": mode, "zone": "inner"}]
    if mode == "bridged":
        ends = [e | {"pvid": 20, "untagged": [20]} for e in ends]
    wire = {"wires": [{"name": "through", "ends": ["out", "in"]}]} if mode == "inline" else {}
    veil = {
        "name": "veil", "kind": "firewall", "ports": ends, **wire,
        "zones": [{"name": "outer", "kind": mode}, {"name": "inner", "kind": mode}],
        "rules": [{"name": "out", "from": ["inner"], "to": ["outer"], "action": "permit"}],
        "same_zone": "permit", "between_zones": "drop",
    }  # fmt: skip
    return {
        "anabasis": 1,
        "name": "Unseen",
        "vlans": [{"id": 20, "name": "pens", "subnets": ["10.64.20.0/24"]}, {"id": 30, "name": "store", "subnets": ["10.64.30.0/24"]}],
        "devices": [
            {"name": "core", "kind": "router", "ports": [{"name": "1", "addresses": ["10.64.20.1/24"]}, {"name": "2", "addresses": ["10.64.30.1/24"]}],
             "dhcp": [{"interface": "1", "ranges": ["10.64.20.100-10.64.20.150"], "gateway": "10.64.20.1"}]},
            veil,
            {"name": "sw", "kind": "switch", "ports": [access("1", 20), access("2", 20), access("3", 20)]},
            {"name": "pen", "kind": "endpoint", "addresses": ["10.64.20.9/24"], "gateway": "10.64.20.1"},
            {"name": "shelf", "kind": "endpoint", "addresses": ["10.64.30.9/24"], "gateway": "10.64.30.1"},
        ],
        "cables": [["core:1", "veil:out"], ["veil:in", "sw:1"], ["sw:2", "pen:1"], ["core:2", "shelf:1"]],
        "expectations": [{"name": "pens to store", "from": "10.64.20.0/24", "to": "10.64.30.0/24", "services": ["tcp/443"], "expect": "open"}],
    }  # fmt: skip


@pytest.mark.parametrize("mode", ["inline", "bridged"])
def test_a_transparent_firewall_becomes_a_gateway_and_back(mode: str) -> None:
    """Hosts keep their gateway; leases, the wire and the bridge do not stay behind; rules go on deciding; the way back leads to the start."""
    one = across(mode)
    two, found = went(
        one,
        {
            "kind": f"{mode}-to-routed",
            "device": "veil",
            "outer": "out",
            "inner": "in",
            "subnet": "10.64.20.0/24",
            "gateway": "core",
            "transit": "10.64.99.0/30",
        },
    )
    core, veil = two["devices"][:2]
    assert core["ports"][0]["addresses"] == ["10.64.99.1/30"]
    assert [p["addresses"] for p in veil["ports"]] == [["10.64.99.2/30"], ["10.64.20.1/24"]]
    assert veil["dhcp"][0]["interface"] == "in"
    assert "dhcp" not in core
    assert not veil.get("wires")
    assert {z["kind"] for z in veil["zones"]} == {"routed"}
    assert Climb(parse_design(two)).walk("pen", "shelf", "tcp/443").outcome == "delivered"
    assert Climb(parse_design(two)).walk("shelf", "pen", "tcp/443").layer == "rule"
    assert broken(two) == []
    assert found.assumed
    back, _ = went(
        two,
        {"kind": "routed-to-bridged", "device": "veil", "outer": "out", "inner": "in", "vlan": 20, "gateway": "core"},
    )
    assert Climb(parse_design(back)).walk("pen", "shelf", "tcp/443").outcome == "delivered"
    assert back["devices"][0]["ports"] == one["devices"][0]["ports"]
    assert "10.64.99" not in json.dumps(back)
    if mode == "bridged":
        assert broken(back) == []


def test_one_unit_becomes_a_pair() -> None:
    """As one plan among others, in one edit."""
    one = across("inline")
    two, _ = went(
        one,
        {
            "kind": "inline-to-routed",
            "device": "veil",
            "outer": "out",
            "inner": "in",
            "subnet": "10.64.20.0/24",
            "gateway": "core",
            "transit": "10.64.99.0/30",
        },
        {"kind": "single-to-pair", "device": "veil"},
    )
    assert [u["name"] for u in two["devices"][1]["units"]] == ["veil-a", "veil-b"]


@pytest.mark.parametrize(
    ("plan", "told"),
    [
        ({"kind": "renumbr"}, "renumber"),
        ({"kind": "renumber", "subnet": "10.64.20.0/24"}, "field required"),
        ({"kind": "renumber", "subnet": "x", "to": "10.0.0.0/24"}, "badly written"),
        ({"kind": "move-gateway", "vlan": 99, "device": "core"}, "no other box"),
        ({"kind": "move-gateway", "vlan": 20, "device": "nobody"}, "no device"),
        ({"kind": "inline-to-routed", "device": "veil", "outer": "out", "inner": "inn", "subnet": "10.64.20.0/24", "gateway": "core", "transit": "10.64.99.0/30"}, "no such port"),
        ({"kind": "routed-to-bridged", "device": "veil", "outer": "out", "inner": "in", "vlan": 20, "gateway": "core"}, "not routed"),
        ("words", "no such migration"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_told(plan: Any, told: str) -> None:
    """Where, what was given, what is allowed; nothing is half done."""
    one = across("inline")
    kept = copy.deepcopy(one)
    with pytest.raises(Exception, match=told):
        migrate(one, read_plan(plan))
    assert one == kept


def test_every_kind_is_tried_here() -> None:
    """No migration without a test."""
    text = Path(__file__).read_text(encoding="utf-8")
    assert [
        k for k in KINDS if k not in text and k.replace("inline", "{mode}").replace("bridged", "{mode}") not in text
    ] == []


def test_a_set_that_no_longer_holds_it_is_told() -> None:
    """House addresses by one prefix: what leaves it is left to be decided."""
    found = migrate(demo(), read_plan({"kind": "renumber", "subnet": "10.64.130.0/24", "to": "10.66.13.0/24"}))
    assert [n for n in found.open if n.what == Left.SET_MISSES and n.known["set"] == "inside"]


def filled(tree: Tree, kind: str, **said: Any) -> Tree:
    """Return a plan filled in as a person does: what they said, else what is proposed, else the first there is."""
    said = {"kind": kind, **said}
    for _ in range(12):
        lacking = next((a for a in asked(tree, kind, said) if a.needed and a.key not in said), None)
        if lacking is None:
            break
        said[lacking.key] = lacking.value or (lacking.choices or ["?"])[0]
    return said


@pytest.mark.parametrize(
    ("kind", "said"),
    [
        ("renumber", {"subnet": "10.64.150.0/24"}),
        ("renumber", {"subnet": "fd64:0:0:130::/64"}),
        ("move-gateway", {"vlan": 170, "device": "gate", "line": "tank"}),
        ("single-to-pair", {"device": "bay-gate"}),
    ],
)
def test_what_is_proposed_can_be_done(kind: str, said: Tree) -> None:
    """Only what cannot be known is typed: the rest is filled in from what is offered, and leads to a design."""
    tree = demo()
    if kind == "single-to-pair":
        tree["devices"].append({"name": "bay-gate", "kind": "firewall", "ports": [{"name": "1"}, {"name": "2"}]})
    plan = filled(tree, kind, **said)
    offered = {a.key: a.choices for a in asked(tree, kind, plan)}
    assert all(str(v) in offered[k] for k, v in plan.items() if k != "kind" and offered[k])
    after = apply(tree, migrate(tree, read_plan(plan)).patch)[0]
    assert after != tree


def test_choices_are_those_of_the_design() -> None:
    """A VLAN without a gateway has none to move; who cannot be a gateway is not offered; an empty design offers nothing."""
    offered = {a.key: a for a in asked(demo(), "move-gateway", {"vlan": 170, "device": "gate"})}
    assert "190" not in offered["vlan"].choices
    assert "pump-ctl" not in offered["device"].choices
    assert offered["zone"].needed
    assert "water" in offered["zone"].choices
    assert offered["answers"].value == "ping-only"
    assert {a.key: a.value for a in asked(demo(), "renumber", {"subnet": "10.64.130.0/24"})}["to"] == "10.64.131.0/24"
    for kind in KINDS:
        assert all(a.choices == [] for a in asked({"anabasis": 1, "name": "x", "devices": []}, kind, {}))
    with pytest.raises(InputRefused, match="no such migration"):
        asked(demo(), "renumbre", {})
