"""Making things: proposals by the site's own pattern, and edits that do what they say or refuse with the place."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.design import Loaded, Patch, apply, load_file
from anabasis.design.making import (
    KINDS,
    BundlePorts,
    CopyTenant,
    InlinePair,
    LittleSwitch,
    MakePair,
    NewCables,
    NewDevice,
    NewHost,
    NewPorts,
    NewThing,
    VlanList,
    bundle_ports,
    copy_tenant,
    fresh,
    inline_pair,
    little_switch,
    make,
    make_pair,
    new_cables,
    new_device,
    new_host,
    new_ports,
    port_names_of,
    unique_fields,
    vlan_list,
)
from anabasis.errors import InputRefused, UnknownPlace
from anabasis.wording import noted

STARTS = Path(__file__).resolve().parents[2] / "demo" / "starts"
EMPTY: dict[str, Any] = {"anabasis": 1, "name": "Boat house"}


def built(*steps: Any, on: dict[str, Any] = EMPTY) -> dict[str, Any]:
    """Return the document after some edits, each worked out on what the one before made."""
    tree = on
    for step in steps:
        tree = apply(tree, step(tree))[0]
    return tree


@pytest.mark.parametrize(
    ("text", "names"),
    [
        ("1-4", ["1", "2", "3", "4"]),
        ("1/0/1-3", ["1/0/1", "1/0/2", "1/0/3"]),
        ("a-c, wan", ["a", "b", "c", "wan"]),
        ("eth0", ["eth0"]),
        ("to-gate", ["to-gate"]),
        ("", []),
    ],
)
def test_patterns_of_port_names(text: str, names: list[str]) -> None:
    """Numbers and letters in ranges, others as they are."""
    assert port_names_of(text) == names


@pytest.mark.parametrize("text", ["5-1", "1-9999", "1, 1-2"])
def test_patterns_that_name_no_ports(text: str) -> None:
    """Backwards, too many, or one twice: refused with the place."""
    with pytest.raises(InputRefused, match="ports"):
        port_names_of(text)


LAB_VRF = "/devices/7/vrfs/0"


def owners(raw: dict[str, Any]) -> list[str]:
    """Return every pointer at which something may be made."""
    out = [""]
    for d, device in enumerate(raw.get("devices", [])):
        out.append(f"/devices/{d}")
        for key in (
            "ports",
            "lags",
            "vrfs",
            "rules",
            "dhcp" if device["kind"] != "endpoint" else "",
            "vlan_interfaces",
        ):
            for i, entry in enumerate(device.get(key, [])):
                out.append(f"/devices/{d}/{key}/{i}")
                out += [f"/devices/{d}/{key}/{i}/ospf"] if "ospf" in entry else []
                out += [f"/devices/{d}/{key}/{i}/subinterfaces/{k}" for k in range(len(entry.get("subinterfaces", [])))]
    return out


def test_every_kind_can_be_proposed_and_made_wherever_it_belongs(demo: Loaded) -> None:
    """Law: a proposal is made, or refused for what a person has yet to say; nothing else ever happens."""
    made = dict.fromkeys(KINDS, 0)
    raw = apply(demo.raw, make(demo.raw, NewThing("ospf", LAB_VRF, {"router_id": "10.64.171.2"})))[0]
    for at in owners(raw):
        for kind in KINDS:
            try:
                wanted = fresh(raw, kind, at)
            except (UnknownPlace, InputRefused):
                continue
            try:
                apply(raw, make(raw, NewThing(kind, at, wanted.value)))
            except InputRefused:
                continue
            made[kind] += 1
    asks = {
        "vlan",
        "addresses",
        "services",
        "expectation",
        "reservation",
        "inline-pair",
        "unit",
        "stub-area",
        "remote-access",
        "offer",
        "filter-entry",
        "mac-vrf",
        "stretched",
    }
    assert {k for k, n in made.items() if not n} <= asks


def test_proposals_follow_the_site(demo: Loaded) -> None:
    """The next VLAN, the gateway's usual place, the zone of the neighbours, a range in the middle of a subnet."""
    assert fresh(demo.raw, "port", "/devices/5").value == {"name": "25"}
    sub = fresh(demo.raw, "subinterface", "/devices/4/lags/1").value
    assert (sub["tag"], sub["addresses"], sub["zone"]) == (150, ["10.64.150.2/24"], "water")
    office = load_file(STARTS / "small-office.yaml").raw
    assert fresh(office, "vlan", "").value == {"id": 40, "name": "", "subnets": ["10.20.40.0/24"]}
    bare = apply(office, [{"op": "remove", "path": "/devices/1/dhcp/2"}])[0]
    lease = fresh(bare, "lease", "/devices/1").value
    assert (lease["interface"], lease["gateway"], lease["ranges"]) == (
        "2.30",
        "10.20.30.1",
        ["10.20.30.102-10.20.30.204"],
    )
    bare = apply(office, [{"op": "remove", "path": "/devices/1/vrfs"}])[0]
    assert fresh(bare, "route", "/devices/1").value == {"to": "0.0.0.0/0", "via": "198.51.100.1"}


