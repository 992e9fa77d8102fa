"""The test sheet of a design: which tests are made, in which order, and what no test can show."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from anabasis.climb import Climb
from anabasis.design import Tree, parse_design
from anabasis.facts import AimKind, Do, SheetTest
from anabasis.faults import KINDS, Fault
from anabasis.testing.asking import ask
from anabasis.testing.cover import SECONDS, cover, telling
from anabasis.testing.showing import Scene
from anabasis.testing.signatures import Signatures, signatures
from anabasis.testing.stands import Stand, stands_of
from anabasis.wording import stand_said

ORDER = [Do.LOOK, Do.LINK, Do.LEASE, Do.PING, Do.CONNECT]
"""Upwards: what stands below is tested first."""


@dataclass(frozen=True)
class TestSheet:
    """Few tests that show whether a site is as designed."""

    __test__ = False  # no test of ours

    tests: tuple[SheetTest, ...]
    pool: Signatures
    """All tests that could be made, and what each shows under every single fault."""
    telling: frozenset[str]
    """Those that are made to tell faults apart; the others show every fault that can be seen."""
    bound: int
    """No fewer of the others do."""
    proved: bool
    unseen: tuple[Fault, ...]
    """Faults that no test can see."""
    untested: tuple[str, ...]
    """Segments with a VLAN in which nobody can stand."""
    stands: tuple[Stand, ...]


def scene_of(tree: Tree) -> Scene:
    """Return the site of a document with laptops at all places to stand at. Raises InputRefused."""
    site = Climb(parse_design(tree)).site
    return Scene(tree, stands_of(site, tree))


def sheet_for(
    tree: Tree, workers: int = 1, seconds: float = SECONDS, known: Signatures | None = None, scene: Scene | None = None
) -> TestSheet:
    """Return the sheet. `known`: what the faults of this very document show, where that is at hand; `scene` likewise. Raises InputRefused."""
    scene = scene if scene is not None else scene_of(tree)
    pool = known if known is not None else signatures(scene, ask(scene), workers)
    return sheet_of(scene, pool, seconds)


def sheet_of(scene: Scene, pool: Signatures, seconds: float = SECONDS) -> TestSheet:
    """Return the sheet of what all tests show."""
    differs = pool.matrix != pool.sound
    found = cover(differs, duties_of(pool.tests), seconds)
    weights = np.array([KINDS[f.kind].often for f in pool.faults], dtype=float)
    shown = differs.any(axis=1)
    more = telling(pool.matrix[shown], weights[shown], found.chosen)
    made = [pool.tests[k] for k in (*found.chosen, *more)]
    made.sort(key=_rank)
    telling_ids = frozenset(pool.tests[k].id for k in more)
    stood = {s.segment for s in scene.stands}
    plain = [s.name for s in scene.by_hand.segments.all if s.kind == "vlan" and s.name not in stood]
    return TestSheet(
        tuple(made),
        pool,
        telling_ids,
        found.bound,
        found.proved,
        tuple(pool.faults[k] for k in found.unseen),
        tuple(plain),
        tuple(scene.stands),
    )


def _rank(test: SheetTest) -> tuple[bool, str, int, int]:
    return test.do != Do.LOOK, stand_said(test), ORDER.index(test.do), int(test.id[1:])


def duties_of(tests: Sequence[SheetTest]) -> list[list[int]]:
    """Return groups of tests of which one at least is made: of each segment, of each pair of zones one that passes and one that does not, of each expectation all it names."""
    groups: dict[tuple[object, ...], list[int]] = {}
    for k, test in enumerate(tests):
        for aim in test.aims:
            if aim.kind == AimKind.VLAN:
                groups.setdefault((aim.kind, aim.name), []).append(k)
            elif aim.kind == AimKind.ZONES:
                groups.setdefault((aim.kind, aim.name, test.expect.kind), []).append(k)
            elif aim.kind == AimKind.EXPECTATION:
                groups.setdefault((aim.kind, aim.name, test.at, test.target, test.service), []).append(k)
    return list(groups.values())
