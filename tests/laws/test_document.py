"""Laws of the document: nothing is lost in a file, and every edit can be taken back."""

from __future__ import annotations

import copy
import json
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from anabasis.design import difference, dump_json, dump_yaml, inverse, parse_design, parse_text, set_membership
from anabasis.design.edits import patched
from tests.counts import law
from tests.sites import VLANS, Tree, sites

scalars = st.none() | st.booleans() | st.integers(-9, 9) | st.text("ab1é", max_size=4)
trees = st.recursive(
    scalars,
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text("ab/~0", max_size=3), inner, max_size=4),
)
documents = st.dictionaries(st.text("abc~/", min_size=1, max_size=3), trees, max_size=5)


def exact(tree: Any) -> str:
    """Write a tree so that 1 and true, and the order of keys, are told apart."""
    return json.dumps(tree)


@given(documents, documents)
def test_a_difference_leads_there_and_its_inverse_back(before: Tree, after: Tree) -> None:
    """The patch between any two trees gives the second, to the order of keys; its inverse gives the first."""
    there = patched(before, difference(before, after))
    assert exact(there) == exact(after)
    assert exact(patched(there, inverse(before, after))) == exact(before)


@given(documents, documents)
def test_patching_never_touches_what_it_is_given(before: Tree, after: Tree) -> None:
    """The tree that goes in stays as it was."""
    kept = copy.deepcopy(before)
    patched(before, difference(before, after))
    assert exact(before) == exact(kept)


@law(200, 40)
@given(sites())
def test_files_lose_nothing(tree: Tree) -> None:
    """YAML and JSON written and read again are the same tree, and the same design."""
    for dump in (dump_yaml, dump_json):
        again = parse_text(dump(tree))
        assert exact(again) == exact(tree)
        assert parse_design(again) == parse_design(tree)


@law(300, 60)
@given(sites(), st.sampled_from(VLANS), st.sampled_from(("none", "tagged", "untagged")), st.data())
def test_a_cell_becomes_what_was_asked(tree: Tree, vlan: int, cell: str, data: st.DataObject) -> None:
    """After the edit of a cell the port is that to the VLAN, the design is valid, and asking again changes nothing."""
    switch = data.draw(st.sampled_from([d for d in tree["devices"] if d["kind"] == "switch"]))
    port = data.draw(st.sampled_from(switch["ports"]))["name"]
    after = patched(tree, set_membership(tree, switch["name"], port, vlan, cell))  # type: ignore[arg-type]
    parse_design(after)
    entry = next(p for d in after["devices"] if d["name"] == switch["name"] for p in d["ports"] if p["name"] == port)
    assert (vlan in entry.get("tagged", [])) == (cell == "tagged")
    assert (vlan in entry.get("untagged", [])) == (cell == "untagged")
    assert (entry.get("pvid") == vlan) == (cell == "untagged")
    assert set_membership(after, switch["name"], port, vlan, cell) == []  # type: ignore[arg-type]