def test_a_site_from_nothing() -> None:
    """Boxes with ports by pattern, cables side by side that carry what both ends know, hosts in their VLANs."""
    tree = built(
        lambda t: new_device(t, NewDevice("switch", "quay", "1-8")),
        lambda t: new_device(t, NewDevice("switch", "shed", "1/0/1-4")),
        lambda t: make(t, NewThing("vlan", "", {"id": 10, "name": "crew", "subnets": ["10.9.10.0/24"]})),
        lambda t: new_cables(t, NewCables("quay:7-8", "shed:1/0/3-4")),
        lambda t: new_host(t, NewHost("mate", "quay:1", 10, "10.9.10.5/24")),
        lambda t: new_host(t, NewHost("bosun", "shed:1/0/1", 10, "10.9.10.6/24")),
        lambda t: bundle_ports(t, BundlePorts("quay", "7-8", "to-shed")),
    )
    quay, shed = tree["devices"][:2]
    assert quay["lags"] == [{"name": "to-shed", "protocol": "lacp-active", "tagged": [10]}]
    assert shed["lags"] == [{"name": "to-quay", "protocol": "lacp-active", "tagged": [10]}]
    assert shed["ports"][2] == {"name": "1/0/3", "mode": "lag", "lag": "to-quay"}
    climb = Climb(apply(tree, [])[1])
    assert climb.walk("mate", "bosun", "ssh").outcome == "delivered"
    assert [f.code for f in climb.findings if f.kind.severity == "breaks"] == ["gateway-missing"]


@pytest.mark.parametrize(
    ("edit", "said"),
    [
        (lambda t: new_cables(t, NewCables("quay:1-2", "quay:3")), "as many ports"),
        (lambda t: new_cables(t, NewCables("key:1", "quay:3")), "no box of this name"),
        (lambda t: new_cables(t, NewCables("quay", "quay:3")), "an end is box:ports"),
        (lambda t: new_ports(t, NewPorts("quay", "")), "names no port"),
        (lambda t: bundle_ports(t, BundlePorts("quay", "", "b")), "a bundle has members"),
        (lambda t: inline_pair(t, InlinePair("quay", "1-3", "line")), "two ends"),
        (lambda t: make(t, NewThing("zone", "/devices/0", {"name": "z"})), "can stand here"),
        (lambda t: make(t, NewThing("moat", "", {})), "no such kind"),
        (lambda t: make_pair(t, MakePair("quay")).patch, "only firewalls"),
    ],
)
def test_what_cannot_be_made(edit: Any, said: str) -> None:
    """Each is refused with what was given and what is allowed."""
    tree = built(lambda t: new_device(t, NewDevice("switch", "quay", "1-8")))
    with pytest.raises(InputRefused, match=said):
        edit(tree)


def test_an_inline_pair_of_two_ports() -> None:
    """What they said of other modes goes; the pair names them."""
    tree = built(
        lambda t: new_device(t, NewDevice("firewall", "veil", "1-4")),
        lambda t: inline_pair(t, InlinePair("veil", "1, 2", "line")),
    )
    veil = tree["devices"][0]
    assert veil["wires"] == [{"name": "line", "ends": ["1", "2"]}]
    assert veil["ports"][:2] == [{"name": "1", "mode": "inline"}, {"name": "2", "mode": "inline"}]


