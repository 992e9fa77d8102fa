"""Access points: whoever joins an SSID stands in its VLAN (IEEE 802.11-2020 section 4.5.3: association), and frames go on as IEEE 802.1Q has them."""

from __future__ import annotations

import copy
from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.design import parse_design, set_membership
from anabasis.errors import InputRefused
from anabasis.fabric import conditions_of
from anabasis.findings import Finding
from tests.sites import Tree, access, plan, switch, trunk

AIR = [{"name": "guests air", "vlan": 12, "isolated": True, "security": "open"}, {"name": "staff", "vlan": 11}]


def quay(*clients: tuple[str, str], uplink: tuple[int, ...] = (11, 12), ssids: Any = AIR) -> Tree:
    """Return a switch with two wired hosts' ports and an access point; clients by (name, SSID)."""
    vlans = plan(11, 12)
    vlans[1]["purpose"] = "visitors"
    mast = {
        "name": "mast",
        "kind": "access-point",
        "ports": [trunk("up", *uplink)],
        "ssids": copy.deepcopy(list(ssids)),
    }
    hosts = [{"name": "desk", "kind": "endpoint", "addresses": ["10.64.11.9/24"]}]
    hosts += [
        {"name": n, "kind": "endpoint", "addresses": [f"10.64.{11 if s == 'staff' else 12}.{30 + k}/24"]}
        for k, (n, s) in enumerate(clients)
    ]
    cables = [["sw:up", "mast:up"], ["sw:1", "desk:1"], *([f"mast:{s}", f"{n}:1"] for n, s in clients)]
    return {
        "anabasis": 1, "name": "Quay", "vlans": vlans, "cables": cables,
        "devices": [switch("sw", access("1", 11), access("2", 12), trunk("up", 11, 12)), mast, *hosts],
    }  # fmt: skip


def climbed(tree: Tree) -> Climb:
    """Climb a tree."""
    return Climb(parse_design(tree))


def failing(tree: Tree, part: str) -> Climb:
    """Climb a tree with one part failed."""
    design = parse_design(tree)
    return Climb(design, conditions_of(design, [part]))


def breaks(climb: Climb) -> list[Finding]:
    """Return what breaks something; nobody routes here, which is nothing new."""
    return [f for f in climb.findings if f.kind.severity == "breaks" and f.code != "gateway-missing"]


def test_a_client_stands_in_the_vlan_of_its_network() -> None:
    """Untagged in the air, tagged on the uplink; the network stays free for others."""
    climb = climbed(quay(("pad", "staff"), ("pod", "staff")))
    segments = {s.name: s.labels for s in climb.site.segments.all}
    assert {"mast:staff", "pad:1", "pod:1", "desk:1"} <= set(segments["v11"])
    for one, two in (("pad", "pod"), ("pad", "desk"), ("desk", "pod")):
        assert climb.walk(one, two, "ping").outcome == "delivered"


def test_isolated_clients_hear_the_wire_and_not_each_other() -> None:
    """As isolated ports of one box do."""
    climb = climbed(quay(("pad", "guests air"), ("pod", "guests air")))
    stopped = climb.walk("pad", "pod", "ping")
    assert (stopped.outcome, stopped.layer) == ("stopped", "isolation")
    assert stopped.decided_by[0] == "/devices/1/ssids/0"
    assert breaks(climb) == []


@pytest.mark.parametrize("end", ["near", "far"])
def test_a_network_whose_vlan_the_uplink_lacks(end: str) -> None:
    """Named is the end that lacks the tag, and the edit that adds it; nobody who is kept apart on purpose is called broken."""
    tree = quay(("pad", "guests air"), ("pod", "guests air"), uplink=(11,) if end == "near" else (11, 12))
    if end == "far":
        tree["devices"][0]["ports"][2]["tagged"] = [11]
    found = breaks(climbed(tree))
    assert [f.code for f in found] == ["island"]
    place = "/devices/1/ports/0" if end == "near" else "/devices/0/ports/2"
    assert place in found[0].pointers
    assert found[0].mend is not None
    assert found[0].mend[0]["path"].startswith(place)
    assert "kept apart" not in found[0].sentence


def test_plugging_in_at_a_network() -> None:
    """The laptop joins beside whoever is there already."""
    climb = climbed(quay(("pad", "staff")))
    found = climb.plug("mast:staff")
    assert (found.vlan, found.segment) == (11, "v11")


def test_an_open_network_into_an_inside_vlan() -> None:
    """A visitors' one may be open; another is found, and closed by the edit."""
    tree = quay(ssids=[AIR[0], {"name": "staff", "vlan": 11, "security": "open"}])
    found = [f for f in climbed(tree).findings if f.code == "ssid-open"]
    assert [f.pointers for f in found] == [("/devices/1/ssids/1",)]
    assert found[0].mend == [{"op": "replace", "path": "/devices/1/ssids/1/security", "value": "own"}]


def test_a_box_that_fails_takes_its_networks_down() -> None:
    """And a client is lost with its own association, by the name of its cable."""
    tree = quay(("pad", "staff"), ("pod", "staff"))
    climb = failing(tree, "mast")
    assert climb.walk("pad", "desk", "ping").cause.root.wrong == "box-failed"  # type: ignore[union-attr]
    lone = failing(tree, "mast:staff--pad:1")
    assert lone.walk("pad", "desk", "ping").outcome == "stopped"
    assert lone.walk("pod", "desk", "ping").outcome == "delivered"


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda t: t["cables"].append(["mast:staff", "sw:2"]), "only an endpoint joins an SSID"),
        (lambda t: t["devices"][1]["ssids"].append({"name": "up", "vlan": 11}), "the port or SSID 'up' is given twice"),
        (lambda t: t["cables"].append(["mast:staf", "desk:2"]), "did you mean"),
    ],
)
def test_what_cannot_be_is_refused(change: Any, said: str) -> None:
    """In one clear sentence."""
    tree = quay()
    change(tree)
    with pytest.raises(InputRefused, match=said):
        parse_design(tree)


def test_a_cell_of_a_network_in_the_grid() -> None:
    """Untagged in another VLAN is the edit of its VLAN; in none, or with a tag, it cannot be."""
    edit = set_membership(quay(), "mast", "staff", 12, "untagged")
    assert edit == [{"op": "replace", "path": "/devices/1/ssids/1/vlan", "value": 12}]
    for cell in ("none", "tagged"):
        with pytest.raises(InputRefused, match="one VLAN"):
            set_membership(quay(), "mast", "staff", 11, cell)  # type: ignore[arg-type]
