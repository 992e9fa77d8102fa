"""Another VLAN like one there is: what must be unique is listed and kept unique, the rest alike, and it works at once."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.design import apply, load_file, parse_design
from anabasis.design.making.segments import CopySegment, copy_segment, segment_fields
from anabasis.errors import AnabasisError
from tests.counts import count
from tests.sites import Tree
from tests.sound import sound_site


def demo() -> Tree:
    """Return the sound demo."""
    return json.loads(json.dumps(load_file(Path(__file__).parents[2] / "demo/tidewrack.yaml").raw))  # type: ignore[no-any-return]


def test_the_keepers_get_a_second_vlan() -> None:
    """On the same trunks, with a gateway in the same zone, leases, the same place on the watch list; nothing else breaks."""
    one = demo()
    wanted = CopySegment(130, values={"subnet 10.64.130.0/24": "10.64.135.0/24"})
    assert [(f.kind, f.was, f.proposed) for f in segment_fields(one, wanted)] == [
        ("VLAN", "130", "131"),
        ("VLAN name", "keepers", "keepers-2"),
        ("subnet", "10.64.130.0/24", "10.64.135.0/24"),
        ("subnet", "fd64:0:0:130::/64", "fd64:0:0:131::/64"),
    ]
    two = apply(one, copy_segment(one, wanted))[0]
    gate = next(d for d in two["devices"] if d["name"] == "gate")
    made = next(s for s in gate["lags"][0]["subinterfaces"] if s["tag"] == 131)
    assert made == {
        "tag": 131,
        "addresses": ["10.64.135.1/24", "fd64:0:0:131::1/64"],
        "zone": "house",
        "answers": "keepers-console",
    }
    lease = next(x for x in gate["dhcp"] if x["interface"] == "hall.131")
    assert lease["ranges"] == ["10.64.135.50-10.64.135.199"]
    assert "reservations" not in lease
    before, after = Climb(parse_design(one)), Climb(parse_design(two))
    assert "keepers-2" in after.site.segments.by_name
    assert [f.sentence for f in after.findings if f.kind.severity == "breaks"] == [
        f.sentence for f in before.findings if f.kind.severity == "breaks"
    ]


@pytest.mark.parametrize("seed", range(count(60, 5)))
def test_of_any_site(seed: int) -> None:
    """No two subnets overlap, the document is one, and every other pair of segments reaches what it did."""
    one = json.loads(json.dumps(sound_site(seed)))
    vlan = [v["id"] for v in one["vlans"] if v.get("subnets")][seed % 2]
    two = apply(one, copy_segment(one, CopySegment(vlan)))[0]
    before, after = Climb(parse_design(one)), Climb(parse_design(two))
    names = [s.name for s in before.site.segments.all if s.kind != "transit"]
    now = after.site.segments.by_name
    then = before.site.segments.by_name
    for a in names:
        for b in names:
            if a != b and a in now and b in now:
                assert (before.sweep.fingerprints[then[a], then[b]] == 0) == (
                    after.sweep.fingerprints[now[a], now[b]] == 0
                ), (a, b)


@pytest.mark.parametrize(
    ("vlan", "values", "told"),
    [
        (77, {}, "no such VLAN"),
        (130, {"VLAN 130": "140"}, "no VLAN that is free"),
        (130, {"VLAN 130": "5000"}, "no VLAN that is free"),
        (130, {"subnet 10.64.130.0/24": "10.64.140.0/25"}, "alike"),
        (130, {"subnet 10.64.130.0/24": "10.64.135.0/28"}, "no place for every host"),
    ],
)
def test_what_cannot_be_is_told(vlan: int, values: dict[str, Any], told: str) -> None:
    """With what is free."""
    with pytest.raises(AnabasisError, match=told):
        copy_segment(demo(), CopySegment(vlan, values=values))
