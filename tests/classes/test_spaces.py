"""Exact sets: classes, boxes, differences, and how they are written."""

from __future__ import annotations

import itertools
from ipaddress import ip_network

from hypothesis import given
from hypothesis import strategies as st

from anabasis.classes import Box, FlowSet, ServiceAtoms, address_classes, prefix_cover, readable_services, service_texts
from anabasis.classes.services import ALL_SERVICES, merge_services
from anabasis.policy import ServiceSpan
from anabasis.routing import Intervals, intersect, merge, subtract

TOP = 63
points = st.integers(0, TOP)
spans = st.lists(st.tuples(points, points).map(lambda p: (min(p), max(p))), max_size=4)
ALL: Intervals = [(0, TOP)]


def members(some: object) -> set[int]:
    """Return every number in some intervals."""
    return {n for low, high in some for n in range(low, high + 1)}  # type: ignore[attr-defined]


@given(spans, spans)
def test_interval_arithmetic_is_set_arithmetic(one: Intervals, two: Intervals) -> None:
    """Union, difference and intersection, sorted and disjoint."""
    assert members(merge([*one, *two])) == members(one) | members(two)
    assert members(subtract(one, two)) == members(one) - members(two)
    assert members(intersect(one, two)) == members(one) & members(two)
    for found in (merge(one), subtract(one, two), intersect(one, two)):
        assert all(a[1] + 1 < b[0] for a, b in itertools.pairwise(found))


@given(st.lists(spans.map(merge), max_size=4))
def test_classes_tell_apart_exactly_what_predicates_tell_apart(predicates: list[Intervals]) -> None:
    """Each address is in one class; two addresses share one if and only if the same predicates hold them."""
    found = address_classes(predicates, ALL)
    home = {n: k for k, spans in enumerate(found.intervals) for n in members(spans)}
    assert len(home) == TOP + 1
    rows = [found.holds(k) for k in range(len(predicates))]
    marks = {n: tuple(n in members(p) for p in predicates) for n in range(TOP + 1)}
    for n in range(TOP):
        assert (home[n] == home[n + 1]) == (marks[n] == marks[n + 1])
        assert marks[n] == tuple(bool(row[home[n]]) for row in rows)


services = st.lists(
    st.sampled_from(((6, 80, 90), (6, 85, 443), (17, 53, 53), (1, 8, 8), (47, 0, 0))),
    min_size=1,
    max_size=3,
    unique=True,
)
boxes = st.lists(
    st.builds(
        lambda s, d, v: Box(4, tuple(merge(s)), tuple(merge(d)), tuple(sorted(v))),
        spans.filter(bool),
        spans.filter(bool),
        services,
    ),
    max_size=3,
)


def flows(some: FlowSet) -> set[tuple[int, int, int, int]]:
    """Return every (source, destination, protocol, port) of a small flow set."""
    return {
        (s, d, p, v)
        for b in some.boxes
        for s in members(b.sources)
        for d in members(b.destinations)
        for p, low, high in b.services
        for v in {0, 8, 53, 80, 84, 85, 90, 91, 443} & set(range(low, high + 1))
    }


@given(boxes, boxes)
def test_minus_is_set_difference(one: list[Box], two: list[Box]) -> None:
    """Exact for flow sets whose boxes overlap in any way, and its boxes are disjoint."""
    left = FlowSet(tuple(one)).minus(FlowSet(tuple(two)))
    assert flows(left) == flows(FlowSet(tuple(one))) - flows(FlowSet(tuple(two)))
    assert sum(len(flows(FlowSet((b,)))) for b in left.boxes) == len(flows(left))


@given(spans.filter(bool), spans)
def test_covers_hold_all_that_is_wanted_and_no_other_host(wanted: Intervals, others: Intervals) -> None:
    """Addresses that are no host's may fall in; hosts that are not wanted never do."""
    wanted = merge(wanted)
    hosts = merge([*wanted, *others])
    found = prefix_cover(wanted, hosts, [ip_network("0.0.0.0/26")], 4)
    covered = {int(a) for text in found for a in ip_network(text)}
    assert covered & members(hosts) == members(wanted)


def test_services_are_written_as_the_document_has_them() -> None:
    """Whole protocols by name, ranges with a dash, nameless protocols by number."""
    assert service_texts([(6, 443, 443), (17, 2222, 2230), (1, 0, 255)], 4) == ["tcp/443", "udp/2222-2230", "icmp"]
    assert service_texts([(200, 0, 0), (201, 0, 0)], 4) == ["proto/200-201"]
    assert service_texts(ALL_SERVICES[4], 4) == ["any"]


def test_services_are_read_by_people() -> None:
    """By name where a whole service is there, and as an exception where that is shorter."""
    names = [("bus", [(6, 502, 502), (17, 2222, 2230)]), ("ping", [(1, 8, 8), (58, 128, 128)])]
    assert readable_services([(1, 8, 8), (6, 502, 502), (17, 2222, 2230)], 4, names) == "bus, ping"
    most = [s for s in ALL_SERVICES[4] if s[0] != 6] + [(6, 0, 21), (6, 23, 65535)]
    assert readable_services(most, 4, names) == "any except tcp/22"


@given(st.lists(services.map(frozenset), max_size=3), services.map(frozenset))
def test_atoms_are_what_services_are_cut_into(
    sets: list[frozenset[ServiceSpan]], other: frozenset[ServiceSpan]
) -> None:
    """Every service is in one atom; a set holds an atom whole or not at all; a mask marks the atoms that anything of a set is in."""
    atoms = ServiceAtoms(sets)
    assert merge_services(s for atom in atoms.atoms for s in atom) == tuple((p, 0, top(p)) for p in range(256))
    for one in [*sets, other]:
        mask = atoms.mask(one)
        for k, atom in enumerate(atoms.atoms):
            assert mask[k] == any(p == q and a <= d and c <= b for p, a, b in atom for q, c, d in one)
    for one in sets:
        assert merge_services(s for k, atom in enumerate(atoms.atoms) if atoms.mask(one)[k] for s in atom) == (
            merge_services(one)
        )


def top(protocol: int) -> int:
    """Return the last port, or type, of a protocol."""
    return next(high for p, _, high in (*ALL_SERVICES[4], *ALL_SERVICES[6]) if p == protocol)


def test_icmp_goes_with_its_family() -> None:
    """ICMP over IPv4, ICMPv6 over IPv6."""
    atoms = ServiceAtoms([frozenset({(1, 8, 8), (58, 128, 128)})])
    for version, foreign in ((4, 58), (6, 1)):
        mask = atoms.of_family(version)
        assert not any(span[0] == foreign for k in range(len(atoms.atoms)) if mask[k] for span in atoms.atoms[k])
