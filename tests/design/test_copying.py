"""A port's settings copied to others: what it is to VLANs, and nothing of its own."""

from __future__ import annotations

import pytest

from anabasis.design import CopyPort, Loaded, apply, copy_port
from anabasis.design.copying import expand
from anabasis.errors import InputRefused, UnknownPlace


def test_the_targets_become_like_the_port(demo: Loaded) -> None:
    """VLANs and PVID are taken over, what the port leaves out is left out; name, note and cable stay."""
    tree = apply(demo.raw, copy_port(demo.raw, CopyPort("hall-sw", "1", "4-5, 8")))[0]
    ports = {p["name"]: p for p in tree["devices"][5]["ports"]}
    for name in ("4", "5", "8"):
        assert (ports[name]["pvid"], ports[name]["untagged"], ports[name]["tagged"]) == (130, [130], [180])
    assert "enabled" not in ports["8"]
    assert ports["5"]["note"] == "Till 2, on busy days"
    assert tree["cables"] == demo.raw["cables"]


def test_onto_itself_is_nothing(demo: Loaded) -> None:
    """And doing it twice is doing it once."""
    assert copy_port(demo.raw, CopyPort("hall-sw", "1", "1")) == []
    once = apply(demo.raw, copy_port(demo.raw, CopyPort("hall-sw", "1", "5")))[0]
    assert copy_port(once, CopyPort("hall-sw", "1", "5")) == []


@pytest.mark.parametrize(
    ("wanted", "said"),
    [
        (CopyPort("hall-sv", "1", "2"), "did you mean 'hall-sw'"),
        (CopyPort("hall-sw", "77", "2"), "no port of this name"),
        (CopyPort("hall-sw", "1", "2-10"), "'10'"),
        (CopyPort("hall-sw", "1", " , "), "names no port"),
        (CopyPort("hall-sw", "1", "1-999999"), "range this long"),
    ],
)
def test_what_cannot_be_copied(demo: Loaded, wanted: CopyPort, said: str) -> None:
    """Each is refused with the nearest name or what is allowed."""
    with pytest.raises((UnknownPlace, InputRefused), match=said):
        copy_port(demo.raw, wanted)


def test_ranges_and_names() -> None:
    """A range of numbers is spelt out, a name with a dash is a name, doubles go."""
    assert expand("2-4, 3, up-1", ["up-1"]) == ["2", "3", "4", "up-1"]
    assert expand("", []) == []
