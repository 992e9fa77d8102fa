"""Both ends of every cable: what differs is named, and one edit makes the ends alike."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given

from anabasis.design import Loaded, apply, load_file
from anabasis.fabric import build_fabric
from anabasis.views import CableEnds, cable_ends
from tests.conftest import ROOT
from tests.sites import sites

HALL, TANK = "/devices/5", "/devices/6"


def ends_of(raw: dict[str, Any]) -> dict[str, CableEnds]:
    """Return the lines by the label of their first end."""
    return {row.ends[0].label: row for row in cable_ends(build_fabric(apply(raw, [])[1]), raw)}


def test_the_sound_house_has_no_difference(demo: Loaded) -> None:
    """Every cable that carries VLANs is listed, and all are alike."""
    rows = ends_of(demo.raw)
    assert "hall-sw:across" in rows
    assert "gate-a:hall" in rows
    assert "gate-b:tank" in rows
    assert not any(r.differences for r in rows.values())


def test_the_first_day_differs_in_three_places() -> None:
    """The native VLAN, the bundle that is static on one side, the tag that is missing; these come first."""
    raw = load_file(ROOT / "demo" / "tidewrack-first-day.yaml").raw
    rows = cable_ends(build_fabric(apply(raw, [])[1]), raw)
    said = [d for r in rows[:3] for d in r.differences]
    assert sorted(said) == [
        "bundles that do not agree: lacp-active and static",
        "tag 130: tank-sw:across does not carry it",
        "untagged: VLAN 130 at hall-sw:18, VLAN 120 at tank-sw:17",
    ]
    assert not any(r.differences for r in rows[3:])


@pytest.mark.parametrize(
    ("patch", "words"),
    [
        ({"op": "add", "path": f"{HALL}/lags/0/accept", "value": "tagged"}, "admits tagged frames only and all"),
        ({"op": "add", "path": f"{HALL}/lags/0/protocol", "value": "static"}, "bundles that do not agree"),
    ],
)
def test_settings_that_differ(demo: Loaded, patch: dict[str, Any], words: str) -> None:
    """Not only VLANs are compared."""
    row = ends_of(apply(demo.raw, [patch])[0])["hall-sw:across"]
    assert any(words in d for d in row.differences), row.differences


def test_translation_is_no_difference(demo: Loaded) -> None:
    """A firewall that takes tag 151 into VLAN 150 means it."""
    row = next(r for r in ends_of(demo.raw).values() if any(c.form == 151 for c in r.carried))
    assert all(c.same for c in row.carried)


@given(sites())
def test_one_edit_makes_the_ends_alike(raw: dict[str, Any]) -> None:
    """Whichever end takes the other's VLANs, no VLAN differs on that cable afterwards, unless the port is odd in itself."""
    for row in cable_ends(build_fabric(apply(raw, [])[1]), raw):
        for end in row.ends:
            if end.like_other is None:
                continue
            tree, after = apply(raw, end.like_other)
            again = next(
                r
                for r in cable_ends(build_fabric(after), tree)
                if [e.label for e in r.ends] == [e.label for e in row.ends]
            )
            assert [again.ends[0].short] * 2 == [e.short for e in again.ends]
