"""Short forms: set, and said back."""

from __future__ import annotations

import pytest

from anabasis.design import Loaded, ShortForm, apply, in_short, set_short_form
from anabasis.errors import InputRefused, UnknownPlace

HALL = 5


@pytest.mark.parametrize(
    ("form", "edge", "said"),
    [
        (ShortForm("hall-sw", "2-5", "access", 130), True, "access VLAN 130"),
        (ShortForm("hall-sw", "2-5", "trunk", None, [140, 130]), False, "trunk of 130, 140"),
        (ShortForm("hall-sw", "2-5", "trunk", 999, [130, 999]), False, "trunk of 130; native 999"),
        (ShortForm("hall-sw", "2-5", "voice", 130, [180]), True, "data 130 + voice 180"),
    ],
)
def test_what_is_set_is_said_back(demo: Loaded, form: ShortForm, edge: bool, said: str) -> None:
    """All four ports say the form they were given, and no other port changed."""
    tree = apply(demo.raw, set_short_form(demo.raw, form))[0]
    before, after = demo.raw["devices"][HALL]["ports"], tree["devices"][HALL]["ports"]
    for old, new in zip(before, after, strict=True):
        if new["name"] in {"2", "3", "4", "5"}:
            assert in_short(new, edge) == said
        else:
            assert old == new


def test_the_table_follows(demo: Loaded) -> None:
    """A VLAN that the device's table lacks is put into it."""
    raw = apply(demo.raw, [{"op": "add", "path": f"/devices/{HALL}/vlans", "value": [130, 140, 160, 180]}])[0]
    tree = apply(raw, set_short_form(raw, ShortForm("hall-sw", "2", "access", 120)))[0]
    assert tree["devices"][HALL]["vlans"] == [120, 130, 140, 160, 180]


def test_odd_ports_are_said_as_they_are() -> None:
    """A PVID outside the untagged VLANs is no short form."""
    assert in_short({"pvid": 130, "untagged": [140]}, edge=True) == "sends 140 without tags, takes them into 130"
    assert in_short({}, edge=True) == "in no VLAN"


@pytest.mark.parametrize(
    ("form", "words"),
    [
        (ShortForm("hall-sw", "", "access", 130), "names no port"),
        (ShortForm("hall-sw", "2", "access"), "needs the VLAN"),
        (ShortForm("hall-sw", "2", "voice", 130), "needs the VLANs"),
        (ShortForm("hall-sw", "2-77", "access", 130), "no port of this name"),
        (ShortForm("hal-sw", "2", "access", 130), "hall-sw"),
    ],
)
def test_what_is_not_whole_is_refused(demo: Loaded, form: ShortForm, words: str) -> None:
    """Nothing is half done."""
    with pytest.raises((InputRefused, UnknownPlace), match=words):
        set_short_form(demo.raw, form)
