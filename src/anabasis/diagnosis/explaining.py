"""Which single faults, and which pairs of them, explain what was seen.

What each single fault shows is known (`testing/signatures.py`), so an answer costs an array. Of a pair it is composed: a test that one of the two
alone disturbs shows what that one shows; one that both disturb may show either. The best of those are made and looked at.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from anabasis.errors import InputRefused
from anabasis.facts import Shown
from anabasis.faults import KINDS, Fault
from anabasis.testing import Scene, Signatures

Values = npt.NDArray[np.int16]
VERIFIED = 50
"""How many pairs are made and looked at."""
MOST_GROUPS = 160
"""Of how many kinds of shows pairs are made: those that explain most of what is not as it should be."""
MOST_ALIKE = 60
"""How many pairs are told that are shown alike."""
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
    """One explanation: mistakes that every test shows alike, each a fault or two at once; none at all = nothing is wrong."""

    alike: tuple[tuple[int, ...], ...]
    row: Values
    explains: int
    verified: bool
    rank: tuple[float, ...]


def diagnose(
    pool: Signatures, answers: Sequence[Answered], scene: Scene | None = None, pairs: bool = True
) -> Diagnosis:
    """Return the explanations. `scene`: the site, by which pairs are verified; without it they are composed alone.

    Cost: an array of groups of faults x answers; a pair that is verified two sites.
    """
    places = {t.id: k for k, t in enumerate(pool.tests)}
    asked = [(places[a.test], pool.number(a.seen)) for a in answers if a.test in places]
    at = np.array([k for k, _ in asked], dtype=np.intp)
    seen = np.array([v for _, v in asked], dtype=np.int16)
    strange = tuple(pool.tests[k].id for k, v in asked if v < 0)
    of = len(asked)
    held = _singles(pool, at, seen, of)
    if pairs and held[0].explains < of:
        held = sorted([*held, *_pairs(pool, held[0].explains, at, seen, scene, of)], key=lambda h: h.rank)
    best = held[:SHOWN]
    if best and best[0].alike[0]:
        best = [h for h in best if h.alike[0] or h.explains == of] or best
    rows = [h.row for h in best[:8] if h.explains == best[0].explains] or [pool.sound]
    left = [k for k in range(len(pool.tests)) if k not in set(at.tolist())]
    told = tuple(
        Explanation(
            _faults(pool, h.alike[0]),
            h.explains,
            of,
            tuple(_faults(pool, one) for one in h.alike[1:]),
            _tells(pool, h.row, [o.row for o in best if o is not h and o.explains >= h.explains - 1], left),
            h.verified,
        )
        for h in best
    )
    return Diagnosis(told, bool(told) and told[0].explains == of, _splits(pool, rows, left), strange)


def _faults(pool: Signatures, numbers: tuple[int, ...]) -> tuple[Fault, ...]:
    return tuple(pool.faults[f] for f in numbers)


def _singles(pool: Signatures, at: npt.NDArray[np.intp], seen: Values, of: int) -> list[_Held]:
    """Return nothing and every single fault, the best first; of the faults no more than can be told, and pairs be made of.

    Ranked: what explains more; then nothing, then one fault before two; then what happens more often, those that are shown alike together; then
    what disturbs less besides.
    """
    matrix, sound = pool.matrix, pool.sound
    hits = int((sound[at] == seen).sum())
    nothing = _Held(((),), sound, hits, True, (of - hits, 0, 0.0, 0))
    groups = pool.alike
    if not groups:
        return [nothing]
    firsts = np.array([g[0] for g in groups], dtype=np.intp)
    explains = (matrix[np.ix_(firsts, at)] == seen).sum(axis=1)
    weights = np.array([_weight(pool, g) for g in groups])
    order = np.lexsort((-weights, -explains))[: SHOWN * 2]
    out = [nothing]
    for k in order.tolist():
        row = matrix[firsts[k]]
        rank = (of - int(explains[k]), 1, -float(weights[k]), int((row != sound).sum()))
        out.append(_Held(tuple((f,) for f in groups[k]), row, int(explains[k]), True, rank))
    return sorted(out, key=lambda h: h.rank)


def _weight(pool: Signatures, group: Sequence[int]) -> float:
    """Return how often the mistakes happen that are shown alike."""
    return sum(KINDS[pool.faults[f].kind].often for f in group) / 10


def _pairs(
    pool: Signatures, least: int, at: npt.NDArray[np.intp], seen: Values, scene: Scene | None, of: int
) -> list[_Held]:
    """Return pairs that explain more than `least`, the best of which were made and looked at.

    Faults that every test shows alike are one here: who is made stands for them all, and a pair of two such stands for each with each.
    """
    matrix, sound = pool.matrix, pool.sound
    wrong = sound[at] != seen
    firsts = np.array([g[0] for g in pool.alike], dtype=np.intp)
    if not len(firsts):
        return []
    gain = ((matrix[np.ix_(firsts, at)] == seen) & wrong).sum(axis=1)
    every = np.array([_weight(pool, g) for g in pool.alike])
    kept = [k for k in np.lexsort((-every, -gain)).tolist() if gain[k]][:MOST_GROUPS]
    if len(kept) < 2:
        return []
    groups, weights = [pool.alike[k] for k in kept], every[kept]
    rows = matrix[np.ix_(firsts[kept], at)]
    fits, moved = rows == seen, rows != sound[at]
    ones, twos = np.triu_indices(len(kept), 1)
    # a test that one of the two disturbs shows what that one shows; one that both disturb may show either
    meets = np.where(moved[ones] & moved[twos], fits[ones] | fits[twos], np.where(moved[ones], fits[ones], fits[twos]))
    explains = meets.sum(axis=1)
    out: list[_Held] = []
    for k in np.lexsort((-(weights[ones] * weights[twos]), -explains))[:VERIFIED].tolist():
        if explains[k] <= least:
            break
        one, two = groups[ones[k]], groups[twos[k]]
        row, verified = _pair_row(pool, one[0], two[0], scene)
        if row is not None:
            each = tuple((f, g) for f in one for g in two)[:MOST_ALIKE]
            found = int((row[at] == seen).sum())
            rank = (of - found, 2, -float(weights[ones[k]] * weights[twos[k]]), int((row != sound).sum()))
            out.append(_Held(each, row, found, verified, rank))
    return out


def _pair_row(pool: Signatures, f: int, g: int, scene: Scene | None) -> tuple[Values | None, bool]:
    matrix, sound = pool.matrix, pool.sound
    if scene is None:
        return np.where(matrix[f] == sound, matrix[g], matrix[f]), False
    try:
        shown = scene.shows(pool.tests, pool.faults[f].edit, pool.faults[g].edit)
    except InputRefused:
        return None, True
    return np.array([pool.number(s) for s in shown], dtype=np.int16), True


def _splits(pool: Signatures, rows: list[Values], left: list[int]) -> str | None:
    """Return the test not made yet whose answers divide what is still possible most evenly."""
    if len(rows) < 2 or not left:
        return None
    stacked = np.array(rows)
    worst = [(int(np.unique(stacked[:, k], return_counts=True)[1].max()), k) for k in left]
    most, k = min(worst)
    return pool.tests[k].id if most < len(rows) else None


def _tells(pool: Signatures, row: Values, rivals: list[Values], left: list[int]) -> str | None:
    """Return the test not made yet that tells one from most of its rivals."""
    if not rivals or not left:
        return None
    apart = (np.array(rivals)[:, left] != row[left]).sum(axis=0)
    k = int(np.argmax(apart))
    return pool.tests[left[k]].id if apart[k] else None
