"""One fault in means its name out: findings, plug in, walk and matrix name the guilty item, whatever the site and the fault."""

from __future__ import annotations

import copy
from collections import Counter
from itertools import islice
from random import Random

import numpy as np

from anabasis.climb import Climb
from anabasis.design import apply, parse_design
from anabasis.design.edits import patched
from anabasis.errors import InputRefused
from anabasis.faults import KINDS, faults_of
from anabasis.faults.kinds import Fault
from anabasis.trace import walk
from tests.counts import count
from tests.judging import ASKERS, Judged, base_of, judge, named_in_order, rates, some_fault
from tests.sound import ACROSS, sound_site
from tests.sound_fabrics import FABRICS

TURNS = 5
"""How many faults are tried in one site, one at a time."""
ENOUGH, ENOUGH_OF_TWO = 0.99, 0.95


def test_the_sites_are_sound() -> None:
    """Nothing breaks in them, nothing is at risk, and every expectation holds."""
    for seed in [*range(count(300, 15)), *range(ACROSS, ACROSS + count(100, 5))]:
        climb = Climb(parse_design(sound_site(seed)))
        assert [f.sentence for f in climb.findings if f.kind.severity != "untidy"] == [], seed


def test_every_fault_can_be_made() -> None:
    """Each kind somewhere; each edit applies, or the document says why not; each guilty item but a list is there."""
    seen: set[str] = set()
    for seed in [*range(count(60, 12)), *range(ACROSS, ACROSS + 4), *range(FABRICS, FABRICS + 4)]:
        for fault in faults_of(base_of(seed).tree):
            seen.add(fault.kind)
            assert fault.guilty, fault
    assert len(seen) >= (len(KINDS) - 3), set(KINDS) - seen
    assert len(KINDS) >= 45


