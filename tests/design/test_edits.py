"""Edits refuse what cannot be done, with the place, and leave everything as it was."""

from __future__ import annotations

import copy

import pytest

from anabasis.design import Loaded, MembershipCell, apply, set_membership, set_memberships
from anabasis.errors import InputRefused, UnknownPlace


def test_an_edit_that_makes_the_document_invalid_is_refused(demo: Loaded) -> None:
    """A zone that rules use cannot go; the tree stays untouched."""
    before = copy.deepcopy(demo.raw)
    with pytest.raises(InputRefused) as caught:
        apply(demo.raw, [{"op": "remove", "path": "/devices/4/zones/2"}])
    assert any("'water'" in p.given for p in caught.value.problems)
    assert demo.raw == before


@pytest.mark.parametrize(
    ("patch", "said"),
    [
        ([{"op": "replace", "path": "/vlanz/0", "value": 1}], "vlans"),
        ([{"op": "test", "path": "/name", "value": "x"}], "expected another value"),
        ([{"op": "frobnicate", "path": "/name"}], "operation 0"),
        ([{"path": "/name"}], "operation 0"),
        (["x"], "list of JSON Patch operations"),
        ([{"op": "remove", "path": "/cables/99"}], "/cables/99"),
        ([{"op": "replace", "path": "", "value": 4}], "mapping"),
    ],
)
def test_patches_that_cannot_be_applied(demo: Loaded, patch: list[dict[str, object]], said: str) -> None:
    """Each says which operation, where, and what was meant."""
    with pytest.raises(InputRefused, match=said):
        apply(demo.raw, patch)


def test_cells_of_unknown_ports(demo: Loaded) -> None:
    """An unknown device or port is named, with the nearest."""
    with pytest.raises(UnknownPlace, match="did you mean 'tank-sw'"):
        set_membership(demo.raw, "tank-sv", "1", 110, "tagged")
    with pytest.raises(UnknownPlace, match="did you mean 'across'"):
        set_membership(demo.raw, "tank-sw", "acros", 110, "tagged")


def test_many_cells_are_one_edit(demo: Loaded) -> None:
    """Several cells give one patch, in which each port changes once."""
    cells = [MembershipCell("tank-sw", "across", v, "tagged") for v in (110, 120, 150)]
    patch = set_memberships(demo.raw, cells)
    tree, _ = apply(demo.raw, patch)
    assert tree["devices"][6]["lags"][0]["tagged"] == [110, 120, 130, 150, 180]
    assert {op["path"].split("/tagged")[0] for op in patch} == {"/devices/6/lags/0"}


def test_untagged_moves_the_port(demo: Loaded) -> None:
    """An access port that becomes untagged in another VLAN leaves the old one, PVID and all."""
    tree, _ = apply(demo.raw, set_membership(demo.raw, "tank-sw", "1", 120, "untagged"))
    port = tree["devices"][6]["ports"][0]
    assert (port["pvid"], port["untagged"]) == (120, [120])
