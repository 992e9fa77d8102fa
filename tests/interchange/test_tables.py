"""Plain tables: what is written and read back is the same, rows that have no place are told and nothing else is lost (docs/formats.md)."""

from __future__ import annotations

import copy
import csv
import io
import json
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anabasis.cells import escaped, unescaped
from anabasis.design import Loaded, apply, load_file, parse_design
from anabasis.errors import InputRefused
from anabasis.facts import Assumed
from anabasis.interchange import TABLES, read, write
from anabasis.interchange.cells import as_list, lines_of, words_of
from anabasis.interchange.tables import kind_of, read_table, write_table
from anabasis.wording import taken_for_granted
from tests.counts import law
from tests.sites import Tree, sites

EMPTY: Tree = {"anabasis": 1, "name": "Empty", "devices": []}


@pytest.mark.parametrize("kind", TABLES)
@pytest.mark.parametrize("name", ["tidewrack", "tidewrack-bay", "tidewrack-exhibition", "tidewrack-first-day"])
def test_what_is_written_is_read_back(kind: str, name: str) -> None:
    """Every table of every demo, read into the design it came from, changes nothing and loses no row."""
    raw = load_file(f"demo/{name}.yaml").raw
    found = read_table(kind, write_table(kind, raw), raw)
    assert found.patch == []
    assert not found.unplaced
    assert found.kept == 0


@law(2000, 40)
@given(sites(), st.sampled_from(sorted(TABLES)))
def test_of_any_site(tree: Tree, kind: str) -> None:
    """The same of generated sites."""
    parse_design(tree)
    found = read_table(kind, write_table(kind, tree), tree)
    assert not found.unplaced
    assert parse_design(apply(tree, found.patch)[0]) == parse_design(tree)


@law(400, 20)
@given(
    sites(),
    st.sampled_from(("ports", "routes", "rules", "vlans", "interfaces", "cables")),
    st.randoms(use_true_random=False),
)
def test_what_was_changed_comes_back(tree: Tree, kind: str, chance: Any) -> None:
    """Things of a kind lose some settings; the table written before gives them back, whatever their order in it."""
    table = write_table(kind, tree)
    head, *rows = list(csv.reader(io.StringIO(table, newline="")))
    chance.shuffle(rows)
    bare = copy.deepcopy(tree)
    for device in bare["devices"]:
        for port in device.get("ports", []) if kind == "ports" else []:
            for key in ("pvid", "untagged", "tagged", "note"):
                port.pop(key, None)
        for rule in device.get("rules", []) if kind == "rules" else []:
            rule["action"] = "drop"
    for vlan in bare["vlans"] if kind == "vlans" else []:
        vlan.pop("subnets", None)
    text = io.StringIO(newline="")
    csv.writer(text, delimiter=";").writerows([head, *rows])
    found = read_table(kind, text.getvalue(), bare)
    assert not found.unplaced
    given_back = write_table(kind, apply(bare, found.patch)[0])
    assert sorted(given_back.splitlines()) == sorted(table.splitlines())


texts = st.text(st.characters(codec="utf-8", exclude_characters="\r\x00", exclude_categories=("Cs",)), max_size=12)


@given(st.lists(texts))
def test_a_list_in_a_cell(values: list[str]) -> None:
    """Whatever its entries hold, it is read as it was written."""
    assert words_of(as_list(values)) == values


@given(texts)
def test_no_cell_is_a_formula(text: str) -> None:
    """Nothing that is written begins as one, and it is read as it was meant."""
    assert not escaped(text).startswith(("=", "+", "-", "@", "\t"))
    assert unescaped(escaped(text)) == text


def test_a_port_list_makes_a_site_from_nothing() -> None:
    """96 ports on two boxes, with the VLANs they name: one edit, and everything assumed is said."""
    rows = ["Switch\tPort\tAccess VLAN\tTrunk VLANs\tDescription"]
    rows += [f"quay-{b}\t{n}\t{10 + n % 3}\t\tstall {n}" for b in "ab" for n in range(1, 48)]
    rows += [f"quay-{b}\t48\t\t10-12\tup" for b in "ab"]
    found = read_table("ports", "\n".join(rows), EMPTY)
    assert (found.placed, found.unplaced) == (96, ())
    tree = apply(EMPTY, found.patch)[0]
    assert [len(d["ports"]) for d in tree["devices"]] == [48, 48]
    assert sorted(v["id"] for v in tree["vlans"]) == [10, 11, 12]
    assert tree["devices"][0]["ports"][47] == {"name": "48", "note": "up", "tagged": [10, 11, 12]}
    assert [a.name for a in found.assumed if a.what == Assumed.DEVICE] == ["quay-a", "quay-b"]
    assert {a.what for a in found.assumed} == {Assumed.HEADING, Assumed.DEVICE, Assumed.VLAN}
    assert all(taken_for_granted(a) for a in found.assumed)


def test_rows_without_a_place_are_told_and_the_rest_is_placed(demo: Loaded) -> None:
    """Each with its line, what was given and why; a row that the document refuses as a whole is one of them."""
    text = "id,name,subnets\n300,new-one,10.77.0.0/24\nabc,bad,\n301,bad-net,10.77.1.5/24\n302,keepers,\n\n303,last,\n"
    found = read_table("vlans", text, demo.raw)
    assert [(u.line, u.text.split("\t")[0]) for u in found.unplaced] == [(3, "abc"), (4, "301"), (5, "302")]
    assert found.placed == 2
    assert all(u.problem.sentence() for u in found.unplaced)
    after = apply(demo.raw, found.patch)[0]
    assert [v["id"] for v in after["vlans"]][-2:] == [300, 303]
    assert after["devices"] == demo.raw["devices"]


