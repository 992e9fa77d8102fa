"""Tenants on an overlay by hand: RFC 7432, RFC 7348, RFC 8365, RFC 9135 and RFC 9136, clause by clause."""

from __future__ import annotations

from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.design import parse_design
from anabasis.design.edits import patched
from anabasis.errors import InputRefused
from anabasis.fabric import Conditions
from anabasis.findings import Finding
from tests.sites import Tree
from tests.tunnels.tenants import fabric, leaf, tenant

HOSTS = {"a": ("l1", 10, 11), "b": ("l2", 10, 12), "c": ("l2", 20, 13)}
L1, L2 = "/devices/0", "/devices/1"


def two(first: dict[str, Any] | None = None, second: dict[str, Any] | None = None) -> Tree:
    """Return a fabric of two leaves: VLAN 10 on both, VLAN 20 on the second alone. `first`, `second`: what is different of their tenant."""
    one = leaf(1, tenant("ash", 10, 1, 10, **(first or {})), hosts=(10,))
    other = leaf(2, tenant("ash", 10, 2, 10, 20, **(second or {})), hosts=(10, 20))
    return fabric([one, other], HOSTS)


def climbed(tree: Tree, *patch: dict[str, Any]) -> Climb:
    """Climb a tree after an edit."""
    return Climb(parse_design(patched(tree, list(patch))))


def put(path: str, value: object) -> dict[str, Any]:
    """Return one operation."""
    return {"op": "add", "path": path, "value": value}


def told(climb: Climb, name: str, vrf: str = "ash") -> set[tuple[str, str | None, str | None]]:
    """Return what a table was told on the overlay: (prefix, how, interface)."""
    return {
        (str(r.to), r.learnt, r.interface) for r in climb.site.net.tables[name, vrf].routes if r.origin == "overlay"
    }


def found(climb: Climb) -> list[Finding]:
    """Return every finding, folded ones as well."""
    return [g for f in climb.findings for g in (f, *f.folds)]


def codes(climb: Climb) -> set[str]:
    """Return the codes of what is broken or at risk."""
    return {f.code for f in found(climb) if f.kind.severity != "untidy" and f.code != "lease-missing"}


def test_a_vlan_is_one_on_both_boxes_and_nothing_is_wrong() -> None:
    """RFC 7432 section 4: one broadcast domain; RFC 9135 section 4.1: each host's gateway is that of the box at hand."""
    climb = climbed(two())
    assert {"a:1", "b:1"} <= set(next(s for s in climb.site.segments.all if s.name == "v10").labels)
    for one, other in ("ab", "ba", "ac", "ca", "bc", "cb"):
        assert climb.walk(one, other, "ping").outcome == "delivered", (one, other)
    for host, box in (("a", "l1"), ("b", "l2")):
        went = climb.walk(host, "10.50.10.1", "ping")
        assert (went.outcome, went.receiver and went.receiver.interface and went.receiver.interface.device) == (
            "answered",
            box,
        )
    assert codes(climb) == set()


def test_prefixes_and_hosts_are_told_apart() -> None:
    """RFC 9136 section 4.4.1: prefixes go from table to table; RFC 9135 section 5.1: with symmetric IRB hosts of a stretched VLAN as well."""
    climb = climbed(two())
    by = "VRF ash to l2"
    prefixes = {("10.50.10.0/24", "prefix", by), ("10.50.20.0/24", "prefix", by)}
    assert told(climb, "l1") == prefixes | {("10.50.10.12/32", "host", by), ("10.50.20.13/32", "host", by)}
    assert told(climbed(two(second={"ip": {"irb_mode": "asymmetric"}})), "l1") == prefixes
    listed = climbed(two(second={"ip": {"advertise": ["10.50.20.0/24"], "irb_mode": "asymmetric"}}))
    assert told(listed, "l1") == {("10.50.20.0/24", "prefix", by)}


def test_who_imports_sends_and_not_the_other_way() -> None:
    """RFC 4364 section 4.3.1: l1 imports what l2 exports, so l1 knows where to send; l2 was told nothing."""
    climb = climbed(two(second={"mac": {"import": []}, "ip": {"import": []}}))
    assert told(climb, "l1") != set()
    assert told(climb, "l2") == set()
    labels = {t.label: t for t in climb.site.fabric.attachments}
    assert climb.site.fabric.delivers(labels["a:1"], labels["b:1"])
    assert not climb.site.fabric.delivers(labels["b:1"], labels["a:1"])
    went = climb.walk("a", "b", "ping")
    assert went.cause is not None
    assert (went.outcome, went.cause.root.wrong) == ("stopped", "targets-apart")
    assert went.cause.root.guilty[0] == f"{L2}/mac_vrfs/0/import"


