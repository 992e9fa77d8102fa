"""What every single fault would show: computed once for a state of the design, since sheets, covers and diagnoses all rest on it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from functools import cached_property, partial
from multiprocessing import get_context

import numpy as np
import numpy.typing as npt

from anabasis.design import Tree
from anabasis.errors import InputRefused
from anabasis.facts import SheetTest, Shown
from anabasis.faults import KINDS, Fault, faults_of
from anabasis.patience import Work, through
from anabasis.testing.showing import Scene
from anabasis.testing.stands import Stand

CHUNK = 12
"""How many faults one process is given at a time."""


Values = npt.NDArray[np.int16]


@dataclass
class Signatures:
    """Faults, and what each test shows under each."""

    tests: list[SheetTest]
    faults: list[Fault]
    seen: list[Values] = field(default_factory=list)
    """[fault][test]: a number of `values`."""
    values: list[Shown] = field(default_factory=list)
    impossible: int = 0
    """How many faults lead to no design that the document allows."""

    def number(self, shown: Shown) -> int:
        """Return the number of a value; -1 where no test ever shows it."""
        return self._numbers.get(shown, -1)

    @cached_property
    def _numbers(self) -> dict[Shown, int]:
        return {v: k for k, v in enumerate(self.values)}

    @cached_property
    def matrix(self) -> Values:
        """Return int16[fault, test]: what is shown, by number."""
        return np.array(self.seen, dtype=np.int16).reshape(len(self.faults), len(self.tests))

    @cached_property
    def sound(self) -> Values:
        """Return int16[test]: what is shown where nothing is wrong."""
        return np.array([self._numbers[t.expect] for t in self.tests], dtype=np.int16)

    @cached_property
    def alike(self) -> list[list[int]]:
        """Return the faults in groups that every test shows alike, what happens most often first in each."""
        found: dict[bytes, list[int]] = {}
        for f, row in enumerate(self.matrix):
            found.setdefault(row.tobytes(), []).append(f)
        return [sorted(g, key=lambda f: -KINDS[self.faults[f].kind].often) for g in found.values()]


def signatures(scene: Scene, tests: Sequence[SheetTest], workers: int = 1) -> Signatures:
    """Return what every single fault of a design shows. Cost: two sites a fault, and a walk for each test of packets."""
    out = Signatures(list(tests), [])
    numbers: dict[Shown, int] = {}
    for test in tests:
        numbers.setdefault(test.expect, len(numbers))
    faults = list(faults_of(scene.tree))
    for fault, shown in _computed(scene, faults, list(tests), workers):
        if shown is None:
            out.impossible += 1
            continue
        out.faults.append(fault)
        out.seen.append(np.array([numbers.setdefault(s, len(numbers)) for s in shown], dtype=np.int16))
    out.values = list(numbers)
    return out


def _computed(
    scene: Scene, faults: list[Fault], tests: list[SheetTest], workers: int
) -> Iterator[tuple[Fault, list[Shown] | None]]:
    if workers < 2 or len(faults) < 2 * CHUNK:
        for fault in through(faults, Work.FAULTS):
            yield fault, shown_under(scene, fault, tests)
        return
    chunks = [faults[k : k + CHUNK] for k in range(0, len(faults), CHUNK)]
    with ProcessPoolExecutor(
        workers, get_context("spawn"), initializer=_begin, initargs=(scene.tree, scene.stands)
    ) as pool:
        try:
            told = pool.map(partial(_chunk, tests), chunks)
            for chunk in through(chunks, Work.FAULTS):
                yield from zip(chunk, next(told), strict=True)
        except BaseException:
            pool.shutdown(wait=False, cancel_futures=True)
            raise


_scene: Scene | None = None


def _begin(tree: Tree, stands: list[Stand]) -> None:
    global _scene
    _scene = Scene(tree, stands)


def _chunk(tests: list[SheetTest], faults: list[Fault]) -> list[list[Shown] | None]:
    assert _scene is not None
    return [shown_under(_scene, fault, tests) for fault in faults]


def shown_under(scene: Scene, fault: Fault, tests: Sequence[SheetTest]) -> list[Shown] | None:
    """Return what tests show under one fault; None where the document does not allow it."""
    try:
        return scene.shows(tests, fault.edit)
    except InputRefused:
        return None
