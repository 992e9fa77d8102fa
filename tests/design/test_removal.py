"""Whatever is taken out, the document stays whole, and what goes with it is said first."""

from __future__ import annotations

from pathlib import Path

import pytest

from anabasis.design import all_links, apply, load_file, remove, remove_zone
from anabasis.errors import UnknownPlace
from tests.counts import RUN

DEMO = load_file(Path(__file__).parents[2] / "demo" / "tidewrack.yaml").raw
THINGS = [entry.pointer for entry in all_links(DEMO)]


@pytest.mark.parametrize("pointer", THINGS[:: 8 if RUN == "check" else 1])
def test_everything_can_be_taken_out(pointer: str) -> None:
    """The result is a valid document without the thing."""
    removal = remove(DEMO, pointer)
    after, _ = apply(DEMO, removal.patch)
    kind = pointer.split("/")[-2]
    assert after != DEMO
    if kind not in ("cables", "routes", "subinterfaces", "vlan_interfaces"):
        titles = [(e.kind, e.title) for e in all_links(after)]
        gone = next((e.kind, e.title) for e in all_links(DEMO) if e.pointer == pointer)
        assert gone not in titles


def test_a_zone_says_what_leans_on_it_and_takes_its_rules() -> None:
    """A rule that spoke of this zone alone goes; one that spoke of others too stays."""
    zone = next(e.pointer for e in all_links(DEMO) if e.title == "gate tills")
    removal = remove(DEMO, zone)
    assert "Rule gate tills-out" in removal.drops
    _, design = apply(DEMO, removal.patch)
    gate = next(d for d in design.devices if d.name == "gate")
    assert "tills-out" not in {r.name for r in gate.rules}  # type: ignore[union-attr]
    assert "guests-out" in {r.name for r in gate.rules}  # type: ignore[union-attr]


def test_a_set_inside_a_set_goes_from_both() -> None:
    """A set that is left empty goes with it, and so do the rules that named only that."""
    tree = {
        "anabasis": 1,
        "name": "Sets",
        "services": [{"name": "a", "members": ["tcp/1"]}, {"name": "b", "members": ["a"]}],
        "devices": [
            {
                "name": "gate",
                "kind": "firewall",
                "zones": [{"name": "in"}],
                "rules": [{"name": "r", "from": ["in"], "to": ["in"], "services": ["b"], "action": "permit"}],
                "answers": [{"name": "own", "services": ["b"]}],
                "ports": [{"name": "1", "mode": "routed", "zone": "in", "answers": "own"}],
            }
        ],
    }
    _, design = apply(tree, remove(tree, "/services/0").patch)
    gate = design.devices[0]
    assert not design.services
    assert not gate.rules  # type: ignore[union-attr]
    assert not gate.answers  # type: ignore[union-attr]
    assert gate.ports[0].answers is None


@pytest.mark.parametrize("pointer", ["", "/vlans/99", "/devices/4/failover", "/name", "/devices/4/ports/0/zone"])
def test_what_is_no_thing_cannot_be_taken_out(pointer: str) -> None:
    """It says so."""
    with pytest.raises(UnknownPlace):
        remove(DEMO, pointer)


def test_a_zone_goes_alike_whether_its_device_or_the_whole_document_is_read() -> None:
    """Only its own device names it, but for an expectation that speaks of it by name."""
    ends = {e[k] for e in DEMO["expectations"] for k in ("from", "to")}
    zones = [
        (d, z, x["zones"][z]["name"]) for d, x in enumerate(DEMO["devices"]) for z in range(len(x.get("zones", [])))
    ]
    alone = [(d, z) for d, z, name in zones if name not in ends]
    assert alone
    for d, z in alone:
        assert remove_zone(DEMO, d, z) == remove(DEMO, f"/devices/{d}/zones/{z}").patch


def test_what_stands_beside_has_no_say_in_the_edit() -> None:
    """Of two rules the first goes as the first, whatever is written on it: an edit that is kept stays right when a note changes."""
    raw = DEMO
    d = next(k for k, x in enumerate(raw["devices"]) if x["name"] == "gate")
    zone = raw["devices"][d]["rules"][0]["from"][0]
    z = next(k for k, x in enumerate(raw["devices"][d]["zones"]) if x["name"] == zone)
    plain = remove_zone(raw, d, z)
    noted = apply(raw, [{"op": "add", "path": f"/devices/{d}/rules/0/note", "value": "why"}])[0]
    assert remove_zone(noted, d, z) == plain
    assert {s["op"] for s in plain} == {"remove"}
