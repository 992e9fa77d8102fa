"""YANG data (RFC 7951): what is written is read back, with our module and without it; what others write is told; what is hostile is refused."""

from __future__ import annotations

import copy
import json
import re
import subprocess
import sys
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from yangson import DataModel
from yangson.enumerations import ContentType

from anabasis.climb import Climb
from anabasis.design import apply, load_file, parse_design
from anabasis.errors import AnabasisError, InputRefused
from anabasis.facts import Assumed
from anabasis.interchange import from_objects, read, seen_of, site_data, to_objects, write
from anabasis.interchange.drift import compare
from anabasis.interchange.yang.files import box_data, boxes_of, load, site_of
from anabasis.interchange.yang.own import decode, encode, overlay, rest
from anabasis.policy import Terms
from tests.counts import count, law
from tests.sites import Tree, sites
from tests.sound import ACROSS, sound_site
from tests.sound_fabrics import FABRICS, sound_fabric

ROOT = Path(__file__).parents[2]
DEMOS = sorted((ROOT / "demo").glob("*.yaml"))
EMPTY: Tree = {"anabasis": 1, "name": "Empty", "devices": []}


def plain(tree: Any) -> Any:
    """Return a document as JSON has it."""
    return json.loads(json.dumps(tree))


def bare(value: Any) -> Any:
    """Return data without what our own module says."""
    if isinstance(value, dict):
        return {k: bare(v) for k, v in value.items() if not k.startswith("anabasis-site:")}
    return [bare(v) for v in value] if isinstance(value, list) else value


def said(tree: Tree) -> dict[str, Tree]:
    """Return the data of each box."""
    terms = Terms(parse_design(tree))
    return {d["name"]: plain(box_data(d, tree.get("vlans", []), terms)) for d in tree["devices"]}


def all_sound() -> list[Tree]:
    """Return sites of every feature."""
    n = count(60, 6)
    seeds = [*range(n), *range(ACROSS, ACROSS + n), *range(FABRICS, FABRICS + n)]
    return [plain(sound_fabric(s) if s >= FABRICS else sound_site(s)) for s in seeds]


@pytest.mark.parametrize("path", DEMOS, ids=lambda p: p.stem)
def test_the_demos_come_back(path: Path) -> None:
    """Into nothing as they were, and into themselves as no edit at all."""
    tree = plain(load_file(path).raw)
    text = write("yang", tree)
    found = read("", text, EMPTY)
    assert found.kind == "yang"
    assert apply(EMPTY, found.patch)[0] == tree
    assert read("yang", text, tree).patch == []


def test_nothing_comes_back_as_nothing() -> None:
    """No box is made up for a site without any."""
    assert read("yang", write("yang", EMPTY), EMPTY).patch == []


@law(1500, 40)
@given(sites())
def test_what_is_written_is_read(tree: Tree) -> None:
    """Any site, its order and its notes included."""
    data = load(write("yang", plain(tree)))
    assert (site_of(data) or {}) | {"devices": [b.device for b in boxes_of(data)]} == plain(tree)


def test_sound_sites_come_back() -> None:
    """Tunnels, tenants, wireless networks and pairs included; and box by box as well, with the sets that rules name."""
    for tree in all_sound():
        data = load(write("yang", tree))
        assert (site_of(data) or {}) | {"devices": [b.device for b in boxes_of(data)]} == tree
        assert compare(tree, boxes_of(data)) == []
    one = tree["devices"][2]["name"]
    assert read("yang", write("yang", tree, one), tree).patch == []


PARTS = st.recursive(
    st.none() | st.booleans() | st.integers(0, 9) | st.text("ab-_", max_size=3),
    lambda inner: (
        st.lists(inner.filter(lambda v: not isinstance(v, list)), max_size=3)
        | st.dictionaries(st.sampled_from(["name", "tag", "ports", "gateway", "some_key"]), inner, max_size=3)
    ),
    max_leaves=8,
)


