"""Which single faults, and which pairs of them, explain what was seen.

What each single fault shows is known (`testing/signatures.py`), so an answer costs an array. Of a pair it is composed: a test that one of the two
alone disturbs shows what that one shows; one that both disturb may show either. The best of those are made and looked at.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import prod

import numpy as np
import numpy.typing as npt

from anabasis.errors import InputRefused
from anabasis.facts import Shown
from anabasis.faults import KINDS, Fault
from anabasis.testing import Scene, Signatures

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
    """Return the explanations with pairs among them, the best of which were made and looked at.

    Faults that every test shows alike are one here: who is made stands for them all, and a pair of two such stands for each with each.
    """
    matrix, sound = pool.matrix, pool.sound
    wrong = sound[at] != seen
    groups: dict[bytes, list[int]] = {}
    for f in range(len(matrix)):
        groups.setdefault(matrix[f].tobytes(), []).append(f)
    often = [KINDS[f.kind].often / 10 for f in pool.faults]
    kept = [(g, int(((matrix[g[0]][at] == seen) & wrong).sum()), sum(often[f] for f in g)) for g in groups.values()]
    kept = sorted((k for k in kept if k[1]), key=lambda k: (-k[1], -k[2]))[:MOST_GROUPS]
    if len(kept) < 2:
        return held
    rows = np.array([matrix[g[0]][at] for g, _, _ in kept])
    weights = np.array([w for _, _, w in kept])
    base, fits = sound[at], rows == seen
    moved = rows != base
    ones, twos = np.triu_indices(len(kept), 1)
    # a test that one of the two disturbs shows what that one shows; one that both disturb may show either
    meets = np.where(moved[ones] & moved[twos], fits[ones] | fits[twos], np.where(moved[ones], fits[ones], fits[twos]))
    explains = meets.sum(axis=1)
    order = np.lexsort((-(weights[ones] * weights[twos]), -explains))
    out = list(held)
    for k in order[:VERIFIED].tolist():
        if explains[k] <= held[0].explains:
            break
        one, two = kept[ones[k]][0], kept[twos[k]][0]
        row, verified = _pair_row(pool, one[0], two[0], scene)
        if row is not None:
            found = int((row[at] == seen).sum())
            each = sorted(((f, g) for f in one for g in two), key=lambda p: -often[p[0]] * often[p[1]])
            out += [_Held(p, row, found, verified) for p in each[:MOST_ALIKE]]
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