def test_one_fault_in_its_name_out() -> None:
    """Of all that are asked, each asker names the guilty item in 99 of 100."""
    judged: list[Judged] = []
    for k in range(count(5000, 60)):
        fault = some_fault(k // TURNS, k % TURNS)
        found = judge(k // TURNS, fault) if fault is not None else None
        judged += [found] if found is not None else []
    table = rates(judged)
    for asker in ASKERS:
        good, of = (sum(row[asker][i] for row in table.values() if asker in row) for i in (0, 1))
        missed = [(j.seed, j.fault.kind, j.said[asker]) for j in judged if not j.named.get(asker, True)]
        print(asker, good, "of", of)
        assert good >= ENOUGH * of - 1, missed[:5]
    for kind in sorted(table):
        print(
            f"{kind:22}", "  ".join(f"{a} {table[kind][a][0]}/{table[kind][a][1]}" for a in ASKERS if a in table[kind])
        )


def test_faults_of_tunnels_name_themselves() -> None:
    """By findings, walk and matrix, two of each kind a site."""
    kinds = [name for name in KINDS if name.startswith("tunnel-")]
    missed, tried = [], Counter[str]()
    for seed in range(ACROSS, ACROSS + count(60, 4)):
        for kind in kinds:
            for fault in islice(faults_of(base_of(seed).tree, kind), 2):
                found = judge(seed, fault)
                assert found is not None, (seed, fault)
                tried[kind] += 1
                missed += [(seed, kind, a, found.said[a]) for a, named in found.named.items() if not named]
    print(dict(tried), "missed", len(missed))
    assert len(kinds) == 7
    assert len(missed) <= (1 - ENOUGH) * 3 * sum(tried.values()), missed[:5]


def test_faults_beside_a_tunnel_blame_nobody_else() -> None:
    """What a mask or a translation takes away is not laid on the other end of a tunnel, which nobody meant to know of the rest."""
    missed, tried = [], 0
    for seed in range(ACROSS, ACROSS + count(60, 4)):
        for kind in (
            "interface-mask",
            "interface-bare",
            "interface-address",
            "host-mask",
            "nat-sources",
            "nat-missing",
        ):
            for fault in islice(faults_of(base_of(seed).tree, kind), 3):
                found = judge(seed, fault)
                assert found is not None
                tried += len(found.named)
                missed += [(seed, fault.guilty, a, found.said[a]) for a, named in found.named.items() if not named]
    assert len(missed) <= (1 - ENOUGH) * tried + 2, missed  # two, where a router learns of a link that is gone


def test_faults_of_tenants_name_themselves() -> None:
    """By findings, walk and matrix, three of each kind a fabric, those of its filters among them; and a sound fabric has nothing that breaks."""
    kinds = [name for name in KINDS if name.startswith(("tenant-", "filter-"))]
    missed, tried = [], Counter[str]()
    for seed in range(FABRICS, FABRICS + count(60, 4)):
        base = base_of(seed)
        assert [f.sentence for f in base.climb.findings if f.kind.severity == "breaks"] == []
        assert all(e.holds for e in base.climb.expectations), seed
        for kind in kinds:
            for fault in sample(seed, list(faults_of(base.tree, kind)), 3):
                found = judge(seed, fault)
                assert found is not None, (seed, fault)
                tried[kind] += 1
                missed += [(seed, kind, a, found.said[a]) for a, named in found.named.items() if not named]
    print(dict(tried), "missed", len(missed), *missed, sep="\n")
    assert len(tried) == 9
    assert len(missed) <= (1 - ENOUGH) * 3 * sum(tried.values()), missed[:5]


def sample(seed: int, faults: list[Fault], most: int) -> list[Fault]:
    """Return some faults by lot."""
    return Random(seed).sample(faults, min(most, len(faults)))


def test_two_faults_are_both_named() -> None:
    """The lower one first, in 95 of 100."""
    told = [t for seed in range(count(500, 20)) if (t := named_in_order(seed)) is not None]
    missed = [said for right, said in told if not right]
    print(len(told) - len(missed), "of", len(told))
    assert len(missed) <= (1 - ENOUGH_OF_TWO) * len(told) + 1, missed[:5]


def test_the_engines_agree_on_faulty_sites() -> None:
    """Walk and sweep, on sound sites and on sites with a fault: for an address of every class and a service of many atoms."""
    for seed in range(count(5000, 20)):
        tree = base_of(seed // 4).tree
        fault = some_fault(seed // 4, 100 + seed % 4) if seed % 4 else None
        try:
            climb = Climb(parse_design(patched(copy.deepcopy(tree), fault.edit if fault else [])))
        except InputRefused:
            continue
        _agree(climb, f"{seed} {fault}")


def _agree(climb: Climb, what: str) -> None:
    sweep, site, verdicts = climb.sweep, climb.site, climb.verdicts()
    for a, b in sweep.pairs:
        for space in sweep.pair(a, b):
            shape = (len(space.sources), len(space.destinations), len(space.possible))
            for s, d, v in islice(np.ndindex(shape), 0, None, max(1, int(np.prod(shape)) // 20)):
                if space.possible[v]:
                    source = verdicts.place(a, space.family, int(space.sources[s]))
                    target = verdicts.place(b, space.family, int(space.destinations[d]))
                    went = walk(site, source, target, verdicts.service(v))
                    there = went.receiver is not None and went.receiver.segment == b
                    said = f"{what}: {source.address} to {target.address}: {went.reason}"
                    assert (went.outcome != "stopped" and there) == bool(space.allowed[s, d, v]), said


def test_a_fault_taken_back_is_a_sound_site() -> None:
    """The edit of a fault has an inverse that leads home: nothing of it is left in what is said."""
    for seed in range(count(200, 15)):
        fault = some_fault(seed, 7)
        if fault is None:
            continue
        tree = base_of(seed).tree
        try:
            apply(tree, fault.edit)
        except InputRefused:
            continue
        assert tree == sound_site(seed)