def a_pair(patch_of: Any = None) -> tuple[dict[str, Any], list[str]]:
    """Return the small office with its firewall made a pair, behind a switch of its own on both sides."""
    office = load_file(STARTS / "small-office.yaml").raw
    tree = built(
        lambda t: [{"op": "remove", "path": "/cables/0"}],
        lambda t: new_device(t, NewDevice("switch", "front-sw", "1-3")),
        lambda t: make(t, NewThing("vlan", "", {"id": 90, "name": "handover", "purpose": "transit"})),
        lambda t: [{"op": "add", "path": f"/devices/3/ports/{k}/{key}", "value": v} for k in (0, 1) for key, v in (("pvid", 90), ("untagged", [90]))],
        lambda t: new_cables(t, NewCables("internet:1", "front-sw:1")),
        lambda t: new_cables(t, NewCables("front-sw:2", "front:1")),
        on=office,
    )  # fmt: skip
    made = make_pair(tree, MakePair("front"))
    return apply(tree, made.patch)[0], made.missing


def test_a_firewall_made_a_pair_takes_over() -> None:
    """Its second unit is cabled beside the first, into the same VLANs; with the first unit dead the office still works."""
    tree, missing = a_pair()
    assert missing == []
    climb = Climb(apply(tree, [])[1])
    pair = tree["devices"][1]
    assert [u["name"] for u in pair["units"]] == ["front-a", "front-b"]
    assert pair["failover"]["heartbeats"] == ["5", "6"]
    assert not [f for f in climb.findings if f.kind.severity == "breaks"]
    event = climb.failover(["front-a"])
    assert event.standings[0].election.active == ("front-b",)
    dead = Climb(apply(tree, [])[1], event.standings and _failed(tree, "front-a"))
    assert dead.walk("staff", "internet", "https").outcome == "delivered"


def _failed(tree: dict[str, Any], part: str) -> Any:
    from anabasis.fabric import conditions_of

    return conditions_of(apply(tree, [])[1], [part])


def test_what_a_pair_cannot_cable_is_said() -> None:
    """A cable straight to an outside has no port beside it; a pair is made all the same."""
    office = load_file(STARTS / "small-office.yaml").raw
    made = make_pair(office, MakePair("front", "north", "south"))
    assert [noted(m) for m in made.missing] == ["south:1 has no port beside internet:1"]
    patch: Patch = made.patch
    assert [u["name"] for u in apply(office, patch)[0]["devices"][1]["units"]] == ["north", "south"]
    with pytest.raises(InputRefused, match="a pair already"):
        make_pair(apply(office, patch)[0], MakePair("front"))


@pytest.mark.parametrize("file", sorted(STARTS.glob("*.yaml")), ids=lambda f: f.stem)
def test_starting_points_are_sound(file: Path) -> None:
    """Nothing to mend, and every expectation holds."""
    climb = Climb(load_file(file).design)
    assert climb.findings == []
    assert climb.expectations
    assert all(e.holds for e in climb.expectations)


def test_a_pasted_list_of_vlans() -> None:
    """Columns in any order, headings and comments passed over, what is known left alone; a line without a number is refused with its place."""
    text = "VLAN\tName\tSubnet\n10\tcrew\t10.9.10.0/24\n# later\nfish hall;20;10.9.20.0/24\n30"
    tree = apply(EMPTY, vlan_list(EMPTY, VlanList(text)))[0]
    assert tree["vlans"] == [
        {"id": 10, "name": "crew", "subnets": ["10.9.10.0/24"]},
        {"id": 20, "name": "fish hall", "subnets": ["10.9.20.0/24"]},
        {"id": 30, "name": "vlan30"},
    ]
    assert vlan_list(tree, VlanList(text)) == []
    with pytest.raises(InputRefused, match="line 2"):
        vlan_list(EMPTY, VlanList("10 crew\nnothing here"))


def test_a_firewall_as_a_little_switch() -> None:
    """Two hosts on spare ports are switched, have leases and a gateway, and nothing is left to mend."""
    office = load_file(STARTS / "small-office.yaml").raw
    tree = built(lambda t: little_switch(t, LittleSwitch("front", "3-5", "lab")), on=office)
    climb = Climb(apply(tree, [])[1])
    assert climb.findings == []
    one, two = climb.plug("front:3"), climb.plug("front:5")
    assert (one.segment, one.gateway) == ("lab", "10.20.40.1")
    assert one.address != two.gateway
    assert climb.walk("lab", "10.20.40.1", "ping").outcome == "answered"
    with pytest.raises(InputRefused, match="something else"):
        little_switch(office, LittleSwitch("front", "2-3", "lab"))
    with pytest.raises(InputRefused, match="two ports"):
        little_switch(office, LittleSwitch("front", "3", "lab"))


