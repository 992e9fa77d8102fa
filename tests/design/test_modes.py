"""A port switched from one mode to another: what goes with it, what is missing, and nothing else touched."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anabasis.design import Loaded, NewMode, apply, inverse, load_file, switch_mode
from anabasis.errors import InputRefused, UnknownPlace
from tests.conftest import ROOT

GATE = 4
DEMO = load_file(ROOT / "demo" / "tidewrack.yaml").raw
PORTS = [(d["name"], p["name"]) for d in DEMO["devices"] for k in ("ports", "lags") for p in d.get(k, [])]


def port(tree: dict[str, Any], name: str) -> dict[str, Any]:
    """Return a port or bundle of the firewall."""
    gate = tree["devices"][GATE]
    found: dict[str, Any] = next(p for p in (*gate["ports"], *gate["lags"]) if p["name"] == name)
    return found


def test_inline_to_routed_drops_the_pair(demo: Loaded) -> None:
    """The wire goes, its other end is named, the zone of another kind goes; an address and a zone are then missing."""
    switched = switch_mode(demo.raw, NewMode("gate", "12", "routed"))
    assert any("inline pair chiller-line" in d and "13 is left" in d for d in switched.drops)
    assert any(d.startswith("zone ") for d in switched.drops)
    assert any("address" in m for m in switched.missing)
    assert "a zone of kind routed" in switched.missing
    tree, _ = apply(demo.raw, switched.patch)
    assert all("12" not in w["ends"] for w in tree["devices"][GATE].get("wires", []))


def test_what_is_given_is_not_missing(demo: Loaded) -> None:
    """Address and zone come with the switch; nothing that is needed is missing."""
    wanted = NewMode("gate", "12", "routed", zone="water", addresses=["10.64.77.1/24"])
    switched = switch_mode(demo.raw, wanted)
    assert switched.missing == []
    entry = port(apply(demo.raw, switched.patch)[0], "12")
    assert (entry["mode"], entry["zone"], entry["addresses"]) == ("routed", "water", ["10.64.77.1/24"])


def test_routed_to_bridged_drops_what_stood_on_it(demo: Loaded) -> None:
    """Subinterfaces, leases and watches of a bundle go with its routed mode."""
    switched = switch_mode(demo.raw, NewMode("gate", "hall", "bridged", vlan=130))
    for words in ("subinterface hall.130", "DHCP server on hall.160"):
        assert any(words in d for d in switched.drops), switched.drops
    assert "a zone of kind bridged" in switched.missing
    gate = apply(demo.raw, switched.patch)[0]["devices"][GATE]
    assert not any(x["interface"].startswith("hall.") for x in gate["dhcp"])


def test_two_ports_become_an_inline_pair(demo: Loaded) -> None:
    """The wire between them is made, of a name that is free."""
    one = apply(demo.raw, switch_mode(demo.raw, NewMode("gate", "12", "off")).patch)[0]
    two = apply(one, switch_mode(one, NewMode("gate", "12", "inline", pair_with="13")).patch)[0]
    assert {"name": "12-13", "ends": ["12", "13"]} in two["devices"][GATE]["wires"]


def test_a_heartbeat_joins_and_leaves_the_pair(demo: Loaded) -> None:
    """The list of heartbeats follows the mode."""
    tree = apply(demo.raw, switch_mode(demo.raw, NewMode("gate", "8", "off")).patch)[0]
    assert tree["devices"][GATE]["failover"]["heartbeats"] == ["7"]
    back = apply(tree, switch_mode(tree, NewMode("gate", "8", "heartbeat")).patch)[0]
    assert back["devices"][GATE]["failover"]["heartbeats"] == ["7", "8"]


def test_a_member_leaves_its_bundle(demo: Loaded) -> None:
    """And where it was the last one, that is said."""
    once = switch_mode(demo.raw, NewMode("gate", "4", "off"))
    assert "its place in bundle tank" in once.drops
    assert not any("bundle tank" in m for m in once.missing)
    tree = apply(demo.raw, once.patch)[0]
    assert "a member of bundle tank" in switch_mode(tree, NewMode("gate", "5", "off")).missing


@pytest.mark.parametrize(
    ("wanted", "words"),
    [
        (NewMode("hall-sw", "1", "inline"), "only a firewall"),
        (NewMode("gate", "tank", "lag", lag="hall"), "a bundle cannot be lag"),
        (NewMode("gate", "12", "lag", lag="tnak"), "did you mean 'tank'"),
        (NewMode("gate", "12", "routed", zone="chiller"), "zone of that kind"),
        (NewMode("gate", "12", "inline", pair_with="12"), "two different ends"),
        (NewMode("desk-7", "1", "off"), "no mode to choose"),
    ],
)
def test_what_cannot_be_is_refused(demo: Loaded, wanted: NewMode, words: str) -> None:
    """One clear error, with what is allowed or the nearest name."""
    with pytest.raises(InputRefused) as refused:
        switch_mode(demo.raw, wanted)
    assert words in str(refused.value)


def test_a_port_that_is_none(demo: Loaded) -> None:
    """The nearest name is offered."""
    with pytest.raises(UnknownPlace, match="tank"):
        switch_mode(demo.raw, NewMode("gate", "tankk", "off"))


@given(st.sampled_from(PORTS), st.sampled_from(("bridged", "routed", "inline", "heartbeat", "off")))
def test_every_switch_is_whole_or_refused_and_can_be_undone(place: tuple[str, str], mode: Any) -> None:
    """Any port of the demo into any mode: a checked document after it, and the inverse gives back the one before."""
    try:
        switched = switch_mode(DEMO, NewMode(*place, mode))
    except InputRefused:
        return
    tree, _ = apply(DEMO, switched.patch)
    assert apply(tree, inverse(DEMO, tree))[0] == DEMO
    assert switch_mode(tree, NewMode(*place, mode)).drops == []


def test_a_zone_that_holds_this_port_alone_follows_its_kind() -> None:
    """And what it still lacks is said: a way on, rules that speak of the zone."""
    tree = {
        "anabasis": 1,
        "name": "Shed",
        "devices": [
            {
                "name": "shed",
                "kind": "firewall",
                "ports": [
                    {"name": "1", "mode": "bridged", "zone": "pens"},
                    {"name": "2", "mode": "bridged", "zone": "yard"},
                    {"name": "3", "mode": "bridged", "zone": "yard"},
                ],
                "zones": [{"name": "pens", "kind": "bridged"}, {"name": "yard", "kind": "bridged"}],
            }
        ],
    }
    found = switch_mode(tree, NewMode("shed", "1", "routed", zone="pens", addresses=["10.64.5.1/24"]))
    after = apply(tree, found.patch)[0]
    assert after["devices"][0]["zones"][0] == {"name": "pens", "kind": "routed"}
    assert "zone pens: it was of kind bridged" in found.drops
    assert [m for m in found.missing if "way on" in m]
    assert [m for m in found.missing if "rules" in m]
    with pytest.raises(InputRefused, match="takes a zone of that kind"):
        switch_mode(tree, NewMode("shed", "2", "routed", zone="yard"))