@law(3000, 300)
@given(
    st.dictionaries(st.sampled_from(["a", "b", "ports"]), PARTS, max_size=3),
    st.dictionaries(st.sampled_from(["a", "b", "ports"]), PARTS, max_size=3),
)
def test_the_rest_on_top_is_the_whole(one: Tree, two: Tree) -> None:
    """Whatever the standards' part gave back, what is laid on top of it makes the document."""
    assert overlay(one, rest(one, two)) == two


def test_our_nodes_say_the_same() -> None:
    """What is written with the nodes of our module reads back: maps, lists without names, words or lists, nothing at all."""
    part: Tree = {
        "dhcp": [{"interface": "1", "options": {"66": "x"}}, {"interface": "2", "exclude": []}],
        "gateway": ["10.0.0.1"],
        "vrf": None,
        "translate": {"10": 20},
        "cables": [["a:1", "b:2"], ["a:2", "b:1"]],
        "failover": {},
    }
    data = plain(encode(part))
    assert decode(data) == part
    assert data["gateway-list"] == ["10.0.0.1"]
    assert [e["position"] for e in data["dhcp"]] == [1, 2]


def test_the_standards_part_says_the_same() -> None:
    """Without our module: what a box's data give back is what its design gives back, for every box of every site."""
    for tree in (*all_sound(), *(plain(load_file(p).raw) for p in DEMOS)):
        differ = compare(tree, [seen_of(bare(data), name) for name, data in said(tree).items()])
        assert [d for d in differ if d.path[0] != "cables"] == []


MORE = {"note", "name", "kind", "vlans", "spanning_tree", "stp_priority", "units"}
"""What a box may say beyond the standards and be the same to every engine."""


@law(600, 25)
@given(sites())
def test_without_our_module_it_computes_the_same(tree: Tree) -> None:
    """Segments, tables and reach, where all that a box says is what the standards can say; its kind is guessed."""
    tree = plain(tree)
    whole = said(tree)
    other = copy.deepcopy(tree)
    replaced = 0
    for k, device in enumerate(tree["devices"]):
        box = seen_of(bare(whole[device["name"]]), device["name"])
        left = rest(box.device, device)
        if device["kind"] in ("switch", "router") and not set(left) - MORE and not left.get("left_out"):
            other["devices"][k] = box.device
            replaced += 1
    one, two = Climb(parse_design(tree)), Climb(parse_design(other))
    assert [s.name for s in one.site.segments.all] == [s.name for s in two.site.segments.all]
    for key, table in one.site.net.tables.items():
        told = [(r.to, r.origin, r.hop, r.interface, r.active) for r in table.routes]
        assert told == [(r.to, r.origin, r.hop, r.interface, r.active) for r in two.site.net.tables[key].routes]
    assert np.array_equal(one.sweep.fingerprints, two.sweep.fingerprints)


def test_by_objects_nothing_is_lost_twice() -> None:
    """What comes back by SNMP is the same when it goes out and comes back again."""
    for tree in (*all_sound()[:6], plain(load_file(DEMOS[-1]).raw)):
        for data in site_data(Climb(parse_design(tree)), tree).values():
            once = from_objects(to_objects(plain(data)))
            assert from_objects(to_objects(plain(once))) | {"ietf-routing:routing": 0} == once | {
                "ietf-routing:routing": 0
            }


CHECKED = (
    "ietf-interfaces", "iana-if-type", "ietf-ip", "ietf-routing", "ietf-ipv4-unicast-routing", "ietf-ipv6-unicast-routing", "ietf-network",
    "ietf-access-control-list", "ietf-vrrp", "ietf-network-topology", "ietf-system", "ietf-l3-unicast-topology", "ietf-nat", "anabasis-site",
)  # fmt: skip
USED = (
    "ietf-yang-types",
    "ietf-inet-types",
    "ietf-packet-fields",
    "ietf-ethertypes",
    "ietf-netconf-acm",
    "iana-crypt-hash",
    "ietf-routing-types",
)
SUB = "ietf-ipv6-router-advertisements"
STATE = ("higher-layer-if", "lower-layer-if")


