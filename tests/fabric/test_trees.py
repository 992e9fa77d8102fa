"""The spanning tree: one root, no loop left, the right port blocked."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from anabasis.design import Design
from anabasis.fabric import Fabric, build_fabric, compute_segments
from anabasis.wording import say
from tests.sites import Tree, access, design_of, plan, switch


def ring(count: int, cables: list[tuple[int, int]], **settings: Tree) -> Design:
    """Return switches with cables between them, all carrying VLAN 11, and a host port each."""
    ports: list[list[Tree]] = [[access("h", 11)] for _ in range(count)]
    ends = []
    for n, (a, b) in enumerate(cables):
        for side, switch_ in (("x", a), ("y", b)):
            ports[switch_].append({"name": f"{side}{n}", "tagged": [11]})
        ends.append([f"s{a}:x{n}", f"s{b}:y{n}"])
    devices = [switch(f"s{k}", *own, **settings.get(f"s{k}", {})) for k, own in enumerate(ports)]
    return design_of(vlans=plan(11), devices=devices, cables=ends)


def open_cables(fabric: Fabric) -> list[tuple[str, str]]:
    """Return the cables that no end blocks."""
    ports = [p for p in fabric.ports.values() if p.peer and p.spot < p.peer]
    return [(p.box, fabric.ports[p.peer].box) for p in ports if not {p.spot, p.peer} & set(fabric.tree.blocked)]  # type: ignore[index, arg-type]


@given(st.integers(2, 6), st.data())
def test_the_tree_spans_without_loops(count: int, data: st.DataObject) -> None:
    """Whatever the cables: what stays open joins every switch that cables join, and no loop is left."""
    pair = st.tuples(st.integers(0, count - 1), st.integers(0, count - 1)).filter(lambda p: p[0] != p[1])
    cables = data.draw(st.lists(pair, max_size=9))
    fabric = build_fabric(ring(count, cables))
    parent = list(range(count))

    def find(x: int) -> int:
        while parent[x] != x:
            x = parent[x]
        return x

    def joined(edges: list[tuple[int, int]]) -> int:
        parent[:] = range(count)
        for a, b in edges:
            parent[find(a)] = find(b)
        return len({find(k) for k in range(count)})

    kept = [(int(a[1:]), int(b[1:])) for a, b in open_cables(fabric)]
    assert joined(kept) == joined(cables)
    assert len(kept) == count - joined(cables)
    assert len(compute_segments(fabric).all) == joined(cables)


def test_the_root_is_the_lowest_priority_then_name() -> None:
    """And the cable farthest from it blocks at the worse bridge."""
    triangle = [(0, 1), (1, 2), (2, 0)]
    assert build_fabric(ring(3, triangle)).tree.roots == ("s0",)
    assert set(build_fabric(ring(3, triangle)).tree.blocked) == {("s2", "y1")}
    chosen = build_fabric(ring(3, triangle, s2={"stp_priority": 4096})).tree
    assert chosen.roots == ("s2",)
    assert set(chosen.blocked) == {("s1", "y0")}
    assert "leads to the root s2" in say(chosen.blocked["s1", "y0"])


def test_a_loop_without_spanning_tree_is_reported() -> None:
    """Two cables between two switches that take no part."""
    off: Tree = {"spanning_tree": False}
    looped = build_fabric(ring(2, [(0, 1), (0, 1)], s0=off, s1=off)).tree
    assert looped.blocked == {}
    assert len(looped.loops) == 1
    cut = build_fabric(ring(2, [(0, 1), (0, 1)], s0=off)).tree
    assert cut.loops == ()
    assert len(cut.blocked) == 1
