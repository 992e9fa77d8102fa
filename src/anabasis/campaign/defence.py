"""Depth of defence: how many parts must fail, or mistakes be made, before something passes that must stay closed. Exact to two."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import asdict, dataclass
from itertools import combinations
from math import comb
from time import perf_counter
from typing import Any

from anabasis.campaign.cases import Case, cases_of, fault_named
from anabasis.campaign.judging import digest_of
from anabasis.campaign.running import Progress, run
from anabasis.climb import Climb
from anabasis.design import Tree, parse_design
from anabasis.design.together import together
from anabasis.errors import InputRefused
from anabasis.fabric import conditions_of
from anabasis.memo import Memo
from anabasis.once import once

DEEPEST = 3
"""What is told of as at least so many is not looked into any further."""
MOST_PAIRS = 2_000_000
"""Of a site with more pairs than that none is tried: nobody could wait for them, and some of them prove nothing."""
SHOWN = 20
"""How many ways in are kept of each expectation."""


@dataclass(frozen=True)
class Opened:
    """A case, and what it opens."""

    design: str
    failed: tuple[str, ...]
    faults: tuple[str, ...]
    opened: tuple[str, ...]
    """Expectations that something must stay closed, and is open."""
    refused: bool
    """The document does not allow such a mistake, or not these two together."""
    print: str
    """Of the document with the mistake in it, or the part that fails: two with one print are the same. Of single ones alone."""
    seconds: float

    def as_dict(self) -> dict[str, Any]:
        """Return it for JSON."""
        return asdict(self)

    @classmethod
    def read(cls, said: Mapping[str, Any]) -> Opened:
        """Return what `as_dict` wrote."""
        lists = {k: tuple(said[k]) for k in ("failed", "faults", "opened")}
        return cls(**{**said, **lists})

    @property
    def case(self) -> Case:
        """Return its case."""
        return Case(self.design, self.failed, self.faults)


@dataclass(frozen=True)
class Way:
    """What together opens an expectation."""

    failed: tuple[str, ...]
    faults: tuple[str, ...]


@dataclass(frozen=True)
class Depth:
    """How deep one expectation is defended."""

    expectation: str
    depth: int
    """0 = open as things are; 1 or 2; `DEEPEST` = at least three."""
    exact: bool
    """Every smaller number was tried out in full; else it is at least so deep."""
    ways: tuple[Way, ...]
    """Of that many: all single ones; of two the first that were found."""

    def as_dict(self) -> dict[str, Any]:
        """Return it for JSON."""
        return asdict(self)


class Guard:
    """Looks at the closed expectations of one design alone, in many states of it."""

    def __init__(self, tree: Tree) -> None:
        """Raises InputRefused where the document is none."""
        self.tree = tree
        self.sound = Climb(parse_design(tree))
        self.names = frozenset(e.name for e in self.sound.design.expectations if e.expect in ("closed", "only"))
        self.open = frozenset(j.name for j in self.sound.judged(self.names) if j.opened)
        self._under: tuple[tuple[str, ...], Memo] = ((), self.sound.memo)

    def judge(self, case: Case) -> Opened:
        """Return what a case opens that is closed as things are. Raises UnknownPlace where it names what the design has not."""
        begun = perf_counter()
        edits = [fault_named(self.tree, f).edit for f in case.faults]
        opened: tuple[str, ...] = ()
        refused, told = False, ""
        try:
            tree = together(self.tree, edits) if edits else self.tree
            opened = tuple(j.name for j in self._state(case, tree).judged(self.names - self.open) if j.opened)
            if case.size == 1:
                told = "".join(case.failed) or digest_of(tree)
        except InputRefused:
            refused = True
        return Opened(case.design, case.failed, case.faults, opened, refused, told, round(perf_counter() - begun, 4))

    def _state(self, case: Case, tree: Tree) -> Climb:
        design = self.sound.design
        if tree is not self.tree:
            design = parse_design(tree, known=(self.tree, design))
        if case.failed != self._under[0]:  # what is kept is of the last state under the same failures
            self._under = case.failed, Memo() if case.failed else self.sound.memo
        return Climb(design, conditions_of(design, case.failed), self._under[1])


def single_cases(name: str, tree: Tree) -> list[Case]:
    """Return the cases of one thing: each part that fails, each mistake."""
    return [c for c in cases_of(name, tree) if c.failed or c.faults]


def pair_cases(singles: Iterable[Opened]) -> list[Case] | None:
    """Return the cases of two things, failures first: of those that are the same one alone, and none that the document refuses; None = too many."""
    of: dict[str, Case] = {}
    for row in singles:
        if not row.refused:
            of.setdefault(row.print, row.case)
    if comb(len(of), 2) > MOST_PAIRS:
        return None
    return [
        Case(a.design, tuple(sorted({*a.failed, *b.failed})), (*a.faults, *b.faults))
        for a, b in combinations(of.values(), 2)
    ]


_guards: dict[str, Guard] = {}


def opened_by(tree: Tree, digest: str, cases: Sequence[Case]) -> list[Opened]:
    """Return the rows of a chunk; a worker keeps the design it saw last."""
    if digest not in _guards:
        _guards.clear()
        _guards[digest] = Guard(tree)
    return [_guards[digest].judge(c) for c in cases]


class Defence:
    """The search of one design: single cases first, then pairs until each closed expectation is known to be opened by something, or all were tried."""

    def __init__(self, name: str, tree: Tree, known: Sequence[Opened] = (), tried: int = 0) -> None:
        """`known`: single rows, and pairs that open something, of a search that was stopped; `tried`: how many pairs it had behind it."""
        guard = Guard(tree)
        self.name, self.tree = name, tree
        self.names, self.open = guard.names, guard.open
        self._ones = single_cases(name, tree)
        self._singles = {r.case.key: r for r in known if r.case.size == 1}
        self._opening = {r.case.key: r for r in known if r.opened}
        self.tried = tried if len(self._singles) == len(self._ones) else 0
        """How many pairs are behind, in their order."""
        self._ahead: set[int] = set()

    @property
    def singles_done(self) -> bool:
        """Tell whether every single case is judged."""
        return len(self._singles) == len(self._ones)

    @once
    def pairs(self) -> list[Case] | None:
        """Return the pairs there are to be tried, None = too many; only once the single cases are judged."""
        return pair_cases(self._singles[c.key] for c in self._ones)

    @property
    def decided(self) -> bool:
        """Tell whether something is known that opens each of them."""
        return self.names <= self.open | {n for r in self._opening.values() for n in r.opened}

    @property
    def exhausted(self) -> bool:
        """Tell whether every pair was tried."""
        return self.singles_done and self.pairs is not None and self.tried >= len(self.pairs)

    @property
    def done(self) -> int:
        """Return how many cases are behind."""
        return len(self._singles) + self.tried

    @property
    def total(self) -> int:
        """Return how many there are, as far as that is known: pairs count once the single ones are judged."""
        return len(self._ones) + (len(self.pairs or ()) if self.singles_done else 0)

    def run(
        self,
        scheduler: str | None = None,
        workers: int = 1,
        tell: Callable[[Progress], bool] = lambda _: True,
        pairs: bool = True,
        apart: bool = False,
    ) -> Iterator[Opened]:
        """Yield rows as they are judged (`campaign.run`)."""
        designs: Mapping[str, Tree] = {self.name: self.tree}
        todo = [c for c in self._ones if c.key not in self._singles]
        for row in run(designs, todo, scheduler, workers, tell, opened_by, apart):
            self._singles[row.case.key] = row
            self._came(row)
            yield row
        if not pairs or not self.singles_done or self.decided or self.pairs is None:
            return
        place = {c.key: k for k, c in enumerate(self.pairs)}
        rest = self.pairs[self.tried :]
        for row in run(designs, rest, scheduler, workers, lambda p: tell(p) and not self.decided, opened_by, apart):
            self._came(row)
            self._ahead.add(place[row.case.key])
            while self.tried in self._ahead:
                self._ahead.remove(self.tried)
                self.tried += 1
            yield row

    def _came(self, row: Opened) -> None:
        if row.opened:
            self._opening[row.case.key] = row

    @property
    def depths(self) -> list[Depth]:
        """Return how deep each expectation is defended, as far as that is known."""
        ways: dict[str, dict[int, list[Way]]] = {}
        for row in self._opening.values():
            for name in row.opened:
                ways.setdefault(name, {}).setdefault(row.case.size, []).append(Way(row.failed, row.faults))
        out: list[Depth] = []
        for name in sorted(self.names):
            if name in self.open:
                out.append(Depth(name, 0, True, ()))
            elif found := ways.get(name):
                size = min(found)
                out.append(Depth(name, size, self.singles_done, tuple(found[size][:SHOWN])))
            else:
                least = DEEPEST if self.exhausted else 2 if self.singles_done else 1
                out.append(Depth(name, least, self.exhausted, ()))
        return out