@cache
def models() -> DataModel:
    """Return the standards' modules that are at hand, and ours."""
    share = Path(sys.prefix) / "share/yang/modules"
    folders = [share / "ietf", share / "iana", ROOT / "docs/yang"]

    def described(name: str) -> Tree:
        text = next(p for f in folders for p in f.glob(f"{name}.yang")).read_text(encoding="utf-8")
        revision, space = (
            re.search(r'^\s*revision\s+"?([\d-]+)', text, re.M),
            re.search(r'namespace\s+"?([^";\s]+)', text),
        )
        known: Tree = {"name": name, "revision": revision[1] if revision else ""}
        if space is not None:
            known |= {"namespace": space[1], "feature": re.findall(r"^\s*feature ([\w-]+)", text, re.M)}
        return known

    listed = [described(n) | {"conformance-type": "implement"} for n in CHECKED]
    listed += [described(n) | {"conformance-type": "import"} for n in USED]
    next(m for m in listed if m["name"] == "ietf-ipv6-unicast-routing")["submodule"] = [described(SUB)]
    library = {"ietf-yang-library:modules-state": {"module-set-id": "tests", "module": listed}}
    return DataModel(json.dumps(library), [str(f) for f in folders])


def at_hand(value: Any) -> Any:
    """Return data without modules that no package brings, and without state."""
    if isinstance(value, dict):
        good = {k: v for k, v in value.items() if k not in STATE and (":" not in k or k.partition(":")[0] in CHECKED)}
        return {k: at_hand(v) for k, v in good.items()}
    if isinstance(value, list):
        return [
            at_hand(v) for v in value if not (isinstance(v, dict) and str(v.get("type", "")).startswith("ietf-ospf"))
        ]
    return value


@pytest.mark.parametrize("path", DEMOS, ids=lambda p: p.stem)
def test_data_are_valid_by_their_modules(path: Path) -> None:
    """As RFC 7950 section 8 has it: types, keys, references and conditions, ours included."""
    tree = plain(load_file(path).raw)
    for data in said(tree).values():
        models().from_raw(at_hand(data)).validate(ctype=ContentType.config)
    site = at_hand(load(write("yang", tree)))
    for box in site["anabasis-site:site"]["device"]:
        box["content"] = {}
    models().from_raw(site).validate(ctype=ContentType.config)


def test_our_module_is_well_formed() -> None:
    """As pyang reads RFC 7950, the modules it augments included."""
    share, tool = Path(sys.prefix) / "share/yang/modules", Path(sys.executable).parent / "pyang"
    module = ROOT / "docs/yang/anabasis-site.yang"
    done = subprocess.run([tool, "-p", share, module], capture_output=True, text=True, check=False)
    assert (done.returncode, done.stdout, done.stderr) == (0, "", "")


FOREIGN = """<data xmlns="urn:ietf:params:xml:ns:netconf:base:1.0">
  <interfaces xmlns="urn:ietf:params:xml:ns:yang:ietf-interfaces">
    <interface><name>1</name><type xmlns:i="urn:ietf:params:xml:ns:yang:iana-if-type">i:ethernetCsmacd</type>
      <ipv4 xmlns="urn:ietf:params:xml:ns:yang:ietf-ip"><forwarding>true</forwarding>
        <address><ip>10.64.9.1</ip><prefix-length>24</prefix-length></address></ipv4></interface>
    <interface><name>2</name><type xmlns:i="urn:ietf:params:xml:ns:yang:iana-if-type">i:ethernetCsmacd</type><enabled>false</enabled>
      <link-up-down-trap-enable>enabled</link-up-down-trap-enable></interface>
    <interface><name>modem</name><type xmlns:i="urn:ietf:params:xml:ns:yang:iana-if-type">i:ppp</type></interface>
  </interfaces>
  <system xmlns="urn:ietf:params:xml:ns:yang:ietf-system"><hostname>shed</hostname><location>pier</location></system>
</data>"""


def test_xml_of_others_is_read() -> None:
    """Namespaces lead to modules; what has no place is named with how often it comes; the kind is guessed and said."""
    found = read("", FOREIGN, EMPTY)
    (shed,) = apply(EMPTY, found.patch)[0]["devices"]
    assert (shed["name"], shed["kind"], shed["ports"][0]["addresses"]) == ("shed", "router", ["10.64.9.1/24"])
    assert shed["ports"][1]["enabled"] is False
    told = {(a.what, a.name) for a in found.assumed}
    assert {
        (Assumed.DEVICE, "shed"),
        (Assumed.FOREIGN, "location"),
        (Assumed.FOREIGN, "link-up-down-trap-enable"),
        (Assumed.FOREIGN, "shed modem"),
    } == told


