"""The cabling drawing: every cable once, every line in its state, units apart."""

from __future__ import annotations

from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.design import Loaded, apply, load_file
from anabasis.views import Cabling, cabling
from tests.conftest import ROOT

HALL, TANK = "/devices/5", "/devices/6"


def drawn(demo: Loaded, *patch: dict[str, Any]) -> Cabling:
    """Draw the demo after an edit."""
    return cabling(Climb(apply(demo.raw, list(patch))[1]).site.fabric)


def state(found: Cabling, *ends: str) -> str:
    """Return the state of the first line between two boxes."""
    return next(line.state for line in found.lines if set(line.ends) == set(ends))


def test_every_cable_is_drawn_once(demo: Loaded) -> None:
    """Each cable of the document is in exactly one line."""
    pointers = [p for line in drawn(demo).lines for p in line.pointers]
    assert sorted(pointers) == sorted(f"/cables/{i}" for i in range(len(demo.raw["cables"])))


def test_boxes_are_units_in_tiers(demo: Loaded) -> None:
    """Outside above, endpoints below; the unit that stands by is marked."""
    boxes = {b.name: b for b in drawn(demo).boxes}
    assert "gate" not in boxes
    assert (boxes["gate-a"].standby, boxes["gate-b"].standby) == (False, True)
    assert (
        boxes["internet"].tier
        < boxes["street"].tier
        < boxes["gate-a"].tier
        < boxes["hall-sw"].tier
        < boxes["desk-7"].tier
    )
    assert {j.name for j in boxes["tank-sw"].jacks if j.free} == {"2", "3", "4", "5", "8", "9", "10", "11"}
    assert next(j for j in boxes["tank-sw"].jacks if j.name == "19").bundle == "across"


@pytest.mark.parametrize(
    ("patch", "ends", "wanted"),
    [
        ((), ("hall-sw", "tank-sw"), "up"),
        ((), ("gate-a", "gate-b"), "heartbeat"),
        ((), ("gate-b", "hall-sw"), "standby"),
        ((), ("chiller-tap", "gate-a"), "inline"),
        (({"op": "add", "path": f"{HALL}/ports/8/enabled", "value": False},), ("hall-sw", "tank-sw"), "part"),
        (({"op": "add", "path": f"{TANK}/lags/0/enabled", "value": False},), ("hall-sw", "tank-sw"), "down"),
    ],
)
def test_lines_have_a_state(
    demo: Loaded, patch: tuple[dict[str, Any], ...], ends: tuple[str, str], wanted: str
) -> None:
    """And a reason where it is not well."""
    found = drawn(demo, *patch)
    assert state(found, *ends) == wanted
    assert wanted not in ("part", "down") or any(line.reason for line in found.lines if set(line.ends) == set(ends))


def test_the_first_day_shows_a_blocked_cable_and_a_bundle_that_is_down() -> None:
    """Both told from what stands by."""
    found = cabling(Climb(load_file(ROOT / "demo" / "tidewrack-first-day.yaml").design).site.fabric)
    assert {"blocked", "down", "standby"} <= {line.state for line in found.lines}


def test_each_end_tells_what_it_carries_as_it_is_set(demo: Loaded) -> None:
    """Tagged, untagged and PVID of every port that bridges are those of the document; a routed one tells its subinterfaces and their zones."""
    seen = 0
    ports = {(d["name"], p["name"]): p for d in demo.raw["devices"] if d["kind"] == "switch" for p in d["ports"]}
    for line in drawn(demo).lines:
        for box, names, end in zip(line.ends, line.ports, line.carried, strict=True):
            port = ports.get((box, names[0]))
            if port is None or port.get("mode", "bridged") != "bridged":
                continue
            seen += 1
            tagged, untagged = set(port.get("tagged", [])), set(port.get("untagged", []))
            assert {c.vlan for c in end.vlans if c.tagged} == tagged - untagged
            assert {c.vlan for c in end.vlans if not c.tagged and not c.pvid} <= untagged
            assert [c.vlan for c in end.vlans if c.pvid] == ([port["pvid"]] if "pvid" in port else [])
    assert seen > 5
    hall = next(
        e
        for x in drawn(demo).lines
        for b, e in zip(x.ends, x.carried, strict=True)
        if b == "gate-a" and e.routed and len(e.vlans) == 4
    )
    assert {(c.vlan, c.zone) for c in hall.vlans} == {(130, "house"), (140, "tills"), (160, "guests"), (180, "house")}
