"""Renaming changes every reference and nothing else; renumbering a VLAN likewise."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from anabasis.design import all_links, apply, inverse, load_file, rename, renumber
from anabasis.design.mentions import mentions
from anabasis.errors import InputRefused, UnknownPlace
from tests.counts import RUN

DEMO = load_file(Path(__file__).parents[2] / "demo" / "tidewrack.yaml").raw
NAMED = [
    entry.pointer for entry in all_links(DEMO) if entry.kind not in ("Cable", "Route", "Subinterface", "VLAN interface")
]


@pytest.mark.parametrize("pointer", NAMED[:: 8 if RUN == "check" else 1])
def test_every_named_thing_can_be_renamed_and_back(pointer: str) -> None:
    """The document stays whole, the old name is mentioned nowhere it meant the thing, and the way back leads home."""
    renamed, _ = apply(DEMO, rename(DEMO, pointer, "heron"))
    old = next(e["name"] for e in [_at(DEMO, pointer)])
    again, _ = apply(renamed, rename(renamed, pointer, old))
    assert again == DEMO
    assert apply(renamed, inverse(DEMO, renamed))[0] == DEMO
    called = [m for m in mentions(DEMO) if m.value == old]
    assert len([m for m in mentions(renamed) if m.value == old]) <= len(called)


def test_a_zone_is_renamed_in_rules_interfaces_and_translations() -> None:
    """All of one device, and no other's."""
    zone = next(e.pointer for e in all_links(DEMO) if e.title == "gate house")
    renamed, _ = apply(DEMO, rename(DEMO, zone, "staff"))
    assert not [m for m in mentions(renamed) if m.kind == "zone" and m.value == "house"]
    assert json.dumps(renamed).count('"staff"') == json.dumps(DEMO).count('"house"')


def test_a_bundle_takes_its_subinterfaces_along() -> None:
    """Leases and watches name `hall.130` and `hall`."""
    lag = next(e.pointer for e in all_links(DEMO) if e.title == "gate hall")
    renamed, design = apply(DEMO, rename(DEMO, lag, "house-trunk"))
    gate = next(d for d in design.devices if d.name == "gate")
    assert {s.interface for s in gate.dhcp} >= {"house-trunk.130"}  # type: ignore[union-attr]
    assert not [m for m in mentions(renamed) if m.kind in ("interface", "lag") and str(m.value).split(".")[0] == "hall"]


def test_a_vlan_gets_another_number_everywhere() -> None:
    """Tables, tags, memberships, and the interfaces named after it."""
    renumbered, design = apply(DEMO, renumber(DEMO, "/vlans/2", 135))
    assert not [m for m in mentions(renumbered) if m.kind == "vlan" and m.value == 130]
    gate = next(d for d in design.devices if d.name == "gate")
    assert "hall.135" in {s.interface for s in gate.dhcp}  # type: ignore[union-attr]


@pytest.mark.parametrize(
    ("pointer", "name", "said"),
    [
        ("/devices/4/zones/0", "street", "called that already"),
        ("/devices/4/zones/99", "x", "nothing with a name"),
        ("/cables/0", "x", "nothing with a name"),
    ],
)
def test_what_cannot_be_renamed_says_why(pointer: str, name: str, said: str) -> None:
    """Nothing is changed."""
    with pytest.raises((InputRefused, UnknownPlace), match=said):
        rename(DEMO, pointer, name)


def test_a_name_that_is_taken_is_refused_when_applied() -> None:
    """The document's own check says where."""
    with pytest.raises(InputRefused, match="given twice"):
        apply(DEMO, rename(DEMO, "/devices/4/zones/0", "house"))


def test_a_number_that_is_taken_is_refused() -> None:
    """Two VLANs never become one."""
    with pytest.raises(InputRefused, match="has this VLAN already"):
        renumber(DEMO, "/vlans/2", 140)


def _at(tree: object, pointer: str) -> dict[str, str]:
    for step in pointer.split("/")[1:]:
        tree = tree[int(step) if isinstance(tree, list) else step]  # type: ignore[index]
    return tree  # type: ignore[return-value]