def test_a_box_of_others_changes_what_it_speaks_of_alone() -> None:
    """Its zone and its rules stay; a port that it does not mention stays, unless that is asked for."""
    tree = plain(load_file(DEMOS[-1]).raw)
    gate = next(d for d in tree["devices"] if d["name"] == "gate")
    data = bare(said(tree)["gate"])
    data["ietf-interfaces:interfaces"]["interface"] = [
        i | {"enabled": False} if i["name"] == "1" else i
        for i in data["ietf-interfaces:interfaces"]["interface"]
        if i["name"] != "13"
    ]
    after = apply(tree, read("yang", json.dumps(data), tree).patch)[0]
    now = next(d for d in after["devices"] if d["name"] == "gate")
    assert [p.get("enabled", True) for p in now["ports"]] == [p["name"] != "1" for p in now["ports"]]
    assert {k: v for k, v in now.items() if k != "ports"} == {k: v for k, v in gate.items() if k != "ports"}
    assert [p["name"] for p in now["ports"]] == [p["name"] for p in gate["ports"]]


BOMB = '<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]><data>&b;</data>'
HOSTILE = {
    "bomb": BOMB,
    "outside": '<!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/hostname">]><data>&a;</data>',
    "deep": "<a>" * 5000 + "</a>" * 5000,
    "nested": "[" * 100_000,
    "words": "<data>hello",
    "list": "[1, 2]",
    "number": '{"ietf-interfaces:interfaces": 7',
    "other": '{"a": 1}',
}


@pytest.mark.parametrize("name", sorted(HOSTILE))
def test_hostile_files_are_refused(name: str) -> None:
    """With one error, quickly, and nothing half-done."""
    with pytest.raises(AnabasisError):
        read("yang", HOSTILE[name], EMPTY)


ODD = st.recursive(
    st.none() | st.booleans() | st.integers(-5, 70000) | st.text("a1.:/", max_size=6),
    lambda inner: st.lists(inner, max_size=3)
    | st.dictionaries(
        st.sampled_from(
            ["name", "interface", "type", "vid", "ietf-ip:ipv4", "address", "ip", "prefix-length", "bridge", "component", "vlan", "port-map", "acl", "aces", "ace", "matches", "tcp"]
        ),
        inner,
        max_size=4,
    ),
    max_leaves=12,
)  # fmt: skip


@law(4000, 250)
@given(
    st.dictionaries(
        st.sampled_from(
            ["ietf-interfaces:interfaces", "ieee802-dot1q-bridge:bridges", "ietf-routing:routing", "ietf-access-control-list:acls", "anabasis-site:switch", "ieee802-dot1ab-lldp:lldp"]
        ),
        ODD,
        min_size=1,
    )
)  # fmt: skip
def test_whatever_is_sent_is_read_or_refused(data: Tree) -> None:
    """Never a fault of ours, never a document that would not be one."""
    try:
        found = read("yang", json.dumps(data), EMPTY)
    except InputRefused:
        return
    apply(EMPTY, found.patch)


