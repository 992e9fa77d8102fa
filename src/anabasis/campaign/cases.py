"""What may happen to a design: parts that fail, mistakes that are made, alone and together. A case is named so that it can be made again from its row."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations, islice, product
from math import comb
from random import Random

from anabasis.design import Tree, parse_design
from anabasis.errors import InputRefused, Problem, UnknownPlace, nearest
from anabasis.failover import breakable
from anabasis.faults import KINDS, OPENING, Fault, faults_of

MOST = 200_000
"""How many cases of one size are counted out; of more a sample is drawn."""


@dataclass(frozen=True)
class Case:
    """One thing that may happen to one design."""

    design: str
    failed: tuple[str, ...] = ()
    faults: tuple[str, ...] = ()
    """Each `kind#number`: which of those of its kind, in the order of the catalogue."""

    @property
    def size(self) -> int:
        """Return how many things happen at once."""
        return len(self.failed) + len(self.faults)

    @property
    def key(self) -> str:
        """Return what tells it from every other case of a campaign."""
        return json.dumps((self.design, self.failed, self.faults))


def cases_of(
    name: str,
    tree: Tree,
    failures: int = 1,
    faults: int = 1,
    together: bool = False,
    sample: int = 1_000,
    seed: int = 0,
) -> Iterator[Case]:
    """Yield the cases of a design: nothing at all, then failures of one part, of two, and so on, then mistakes likewise; `together`: each with each besides.

    `sample`: of three and more at once, and of what would be more than `MOST`, so many are drawn, the same ones for the same `seed`.
    """
    parts = [p.name for p in breakable(parse_design(tree))]
    made = [f"{f.kind}#{n}" for f, n in numbered(tree)]
    broken = [c for size in range(1, failures + 1) for c in _some(parts, size, sample, seed)]
    wrong = [c for size in range(1, faults + 1) for c in _some(made, size, sample, seed)]
    yield Case(name)
    yield from (Case(name, failed=c) for c in broken)
    yield from (Case(name, faults=c) for c in wrong)
    if together:
        yield from (Case(name, *both) for both in product(broken, wrong))


def _some(things: Sequence[str], size: int, sample: int, seed: int) -> list[tuple[str, ...]]:
    if size < 3 and comb(len(things), size) <= MOST:
        return list(combinations(things, size))
    if len(things) < size:
        return []
    rng = Random(f"{seed} {size} {len(things)}")
    drawn = (tuple(things[k] for k in sorted(rng.sample(range(len(things)), size))) for _ in range(sample * 4))
    return list(islice(dict.fromkeys(drawn), min(sample, comb(len(things), size))))


def numbered(tree: Tree) -> Iterator[tuple[Fault, int]]:
    """Yield the mistakes of a design in the order of the catalogue, each with its number among those of its kind."""
    counts: dict[str, int] = {}
    for fault in faults_of(tree, opening=True):
        yield fault, counts.get(fault.kind, 0)
        counts[fault.kind] = counts.get(fault.kind, 0) + 1


def fault_named(tree: Tree, name: str) -> Fault:
    """Return the mistake that a row names. Raises UnknownPlace where the design has none of this name."""
    kind, _, number = name.partition("#")
    if kind not in KINDS | OPENING or not number.isdigit():
        close = nearest(kind, list(KINDS | OPENING))
        raise UnknownPlace(
            [Problem("/faults", "no mistake of the catalogue is called so", repr(name), "kind#number", close)]
        )
    found = next(islice(faults_of(tree, kind), int(number), None), None)
    if found is None:
        raise UnknownPlace([Problem("/faults", "the design has no such mistake", repr(name), f"{kind}#0 and on")])
    return found


def check_sizes(failures: int, faults: int) -> None:
    """Raises InputRefused for sizes that nobody can wait for."""
    for key, value, most in (("/failures", failures, 3), ("/faults", faults, 2)):
        if not 0 <= value <= most:
            raise InputRefused([Problem(key, "that many at once are not judged", str(value), f"0 to {most}")])