EXHIBITION = STARTS.parent / "tidewrack-exhibition.yaml"


def test_another_tenant_shares_nothing_that_has_to_be_unique() -> None:
    """Law: the copy's VLANs, subnets, VNIs, targets and distinguishers are its own; it works as the other does, and the two are apart."""
    raw = load_file(EXHIBITION).raw
    for tenant in ("shells", "kelp"):
        wanted = CopyTenant(tenant)
        fields = unique_fields(raw, wanted)
        assert {f.kind for f in fields} == {"VLAN", "VLAN name", "subnet", "VNI", "target", "distinguisher"}
        assert len({(f.kind, f.proposed) for f in fields}) == len(fields)
        tree, design = apply(raw, copy_tenant(raw, wanted))
        climb = Climb(design)
        alike = {
            "rd-twice",
            "vni-twice",
            "target-shared",
            "subnet-overlap",
            "address-twice",
            "targets-apart",
            "vnis-differ",
            "irb-vrf",
        }
        assert not {g.code for f in climb.findings for g in (f, *f.folds)} & alike
        stands = next(f.proposed for f in fields if f.kind == "VLAN name" and f.was.endswith("stands"))
        number = next(v["id"] for v in tree["vlans"] if v["name"] == stands)
        joined = next(s for s in climb.site.segments.all if s.name == stands)
        assert {f"leaf-{side}:vlan{number}" for side in ("east", "west")} <= set(joined.labels)
        assert [t["name"] for d in tree["devices"] for t in d.get("mac_vrfs", [])].count(f"{tenant}-2") == 2


def test_a_tenant_that_would_be_alike_is_refused() -> None:
    """One value that another tenant has, a subnet that overlaps, a name that is there: each with the place and one that is free."""
    raw = load_file(EXHIBITION).raw
    for values in (
        {"VNI 5010": "5030"},
        {"target 65000:10": "65000:30"},
        {"subnet 10.50.10.0/24": "10.50.30.0/25"},
        {"VLAN 10": "30"},
    ):
        with pytest.raises(InputRefused) as refused:
            copy_tenant(raw, CopyTenant("shells", "mussels", values))
        problem = refused.value.problems[0]
        assert problem.pointer == f"/values/{next(iter(values))}"
        assert problem.nearest
    with pytest.raises(InputRefused):
        copy_tenant(raw, CopyTenant("shells", "kelp"))
    with pytest.raises(UnknownPlace):
        copy_tenant(raw, CopyTenant("shels"))
    own = unique_fields(raw, CopyTenant("shells", "mussels", {"VNI 5010": "7777"}))
    assert ("VNI", "5010", "7777") in {(f.kind, f.was, f.proposed) for f in own}
    assert ("VLAN name", "shells-store", "mussels-store") in {(f.kind, f.was, f.proposed) for f in own}


def test_a_tenant_whose_gateways_stand_in_the_common_table_is_copied_whole() -> None:
    """On a plain multilayer switch: the gateway that its instance names comes along, and stays in its table."""
    raw = load_file(STARTS / "plant-floor.yaml").raw
    for kind, at in (("loopback", "/devices/2"), ("mac-vrf", "/devices/2"), ("stretched", "/devices/2/mac_vrfs/0")):
        raw = apply(raw, make(raw, NewThing(kind, at, fresh(raw, kind, at).value)))[0]
    tree, _ = apply(raw, copy_tenant(raw, CopyTenant("tenant", "annex")))
    one, two = tree["devices"][2]["mac_vrfs"]
    assert (one["name"], two["name"]) == ("tenant", "annex")
    gateway = tree["devices"][2]["vlan_interfaces"][-1]
    assert gateway["vlan"] == two["vlans"][0]["vlan"]
    assert gateway["addresses"] != tree["devices"][2]["vlan_interfaces"][0]["addresses"]