SHED: Tree = {
    "anabasis": 1,
    "name": "Shed",
    "devices": [
        {
            "name": "shed",
            "kind": "router",
            "ports": [
                {"name": "in", "addresses": ["10.64.9.1/24"]},
                {"name": "out", "addresses": ["198.51.100.9/24"]},
                {"name": "side", "addresses": ["203.0.113.9/24"]},
            ],
            "nat": [],
        }
    ],
}
ENTRIES: list[Tree] = [
    {"name": "goes-out", "to": ["out"], "source_to": "interface"},
    {"name": "by-pool", "to": ["out", "side"], "sources": ["10.64.9.0/25"], "source_to": "198.51.100.32-198.51.100.40"},
    {"name": "one-host", "sources": ["10.64.9.7"], "source_to": "198.51.100.7", "one_to_one": True},
    {"name": "whole-net", "to": ["side"], "sources": ["10.64.9.0/24"], "source_to": "203.0.113.0/24", "one_to_one": True},
    {"name": "tides", "from": ["out"], "destinations": ["198.51.100.5"], "services": ["tcp/443"], "destination_to": "10.64.9.5"},
    {"name": "moved", "destinations": ["198.51.100.6"], "services": ["udp/53"], "destination_to": "10.64.9.5", "service_to": "udp/5353"},
    {"name": "all-of-it", "destinations": ["198.51.100.8"], "destination_to": "10.64.9.8", "enabled": False},
    {"name": "range", "destinations": ["198.51.100.6"], "services": ["tcp/20-29", "udp"], "destination_to": "10.64.9.6"},
]  # fmt: skip
BEYOND: list[Tree] = [
    {"name": "who-comes-in", "from": ["in"], "to": ["out"], "source_to": "interface"},
    {"name": "where-to", "destinations": ["203.0.113.0/24"], "source_to": "interface"},
    {"name": "six", "sources": ["fd64::/64"], "source_to": "fd64:0:0:1::/64"},
    {"name": "both", "destinations": ["198.51.100.5"], "destination_to": "10.64.9.5", "source_to": "interface"},
    {"name": "by-message", "destinations": ["198.51.100.5"], "services": ["icmp/8"], "destination_to": "10.64.9.5"},
]


@pytest.mark.parametrize("entry", ENTRIES, ids=lambda e: e["name"])
def test_translation_by_the_standard(entry: Tree) -> None:
    """Without our module an entry that RFC 8512 can say comes back as it was, and is valid by that module."""
    tree = plain(SHED)
    tree["devices"][0]["nat"] = [entry]
    data = bare(said(tree)["shed"])
    models().from_raw(at_hand(data)).validate(ctype=ContentType.config)
    assert seen_of(data, "shed").device["nat"] == [entry]


@pytest.mark.parametrize("entry", BEYOND, ids=lambda e: e["name"])
def test_translation_beyond_the_standard_is_not_said_wrongly(entry: Tree) -> None:
    """What RFC 8512 has no words for is told by our module alone, and comes back by it."""
    tree = plain(SHED)
    tree["devices"][0]["nat"] = [ENTRIES[0], entry]
    data = said(tree)["shed"]
    assert [e["name"] for e in seen_of(bare(data), "shed").device["nat"]] == ["goes-out"]
    assert seen_of(data).device == tree["devices"][0]


def test_translation_of_zones() -> None:
    """A zone is the interfaces it holds; held against a box that knows none, an entry is of the zones the document has."""
    tree = plain(load_file(DEMOS[-1]).raw)
    gate = next(d for d in tree["devices"] if d["name"] == "gate")
    data = bare(said(tree)["gate"])
    (told,) = data["ietf-nat:nat"]["instances"]["instance"]
    assert told["name"] == "publish-tides"
    entry = told["mapping-table"]["mapping-entry"][0]
    entry["internal-dst-address"] = "10.64.170.11/32"
    (found,) = compare(tree, [seen_of(data, "gate")])
    assert (found.device, found.path, found.site) == (
        "gate",
        ("nat", "publish-tides", "destination_to"),
        "10.64.170.11",
    )
    after = apply(tree, read("yang", json.dumps(data | {"ietf-system:system": {"hostname": "gate"}}), tree).patch)[0]
    gate["nat"][0]["destination_to"] = "10.64.170.11"
    assert after == tree


def test_translation_of_others_that_we_have_none_of_is_told() -> None:
    """As NAT64: no entry is made of it."""
    instance = {
        "id": 4,
        "type": "ietf-nat:nat64",
        "policy": [{"id": 1, "nat64-prefixes": [{"nat64-prefix": "64:ff9b::/96"}]}],
    }
    box = seen_of(bare(said(SHED)["shed"]) | {"ietf-nat:nat": {"instances": {"instance": [instance]}}}, "shed")
    assert "nat" not in box.device
    assert box.lost == ("translation-4",)
