"""Jobs on chosen ports, on sound sites: spare ports joined to a routed one change nobody's reach, and only-theirs leaves one VLAN a port."""

from __future__ import annotations

import copy
from collections import Counter
from typing import Any

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from anabasis.climb import Climb
from anabasis.design import Tree, apply
from anabasis.design.devices import DEFAULT_MODE
from anabasis.design.edits import patched
from anabasis.design.making import (
    JoinRouted,
    NewPorts,
    OnlyTheirs,
    PhoneAndDesk,
    RemovePorts,
    RenamePorts,
    join_routed,
    new_ports,
    only_theirs,
    phone_and_desk,
    remove_ports,
    rename_ports,
)
from anabasis.errors import InputRefused
from tests.counts import law
from tests.sound import sound_site


def ports(tree: Tree, mode: str) -> list[tuple[str, Tree]]:
    """Return ports of boxes that are in a mode."""
    return [
        (d["name"], p)
        for d in tree["devices"]
        if d["kind"] in ("switch", "router", "firewall")
        for p in d.get("ports", [])
        if p.get("mode", DEFAULT_MODE[d["kind"]]) == mode
    ]


def reach(climb: Climb) -> dict[tuple[str, str], Any]:
    """Return the verdict of every pair."""
    return {(v.source, v.target): (v.verdict, v.layer) for v in climb.verdicts().all}


@law(1500, 15)
@given(st.integers(0, 10**6), st.data())
def test_spare_ports_joined_to_a_routed_one_change_nobodys_reach(seed: int, data: st.DataObject) -> None:
    """What named the port names the VLAN interface: rules, leases, routes, translations and the pair's watch go on."""
    tree = sound_site(seed)
    routed = [(d, p) for d, p in ports(tree, "routed") if p.get("addresses")]
    assume(routed)
    device, port = data.draw(st.sampled_from(routed))
    tree = apply(tree, new_ports(tree, NewPorts(device, "spare1-2")))[0]
    before = copy.deepcopy(tree)
    wanted = JoinRouted(device, port["name"], "spare1-2", "ropeyard")
    after, design = apply(tree, join_routed(tree, wanted))
    assert tree == before
    now, then = reach(Climb(design)), reach(Climb(apply(tree, [])[1]))
    assert {pair: now[pair] for pair in then if pair in now} == {pair: v for pair, v in then.items() if pair in now}
    box = next(d for d in after["devices"] if d["name"] == device)
    joined = [p for p in box["ports"] if p["name"] in (port["name"], "spare1", "spare2")]
    assert len({(p["pvid"], *p["untagged"], p.get("zone")) for p in joined}) == 1
    assert not any("addresses" in p for p in joined)


@law(600, 40)
@given(st.integers(0, 10**6), st.data())
def test_ports_keep_the_vlan_of_their_hosts_and_no_other(seed: int, data: st.DataObject) -> None:
    """A second time there is nothing to change; a telephone adds its tag and nothing else, and the same again takes it off."""
    tree = sound_site(seed)
    bridged = [(d, p) for d, p in ports(tree, "bridged") if p.get("pvid")]
    assume(bridged)
    device, port = data.draw(st.sampled_from(bridged))
    alone = apply(tree, only_theirs(tree, OnlyTheirs(device, port["name"])))[0]
    assert only_theirs(alone, OnlyTheirs(device, port["name"])) == []
    phone = data.draw(st.sampled_from([v["id"] for v in tree["vlans"] if v["id"] != port["pvid"]]))
    both = apply(alone, phone_and_desk(alone, PhoneAndDesk(device, port["name"], phone=phone)))[0]
    held = next(p for d, p in ports(both, "bridged") if (d, p["name"]) == (device, port["name"]))
    assert (held["pvid"], held["untagged"], held["tagged"]) == (port["pvid"], [port["pvid"]], [phone])
    again = apply(both, only_theirs(both, OnlyTheirs(device, port["name"])))[0]
    kept = [p for d, p in ports(again, "bridged") if (d, p["name"]) == (device, port["name"])]
    assert kept == [p for d, p in ports(alone, "bridged") if (d, p["name"]) == (device, port["name"])]


@law(1500, 15)
@given(st.integers(0, 10**6), st.data())
def test_ports_that_change_names_with_each_other_change_nothing(seed: int, data: st.DataObject) -> None:
    """Two ports swap their names, and swap them back: the document is what it was; in between nobody's reach changes."""
    tree = sound_site(seed)
    boxes = [d for d in tree["devices"] if len(d.get("ports", [])) > 1]
    device = data.draw(st.sampled_from(boxes))
    a, b = (p["name"] for p in data.draw(st.permutations(device["ports"]))[:2])
    swapped, design = apply(tree, rename_ports(tree, RenamePorts(device["name"], f"{a}, {b}", f"{b}, {a}")))
    now, then = reach(Climb(design)), reach(Climb(apply(tree, [])[1]))
    both = now.keys() & then.keys()  # a segment without a name is called after its ports
    assert both
    assert {pair: now[pair] for pair in both} == {pair: then[pair] for pair in both}
    assert Counter(now.values()) == Counter(then.values())
    assert apply(swapped, rename_ports(swapped, RenamePorts(device["name"], f"{a}, {b}", f"{b}, {a}")))[0] == tree


@law(1500, 15)
@given(st.integers(0, 10**6), st.data())
def test_ports_taken_out_together_are_as_taken_out_one_by_one(seed: int, data: st.DataObject) -> None:
    """Whatever leans on several of them goes once."""
    tree = sound_site(seed)
    boxes = [d for d in tree["devices"] if len(d.get("ports", [])) > 2 and d["kind"] != "endpoint"]
    device = data.draw(st.sampled_from(boxes))
    names = [p["name"] for p in data.draw(st.permutations(device["ports"]))[:2]]
    one_by_one = tree
    for name in names:
        one_by_one = patched(one_by_one, remove_ports(one_by_one, RemovePorts(device["name"], name)).patch)
    assert patched(tree, remove_ports(tree, RemovePorts(device["name"], ", ".join(names))).patch) == one_by_one


def test_new_names_are_as_many_as_the_ports_and_nobody_elses() -> None:
    """A refusal says how many there have to be, and which name is taken."""
    tree = sound_site(1)
    device = next(d for d in tree["devices"] if len(d.get("ports", [])) > 2)
    a, b, c = (p["name"] for p in device["ports"][:3])
    with pytest.raises(InputRefused, match="1 names"):
        rename_ports(tree, RenamePorts(device["name"], f"{a}, {b}", "x"))
    with pytest.raises(InputRefused, match="another port"):
        rename_ports(tree, RenamePorts(device["name"], f"{a}, {b}", f"x, {c}"))