@pytest.mark.parametrize(
    ("second", "one", "other", "wrong", "layer", "guilty", "code"),
    [
        ({"mac": {"vlans": [{"vlan": 10, "vni": 5011}]}}, "a", "b", "vnis-differ", "vlan", "/mac_vrfs/0/vlans/0/vni", "vnis-differ"),
        ({"mac": {"export": ["65000:99"]}}, "a", "b", "targets-apart", "vlan", "/mac_vrfs/0/export", "targets-apart"),
        ({"ip": {"export": ["65000:99"]}}, "a", "c", "not-imported", "route", "/vrfs/1/export", None),
        ({"ip": {"advertise": ["10.50.10.0/24"], "irb_mode": "asymmetric"}}, "a", "c", "not-advertised", "route", "/vrfs/1/advertise", None),
        ({"ip": {"vni": None}}, "a", "c", "without-vni", "route", "/vrfs/1/vni", None),
    ],
)  # fmt: skip
def test_what_keeps_two_boxes_apart_is_named(
    second: dict[str, Any], one: str, other: str, wrong: str, layer: str, guilty: str, code: str | None
) -> None:
    """RFC 8365 section 5.1.1 (equal VNIs), RFC 4364 section 4.3.1 (targets), RFC 9136 (prefixes), RFC 9135 section 4 (the VNI of a table)."""
    climb = climbed(two(second=second))
    went = climb.walk(one, other, "ping")
    assert went.cause is not None
    assert (went.cause.root.wrong, went.cause.layer) == (wrong, layer)
    assert L2 + guilty in went.cause.root.guilty
    assert code is None or code in codes(climb)


def test_what_came_in_from_the_overlay_is_never_sent_into_it_again() -> None:
    """Split horizon (RFC 7432 section 8.3 and 11.1): l1 and l2, l2 and l3 know each other, and that does not join l1 to l3."""

    def of(number: int, imports: list[str], export: str) -> Tree:
        mac = {"import": imports, "export": [export]}
        return leaf(number, tenant("ash", 10, number, 10, mac=mac, ip={"import": [], "export": []}), hosts=(10,))

    leaves = [of(1, ["65000:2"], "65000:1"), of(2, ["65000:1", "65000:3"], "65000:2"), of(3, ["65000:2"], "65000:3")]
    climb = climbed(fabric(leaves, {"a": ("l1", 10, 11), "b": ("l2", 10, 12), "c": ("l3", 10, 13)}))
    reached = {p: climb.walk(*p, "ping").outcome for p in ("ab", "ba", "bc", "cb", "ac", "ca")}
    assert reached == {
        "ab": "delivered",
        "ba": "delivered",
        "bc": "delivered",
        "cb": "delivered",
        "ac": "stopped",
        "ca": "stopped",
    }


def test_the_underlay_carries_it() -> None:
    """RFC 7348 section 5: udp/4789 between the sources, both ways; what stops it is the cause, and nothing else is called broken."""
    down = climbed(two(), put(f"{L2}/vrfs/0/ospf/interfaces/0/area", "7"))
    for one, other in ("ab", "ac"):
        went = down.walk(one, other, "ping")
        assert went.cause is not None
        assert went.outcome == "stopped"
        assert any(p.startswith(f"{L2}/vrfs/0/ospf") for p in went.cause.root.pointers), went.cause.root
    assert {"underlay-lost", "neighbour-apart"} <= codes(down)
    bare = climbed(two(), put(f"{L2}/loopbacks/0/addresses", []))
    lost = next(f for f in found(bare) if f.code == "underlay-lost").cause
    assert lost is not None
    assert (lost.root.wrong, lost.layer) == ("underlay-source", "underlay")
    cut = Climb(parse_design(two()), Conditions(frozenset({"l2:up--spine:2"})))
    assert cut.walk("a", "b", "ping").outcome == "stopped"
    assert cut.walk("b", "c", "ping").outcome == "delivered"


def of_two_tenants(**ash: Any) -> Tree:
    """Return two tenants on each of two leaves, kept apart by an expectation."""
    first = leaf(1, tenant("ash", 10, 1, 10, **ash), tenant("birch", 30, 1, 30), hosts=(10, 30))
    second = leaf(2, tenant("ash", 10, 2, 10), tenant("birch", 30, 2, 30), hosts=(10, 30))
    hosts = {"a": ("l1", 10, 11), "b": ("l2", 10, 12), "x": ("l1", 30, 11), "y": ("l2", 30, 12)}
    tree = fabric([first, second], hosts)
    wanted = {"name": "tenants apart", "from": "v10", "to": "v30", "services": ["any"], "expect": "closed"}
    return tree | {"expectations": [wanted]}


