"""Which single faults, and which pairs of them, explain what was seen.

What each single fault shows is known (`testing/signatures.py`), so an answer costs an array. Of a pair it is composed: a test that one of the two
alone disturbs shows what that one shows; one that both disturb may show either. The best of those are made and looked at.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from math import prod

import numpy as np
import numpy.typing as npt

from anabasis.errors import InputRefused
from anabasis.facts import Shown
from anabasis.faults import KINDS, Fault
from anabasis.testing import Scene, Signatures

VERIFIED = 50
"""How many pairs are made and looked at."""
MOST_SINGLES = 60
"""How many faults pairs are made of: those that explain most of what is not as it should be."""
SHOWN = 30
"""How many explanations are told."""


@dataclass(frozen=True)
class Answered:
    """What was seen at one test."""

    test: str
    seen: Shown


@dataclass(frozen=True)
class Explanation:
    """One fault, or two, that explain some of what was seen; nothing at all explains a site that is as designed."""

    faults: tuple[Fault, ...]
    explains: int
    of: int
    alike: tuple[tuple[Fault, ...], ...]
    """Others that no test of all that can be made tells from it."""
    next_test: str | None
    """The test that tells it from most of its rivals; None where none does."""
    verified: bool
    """Whether it was made and looked at, or is composed of what its parts show."""


@dataclass(frozen=True)
class Diagnosis:
    """What explains what was seen, the best first."""

    explanations: tuple[Explanation, ...]
    complete: bool
    """Whether the first explains all of it."""
    next_test: str | None
    """The test that tells the best apart."""
    strange: tuple[str, ...]
    """Tests that show what no single fault makes them show."""


@dataclass(frozen=True)
class _Held:
    faults: tuple[int, ...]
    row: npt.NDArray[np.int32]
    explains: int
    verified: bool


def diagnose(
    pool: Signatures, answers: Sequence[Answered], scene: Scene | None = None, pairs: bool = True
) -> Diagnosis:
    """Return the explanations. `scene`: the site, by which pairs are verified; without it they are composed alone."""
    places = {t.id: k for k, t in enumerate(pool.tests)}
    asked = [(places[a.test], pool.number(a.seen)) for a in answers if a.test in places]
    matrix, sound = pool.matrix, pool.sound
    at = np.array([k for k, _ in asked], dtype=np.intp)
    seen = np.array([v for _, v in asked], dtype=np.int32)
    strange = tuple(pool.tests[k].id for k, v in asked if v < 0)
    of = len(asked)
    held = [_Held((), sound, int((sound[at] == seen).sum()), True)]
    hits = (matrix[:, at] == seen).sum(axis=1) if len(matrix) else np.zeros(0, dtype=int)
    held += [_Held((f,), matrix[f], int(hits[f]), True) for f in range(len(matrix))]
    held.sort(key=lambda h: _rank(pool, h, of))
    if pairs and held[0].explains < of:
        held = _with_pairs(pool, held, at, seen, scene, of)
    groups = _alike(pool, held, of)
    best = groups[:SHOWN]
    if best and best[0][0].faults:
        best = [g for g in best if g[0].faults or g[0].explains == of] or best
    rows = [g[0].row for g in best[:8] if g[0].explains == best[0][0].explains] or [sound]
    left = [k for k in range(len(pool.tests)) if k not in set(at.tolist())]
    first = _splits(pool, rows, left)
    told = tuple(
        Explanation(
            tuple(pool.faults[f] for f in g[0].faults),
            g[0].explains,
            of,
            tuple(tuple(pool.faults[f] for f in h.faults) for h in g[1:]),
            _tells(pool, g[0].row, [h[0].row for h in best if h is not g and h[0].explains >= g[0].explains - 1], left),
            g[0].verified,
        )
        for g in best
    )
    return Diagnosis(told, bool(told) and told[0].explains == of, first, strange)


def _rank(pool: Signatures, held: _Held, of: int) -> tuple[float, ...]:
    """Rank: what explains more first; then nothing, then one fault before two, then what happens more often, then what disturbs less besides."""
    often = min((KINDS[pool.faults[f].kind].often for f in held.faults), default=10)
    disturbs = int((held.row != pool.sound).sum())
    return of - held.explains, len(held.faults), -often, disturbs


def _with_pairs(
    pool: Signatures,
    held: list[_Held],
    at: npt.NDArray[np.intp],
    seen: npt.NDArray[np.int32],
    scene: Scene | None,
    of: int,
) -> list[_Held]:
    """Return the explanations with pairs among them, the best of which were made and looked at."""
    matrix, sound = pool.matrix, pool.sound
    wrong = sound[at] != seen
    singles = [f for f in range(len(matrix)) if (matrix[f][at][wrong] == seen[wrong]).any()]
    gain = {f: int(((matrix[f][at] == seen) & wrong).sum()) for f in singles}
    singles.sort(key=lambda f: (-gain[f], -KINDS[pool.faults[f].kind].often))
    reduced: dict[bytes, int] = {}
    for f in singles:  # one of those that show the same at what was asked
        reduced.setdefault(matrix[f][at].tobytes(), f)
    chosen = list(reduced.values())[: MOST_SINGLES * 3]
    found: list[tuple[tuple[float, ...], int, int]] = []
    for f, g in combinations(chosen, 2):
        one, two, base = matrix[f][at], matrix[g][at], sound[at]
        fits = np.where(one == base, two == seen, np.where(two == base, one == seen, (one == seen) | (two == seen)))
        explains = int(fits.sum())
        often = KINDS[pool.faults[f].kind].often + KINDS[pool.faults[g].kind].often
        found.append(((of - explains, -often), f, g))
    found.sort()
    best = held[0].explains
    out = list(held)
    for (missed, _), f, g in found[:VERIFIED]:
        if of - missed <= best:
            break
        row, verified = _pair_row(pool, f, g, scene)
        if row is not None:
            out.append(_Held((f, g), row, int((row[at] == seen).sum()), verified))
    out.sort(key=lambda h: _rank(pool, h, of))
    return out


def _pair_row(pool: Signatures, f: int, g: int, scene: Scene | None) -> tuple[npt.NDArray[np.int32] | None, bool]:
    matrix, sound = pool.matrix, pool.sound
    if scene is None:
        return np.where(matrix[f] == sound, matrix[g], matrix[f]), False
    try:
        shown = scene.shows(pool.tests, pool.faults[f].edit, pool.faults[g].edit)
    except InputRefused:
        return None, True
    return np.array([pool.number(s) for s in shown], dtype=np.int32), True


def _alike(pool: Signatures, held: list[_Held], of: int) -> list[list[_Held]]:
    """Return the explanations with those together that every test shows alike: what explains more first, then what happens more often in all."""
    found: dict[bytes, list[_Held]] = {}
    for one in held:
        found.setdefault(one.row.tobytes(), []).append(one)
    return sorted(
        found.values(), key=lambda g: (of - g[0].explains, len(g[0].faults), -_weight(pool, g), _rank(pool, g[0], of))
    )


def _weight(pool: Signatures, group: list[_Held]) -> float:
    """Return how often the mistakes happen that are shown alike; two at once are as seldom as both."""
    return sum(prod(KINDS[pool.faults[f].kind].often / 10 for f in h.faults) for h in group)


def _splits(pool: Signatures, rows: list[npt.NDArray[np.int32]], left: list[int]) -> str | None:
    """Return the test not made yet whose answers divide what is still possible most evenly."""
    if len(rows) < 2 or not left:
        return None
    stacked = np.array(rows)
    worst = [(int(np.unique(stacked[:, k], return_counts=True)[1].max()), k) for k in left]
    most, k = min(worst)
    return pool.tests[k].id if most < len(rows) else None


def _tells(
    pool: Signatures, row: npt.NDArray[np.int32], rivals: list[npt.NDArray[np.int32]], left: list[int]
) -> str | None:
    """Return the test not made yet that tells one from most of its rivals."""
    if not rivals or not left:
        return None
    apart = (np.array(rivals)[:, left] != row[left]).sum(axis=0)
    k = int(np.argmax(apart))
    return pool.tests[left[k]].id if apart[k] else None