def test_a_column_that_is_not_there_leaves_its_setting(demo: Loaded) -> None:
    """And an empty cell takes it away."""
    found = read_table("vlans", "id,name\n110,water-of-life\n", demo.raw)
    vlan = next(v for v in apply(demo.raw, found.patch)[0]["vlans"] if v["id"] == 110)
    before = next(v for v in demo.raw["vlans"] if v["id"] == 110)
    assert vlan == {**before, "name": "water-of-life"}
    assert found.kept == len(demo.raw["vlans"]) - 1
    found = read_table("vlans", "id,note\n110,\n", demo.raw)
    assert "note" not in next(v for v in apply(demo.raw, found.patch)[0]["vlans"] if v["id"] == 110)


def test_replace_takes_out_what_no_row_speaks_of(demo: Loaded) -> None:
    """In the lists that rows are about, and nowhere else; what others lean on is refused."""
    gate = next(d for d in demo.raw["devices"] if d["kind"] == "firewall")
    one = gate["rules"][0]["name"]
    text = f"name,from,to,action\n{one},{as_list(gate['rules'][0]['from'])},{as_list(gate['rules'][0]['to'])},permit\n"
    found = read_table("rules", text, demo.raw, replace=True)
    after = apply(demo.raw, found.patch)[0]
    assert [r["name"] for r in next(d for d in after["devices"] if d["kind"] == "firewall")["rules"]] == [one]
    with pytest.raises(InputRefused):
        read_table("zones", "device,name,kind\ngate,street,routed\n", demo.raw, replace=True)


@pytest.mark.parametrize(
    ("line", "found"),
    [
        ("a,b\n1,2", ("1", "2")),
        ("a;b\n1;2,3", ("1", "2,3")),
        ("a\tb\n1\t2;3", ("1", "2;3")),
        ('﻿a,b\r\n"1\n1","2""3"', ("1\n1", '2"3')),
    ],
)
def test_separators(line: str, found: tuple[str, ...]) -> None:
    """The mark that the first line has most of; a byte order mark, line ends and quotes as RFC 4180 has them."""
    assert lines_of(line)[1].cells == found


def test_headings_are_guessed_and_said(demo: Loaded) -> None:
    """Other words, another order, capitals, a typing error; without a line of headings the columns are in their order."""
    found = read_table("vlans", "VLAN Name;VID;Descripton\nnew-one;310;hello\n", demo.raw)
    assert found.columns == ("name", "id", "note") or found.columns == ("name", "id", None)
    assert found.placed == 1
    bare = read_table("vlans", "311 \tplain\t10.78.0.0/24\n", demo.raw)
    assert [a.what for a in bare.assumed] == [Assumed.HEADINGS]
    assert apply(demo.raw, bare.patch)[0]["vlans"][-1] == {"id": 311, "name": "plain", "subnets": ["10.78.0.0/24"]}


def test_the_kind_is_told_by_the_headings(demo: Loaded) -> None:
    """Each table that is written is taken for one of its kind, or of one that has the same columns."""
    for kind in TABLES:
        guessed = kind_of(write_table(kind, demo.raw))
        assert guessed == kind or (guessed, kind) == ("sets", "service-sets"), kind
    assert kind_of("1,2,3\n") is None


@pytest.mark.parametrize(
    ("kind", "text"),
    [("vlans", ""), ("boats", "id\n1\n"), ("vlans", 'id,name\n1,"never closed'), ("vlans", "id\n" * 60_000)],
)
def test_what_is_no_table_is_refused_whole(kind: str, text: str) -> None:
    """One error, and nothing happens."""
    with pytest.raises(InputRefused):
        read_table(kind, text, EMPTY)


def test_cables_side_by_side_and_hosts(demo: Loaded) -> None:
    """A row of ports each, a host with its place; a port that is taken is told."""
    tree = apply(
        EMPTY,
        read_table("ports", "device,port\n" + "".join(f"{b},{n}\n" for b in "ab" for n in range(1, 9)), EMPTY).patch,
    )[0]
    found = read_table("cables", "from,to\na:1-4,b:5-8\na:4,b:1\na:6,b:9-11\n", tree)
    assert found.placed == 1
    assert [u.line for u in found.unplaced] == [3, 4]
    tree = apply(tree, found.patch)[0]
    assert tree["cables"] == [[f"a:{n}", f"b:{n + 4}"] for n in range(1, 5)]
    found = read_table("endpoints", "name,at,addresses,dhcp\ntill,a:5,10.9.0.4/24,\nlate,a:5,,\ndesk,a:7,,yes\n", tree)
    assert [u.line for u in found.unplaced] == [3]
    after = apply(tree, found.patch)[0]
    assert after["cables"][-2:] == [["a:5", "till:1"], ["a:7", "desk:1"]]
    assert after["devices"][-1] == {"name": "desk", "kind": "endpoint", "dhcp": True}


def test_reservations() -> None:
    """In and out; a new one on a server that is there; one on an interface without a server is told with the nearest."""
    tree = json.loads(json.dumps(load_file("demo/tidewrack.yaml").raw))
    assert read("reservations", write("reservations", tree), tree).patch == []
    text = "device,interface,name,address,hardware\ngate,hall.160,poster,10.64.160.9,02:00:5e:00:00:09\ngate,hall.16,lamp,10.64.160.8,\n"
    found = read("", text, tree)
    assert (found.kind, found.placed) == ("reservations", 1)
    assert "hall.160" in found.unplaced[0].problem.sentence()
    after = apply(tree, found.patch)[0]
    gate = next(d for d in after["devices"] if d["name"] == "gate")
    held = next(s for s in gate["dhcp"] if s["interface"] == "hall.160")["reservations"]
    assert held[-1] == {"name": "poster", "address": "10.64.160.9", "hardware": "02:00:5e:00:00:09"}
