"""A new VLAN in one action, and a VLAN taken out everywhere."""

from __future__ import annotations

import pytest

from anabasis.climb import Climb
from anabasis.design import Loaded, NewVlan, apply, new_vlan, remove_vlan, suggest_subnet
from anabasis.errors import InputRefused, UnknownPlace

RAYS = NewVlan(
    125,
    "ray-pool",
    "10.64.125.0/24",
    ["tank-sw:to-gate-a", "tank-sw:to-gate-b"],
    ["tank-sw:2"],
    "gate:tank",
    "water",
)


def test_everything_it_needs_is_one_edit(demo: Loaded) -> None:
    """Plan, table, uplinks, port, gateway: the new segment is whole and reaches its zone."""
    design = apply(demo.raw, new_vlan(demo.raw, RAYS))[1]
    climb = Climb(design)
    segment = climb.site.segments.all[climb.segment("ray-pool")]
    assert (segment.subnets, segment.island) == (("10.64.125.0/24",), False)
    assert "gate-a:tank.125" in segment.labels
    assert climb.walk("ray-pool", "tank-sensors", "https").outcome == "delivered"
    assert [f.code for f in climb.findings] == ["lease-missing"]


def test_switched_only(demo: Loaded) -> None:
    """Without subnet and gateway it is a VLAN and nothing more."""
    design = apply(demo.raw, new_vlan(demo.raw, NewVlan(126, "nursery", None, [], ["tank-sw:9"])))[1]
    assert Climb(design).site.segments.all[Climb(design).segment("nursery")].subnets == ()


@pytest.mark.parametrize(
    ("wanted", "said"),
    [
        (NewVlan(110, "again"), "given twice"),
        (NewVlan(5000, "x"), "4094"),
        (NewVlan(127, "x", "10.64.1.1/24"), "host bits"),
    ],
)
def test_what_cannot_be_is_refused_by_the_document(demo: Loaded, wanted: NewVlan, said: str) -> None:
    """An id taken, an id that is none, a subnet that is none."""
    with pytest.raises(InputRefused, match=said):
        apply(demo.raw, new_vlan(demo.raw, wanted))


@pytest.mark.parametrize(
    "wanted",
    [
        NewVlan(127, "x", uplinks=["tank-sw:nope"]),
        NewVlan(127, "x", gateway="gate:nope"),
        NewVlan(127, "x", gateway="gat:tank"),
    ],
)
def test_ports_that_are_none(demo: Loaded, wanted: NewVlan) -> None:
    """Named with the nearest."""
    with pytest.raises(UnknownPlace):
        new_vlan(demo.raw, wanted)


def test_the_sites_pattern(demo: Loaded) -> None:
    """The third octet is the VLAN's id; a subnet in use is not suggested."""
    assert suggest_subnet(demo.design, 125) == "10.64.125.0/24"
    assert suggest_subnet(demo.design, 130) is None
    assert suggest_subnet(demo.design, 161) is None  # inside the visitors' /23
    assert suggest_subnet(demo.design, 900) is None


@pytest.mark.parametrize("vlan", [110, 120, 130, 140, 150, 151, 160, 170, 171, 180, 190, 900, 910, 999])
def test_any_vlan_of_the_demo_can_be_taken_out(demo: Loaded, vlan: int) -> None:
    """Leases and routes on its interfaces go with it; the rest stays a valid design that never names it."""
    design = apply(demo.raw, remove_vlan(demo.raw, vlan))[1]
    assert vlan not in {v for s in Climb(design).site.segments.all for v in s.vlan_ids}


def test_a_vlan_is_taken_out_everywhere(demo: Loaded) -> None:
    """And nothing else: made and taken out again, the document is as it was."""
    made = apply(demo.raw, new_vlan(demo.raw, RAYS))[0]
    gone = apply(made, remove_vlan(made, 125))[0]
    assert "125" not in str(gone).replace("10.64.125", "")
    assert gone["vlans"] == demo.raw["vlans"]
    tables = [d.get("vlans") for d in gone["devices"]]
    assert tables == [d.get("vlans") for d in demo.raw["devices"]]


def test_a_box_that_puts_new_vlans_everywhere(demo: Loaded) -> None:
    """Every bridged port that nobody chose otherwise for carries it tagged."""
    patch = [{"op": "add", "path": "/devices/6/new_vlan", "value": "tagged_everywhere"}]
    tree = apply(demo.raw, patch)[0]
    edited = apply(tree, new_vlan(tree, RAYS))[0]
    ports = {p["name"]: p for p in edited["devices"][6]["ports"]}
    assert 125 in ports["7"]["tagged"]
    assert all(125 in {*p.get("tagged", []), *p.get("untagged", [])} or p.get("mode") == "lag" for p in ports.values())