def test_tenants_are_apart_until_a_target_joins_them() -> None:
    """RFC 4364 section 4.3.1: on one box and between boxes; a one-way import is a leak before any reply comes."""
    climb = climbed(of_two_tenants())
    assert {climb.walk(*p, "ping").outcome for p in ("ax", "ay", "xb")} == {"stopped"}
    assert codes(climb) == set()
    targets = ["65000:110", "65000:130"]
    leaky = climbed(of_two_tenants(ip={"import": targets}))
    assert ("10.50.30.0/24", "prefix", "VRF ash to l2 birch") in told(leaky, "l1")
    assert "target-shared" in codes(leaky)
    went = leaky.walk("a", "y", "ping")
    assert (went.outcome, went.layer) == ("stopped", "return")
    joined = climbed(of_two_tenants(ip={"import": targets, "export": targets}))
    assert joined.walk("a", "y", "ping").outcome == "delivered"
    assert joined.walk("a", "x", "ping").outcome == "delivered"
    assert not next(j for j in joined.expectations if j.name == "tenants apart").holds


MISTAKES = [
    (put(f"{L1}/vrfs/1/rd", "10.255.0.1:10"), "rd-twice"),
    (put(f"{L2}/mac_vrfs/0/vlans/1/vni", 5010), "vni-twice"),
    (put(f"{L1}/vrfs/1/vni", 5010), "vni-twice"),
    (put(f"{L2}/vlan_interfaces/0/vrf", "main"), "irb-vrf"),
    (put(f"{L1}/vrfs/1/advertise", ["10.77.0.0/16"]), "advertised-foreign"),
    (put(f"{L1}/mac_vrfs/0/import", []), "targets-apart"),
    (put(f"{L1}/mac_vrfs/0/vlans/0/vni", 5011), "vnis-differ"),
    ({"op": "remove", "path": f"{L1}/vlan_interfaces/0"}, "irb-vrf"),
    (put(f"{L1}/mac_vrfs", []), "underlay-lost"),
    (put(f"{L2}/loopbacks/0/addresses", []), "underlay-lost"),
    (put(f"{L1}/vrfs/1/import", ["65000:110", "65000:130"]), "target-shared"),
    (put(f"{L1}/ports/0/mtu", 1500), "tunnel-too-long"),
]
"""On two leaves with two tenants: an edit, and the code of the finding that it makes."""


@pytest.mark.parametrize(("patch", "code"), MISTAKES)
def test_mistakes_are_found_and_mended(patch: dict[str, Any], code: str) -> None:
    """What a finding says is wrong is gone after its mend, where it has one."""
    tree = patched(of_two_tenants() if code == "target-shared" else two(), [patch])
    told = next(f for f in found(climbed(tree)) if f.code == code)
    known = patch["path"].startswith(f"{L1}/mac_vrfs") or patch["op"] == "remove"  # told where it is missed
    assert known or any(patch["path"].startswith(p) for p in told.pointers if p.count("/") > 2), told.pointers
    if told.mend is not None:
        assert code not in codes(climbed(tree, *told.mend))


@pytest.mark.parametrize(
    ("patch", "at"),
    [
        (put(f"{L1}/mac_vrfs/0/vlans/0/irb", 20), f"{L1}/mac_vrfs/0/vlans/0/irb"),
        (put(f"{L1}/mac_vrfs/0/source", "nowhere"), f"{L1}/mac_vrfs/0/source"),
        (put(f"{L1}/vrfs/1/source", "up"), f"{L1}/vrfs/1/source"),
        (put(f"{L1}/mac_vrfs/0/vlans/1", {"vlan": 10, "vni": 77}), f"{L1}/mac_vrfs/0/vlans/1/vlan"),
        (put(f"{L1}/mac_vrfs/0/rd", "ten"), f"{L1}/mac_vrfs/0/rd"),
    ],
)
def test_what_cannot_be_is_refused_where_it_stands(patch: dict[str, Any], at: str) -> None:
    """One problem, at the place."""
    with pytest.raises(InputRefused) as refused:
        parse_design(patched(two(), [patch]))
    assert at in {p.pointer for p in refused.value.problems}


def test_an_edit_and_back_is_as_from_nothing() -> None:
    """What is kept over an edit is what is computed anew."""
    climb = climbed(two())
    assert climb.walk("a", "c", "ping").outcome == "delivered"
    for patch in (put(f"{L2}/mac_vrfs/0/export", ["65000:99"]), put(f"{L2}/vrfs/1/export", ["65000:99"])):
        edited = climb.edited(parse_design(patched(two(), [patch])))
        anew = climbed(two(), patch)
        for pair in ("ab", "ac", "bc"):
            assert edited.walk(*pair, "ping").outcome == anew.walk(*pair, "ping").outcome
        back = edited.edited(parse_design(two()))
        assert back.walk("a", "c", "ping").outcome == "delivered"


def test_a_vlan_that_is_stretched_on_one_box_alone_is_named() -> None:
    """RFC 7432 section 4: a box without an instance for it takes no part; the box that lacks it is named."""
    tree = two()
    del tree["devices"][0]["mac_vrfs"][0]
    tree["devices"][0]["vrfs"][1]["source"] = "lo"
    went = climbed(tree).walk("b", "a", "ping")
    assert went.cause is not None
    assert (went.cause.root.wrong, went.cause.root.guilty[-1]) == ("not-stretched", L1)
