"""The bridge of the referee: IEEE 802.1Q by its letter; and, where no kernel is asked, the same frames as the engine's fabric."""

from __future__ import annotations

import json
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anabasis.design import parse_design
from anabasis.failover import stand
from anabasis.packets.lab import Given, lab_of
from anabasis.packets.wire import Bridge, BridgePort, Frame, Hub, InlinePair, RoutedPort
from tests.counts import count, law
from tests.sound import sound_site

ALL = b"\xff" * 6
MAC = [bytes([2, 0, 0, 0, 0, k]) for k in range(9)]


def frame(tag: int | None = None, source: int = 1, target: bytes = ALL) -> Frame:
    """Return a frame that asks who has an address."""
    return Frame(target, MAC[source], tag, b"\x08\x06" + b"\0" * 28)


def sent(bridge: Any, port: str, what: Frame) -> dict[str, int | None]:
    """Return where a frame leaves, and with which tag."""
    return {name: f.tag for name, f in bridge.receive(port, what)}


@law(500, 100)
@given(
    st.binary(min_size=6, max_size=6),
    st.binary(min_size=6, max_size=6),
    st.none() | st.integers(0, 4095),
    st.binary(min_size=2, max_size=60),
)
def test_a_frame_is_read_as_it_was_written(target: bytes, source: bytes, tag: int | None, rest: bytes) -> None:
    """Clause 9: type field, VID, the rest as it is."""
    rest = b"\x08\x00" + rest
    one = Frame(target, source, tag, rest)
    assert Frame.read(one.written()) == one


def test_vlans_are_kept_apart() -> None:
    """Ingress by PVID or tag, egress by the member set, tags where the untagged set does not hold the port."""
    ports = [
        BridgePort("desk", 10, frozenset({10}), accept="untagged"),
        BridgePort("till", 20, frozenset({20}), accept="untagged"),
        BridgePort("up", None, frozenset(), frozenset({10, 20})),
        BridgePort("odd", 10, frozenset({20}), frozenset(), ingress_check=False),
    ]
    bridge = Bridge(frozenset({10, 20}), ports)
    assert sent(bridge, "desk", frame()) == {"up": 10}
    assert sent(bridge, "desk", frame(10)) == {}, "an access port takes no tag"
    assert sent(bridge, "desk", frame(0)) == {"up": 10}, "a priority tag is none"
    assert sent(bridge, "up", frame(20)) == {"till": None, "odd": None}
    assert sent(bridge, "up", frame()) == {}, "no PVID"
    assert sent(bridge, "up", frame(30)) == {}, "no such VLAN"
    assert sent(bridge, "odd", frame()) == {"desk": None, "up": 10}, "in by PVID, though it is no member"


def test_it_learns_and_isolates_and_translates() -> None:
    """A known address goes one way; isolated ports hear each other not; the wire's number is not the VLAN's."""
    ports = [
        BridgePort("a", 10, frozenset({10}), isolated=True),
        BridgePort("b", 10, frozenset({10}), isolated=True),
        BridgePort("c", 10, frozenset({10})),
        BridgePort("far", None, frozenset(), frozenset({10}), translate={11: 10}),
        BridgePort("off", 10, frozenset({10}), blocked=True),
    ]
    bridge = Bridge(frozenset({10}), ports)
    assert sent(bridge, "a", frame(source=1)) == {"c": None, "far": 11}
    assert sent(bridge, "far", frame(11, 2, MAC[1])) == {"a": None}
    assert sent(bridge, "b", frame(source=3, target=MAC[1])) == {}
    assert sent(bridge, "c", frame(source=4, target=MAC[2])) == {"far": 11}
    assert sent(bridge, "off", frame()) == {}
    assert sent(bridge, "c", frame(target=bytes.fromhex("0180c2000000"))) == {}, (
        "no bridge forwards what bridges say to each other"
    )


def test_hubs_wires_and_routed_ports() -> None:
    """Each of the other kinds of element."""
    assert sent(Hub(["1", "2", "3"]), "2", frame(7)) == {"1": 7, "3": 7}
    told: list[tuple[str | None, str | None]] = []

    def crossing(one: str | None, two: str | None, _: Frame) -> bool:
        told.append((one, two))
        return one == "in"

    pair = InlinePair(("1", "2"), frozenset({None, 5}), ("in", "out"), crossing)
    assert sent(pair, "1", frame(5)) == {"2": 5}
    assert sent(pair, "1", frame(6)) == {}
    assert sent(pair, "2", frame()) == {}
    assert told == [("in", "out"), ("out", "in")]
    routed = RoutedPort("up", {None: "i0", 30: "i1"})
    assert sent(routed, "up", frame(30)) == {"i1": None}
    assert sent(routed, "up", frame(31)) == {}
    assert sent(routed, "i1", frame()) == {"up": 30}


@pytest.mark.parametrize("seed", range(count(300, 12)))
def test_frames_get_where_the_fabric_says(seed: int) -> None:
    """From every host and interface, flooded through the bridges as they are cabled: who hears it is whom the engine says, both read from one document."""
    design = parse_design(json.loads(json.dumps(sound_site(seed))))
    site = stand(design)
    given_ = Given({p: u for p, _, u in site.conditions.active}, frozenset(site.fabric.tree.blocked))
    lab = lab_of(design, given_)
    other = dict(lab.cables) | {b: a for a, b in lab.cables}
    taps = {i.tap: i for i in lab.interfaces if i.tap}
    by_device: dict[str, list[Any]] = {}
    for t in site.fabric.attachments:
        if t.kind in ("interface", "endpoint", "outside"):
            by_device.setdefault(t.device, []).append(t)
    compared = 0
    for tap, interface in taps.items():
        mine = [
            t
            for t in by_device.get(interface.device, [])
            if len(by_device[interface.device]) == 1 or t.name == interface.name
        ]
        if len(mine) != 1 or lab.at.get(tap) is None:
            continue
        heard = flood(lab, other, tap)
        for far, theirs in taps.items():
            ends = [
                t
                for t in by_device.get(theirs.device, [])
                if len(by_device[theirs.device]) == 1 or t.name == theirs.name
            ]
            if far == tap or len(ends) != 1 or theirs.device == interface.device:
                continue
            carriage = site.fabric.carry(mine[0], ends[0])
            crosses = carriage is not None and (
                carriage.last is not None or any(c is not None for _, c in carriage.steps)
            )
            if not crosses:
                assert (far in heard) == site.fabric.delivers(mine[0], ends[0]), (seed, interface, theirs)
                compared += 1
    assert compared > 10


def flood(lab: Any, other: dict[str, str], tap: str) -> set[str]:
    """Return the taps that hear a frame to everybody."""
    heard: set[str] = set()
    todo = [(tap, frame())]
    for _ in range(2_000):
        if not todo:
            return heard
        device, what = todo.pop()
        number, port = lab.at[device]
        for out, left in lab.elements[number].receive(port, what):
            there = lab.leaves.get((number, out))
            if there in other:
                if other[there] in lab.at:
                    todo.append((other[there], left))
            elif there is not None:
                heard.add(there)
    raise AssertionError("it goes round for ever")
