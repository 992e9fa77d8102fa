"""Few tests that show every fault: a set cover with duties, solved as an integer program within a time, with the bound that it proves; and some more
that tell the faults apart which those show alike."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil

import numpy as np
import numpy.typing as npt
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import csr_array, vstack

Mask = npt.NDArray[np.bool_]
SECONDS = 10.0
EPS = 1e-6


@dataclass(frozen=True)
class Cover:
    """Which tests are made."""

    chosen: list[int]
    bound: int
    """No choice that shows as much has fewer."""
    proved: bool
    """There is none with fewer than this."""
    unseen: list[int]
    """Faults that no test shows."""


def cover(differs: Mask, duties: Sequence[Sequence[int]] = (), seconds: float = SECONDS) -> Cover:
    """Return few tests.

    Args:
        differs: bool[fault, test], the test shows something else under the fault than where nothing is wrong.
        duties: of each of these groups of tests at least one is made.
        seconds: how long a better choice is looked for.
    """
    tests = differs.shape[1]
    seen = differs.any(axis=1)
    unseen = np.flatnonzero(~seen).tolist()
    rows = np.unique(differs[seen], axis=0) if seen.any() else np.zeros((0, tests), dtype=bool)
    wanted = [sorted(set(d)) for d in duties if len(d)]
    if not len(rows) and not wanted:
        return Cover([], 0, True, unseen)
    parts = [csr_array(rows.astype(float))] if len(rows) else []
    if wanted:
        at = [(k, t) for k, d in enumerate(wanted) for t in d]
        parts.append(csr_array((np.ones(len(at)), tuple(np.array(at).T)), shape=(len(wanted), tests)))
    matrix = vstack(parts).tocsr() if len(parts) > 1 else parts[0]
    solved = milp(
        np.ones(tests),
        constraints=LinearConstraint(matrix, lb=1),
        integrality=np.ones(tests),
        bounds=Bounds(0, 1),
        options={"time_limit": seconds},
    )
    greedy = _greedy(matrix)
    found = np.flatnonzero(solved.x > 0.5).tolist() if solved.x is not None else greedy
    best = found if len(found) <= len(greedy) else greedy
    least = ceil((solved.mip_dual_bound if solved.mip_dual_bound is not None else 0) - EPS)
    least = min(max(least, 1), len(best))
    return Cover(best, least, least == len(best), unseen)


def _greedy(matrix: csr_array) -> list[int]:
    """Return the choice that takes the test next that shows most of what is not shown yet."""
    left = np.ones(matrix.shape[0], dtype=bool)
    columns = matrix.tocsc()
    out: list[int] = []
    while left.any():
        gain = columns.T @ left.astype(float)
        k = int(np.argmax(gain))
        out.append(k)
        left[columns.indices[columns.indptr[k] : columns.indptr[k + 1]]] = False
    return sorted(out)


FIRST, AMONG_THREE = 0.96, 0.995
"""For which part of all faults the sheet alone is to name the right one first, or among the first three."""


def telling(
    values: npt.NDArray[np.int16], weights: npt.NDArray[np.float64], chosen: Sequence[int], most: int = 200
) -> list[int]:
    """Return tests besides those chosen, the most telling first, by which faults are told apart.

    Args:
        values: int[fault, test], what each test shows under each fault.
        weights: float[fault], how often each happens.
        chosen: tests that are made anyhow.
        most: how many are added at most.

    Faults that all tests show alike are one. It ends where the likeliest of those that are shown alike is nearly always the right one.
    """
    if not len(values):
        return []
    _, groups = np.unique(values, axis=0, return_inverse=True)
    groups = groups.ravel()
    firsts = np.unique(groups, return_index=True)[1]
    rows = values[firsts]
    weight: npt.NDArray[np.float64] = np.bincount(groups, weights).astype(np.float64)
    classes = np.zeros(len(rows), dtype=np.intp)
    for k in chosen:
        classes = _parted(classes, rows[:, k])
    out: list[int] = []
    total = float(weight.sum())
    left = [k for k in range(values.shape[1]) if k not in set(chosen)]
    while left and len(out) < most:
        first, three = _rates(classes, weight, total)
        if first >= FIRST and three >= AMONG_THREE:
            break
        scores = []
        for k in left:
            parted = _parted(classes, rows[:, k])
            a, b = _rates(parted, weight, total)
            sizes = np.bincount(parted)
            scores.append((a + b, -float((sizes.astype(float) ** 2).sum()), -k))
        best = max(range(len(left)), key=scores.__getitem__)
        parted = _parted(classes, rows[:, left[best]])
        if len(np.unique(parted)) == len(np.unique(classes)):
            break
        classes = parted
        out.append(left.pop(best))
    return out


def _parted(classes: npt.NDArray[np.intp], column: npt.NDArray[np.int16]) -> npt.NDArray[np.intp]:
    """Return the classes once a test has told some of them apart."""
    found: npt.NDArray[np.intp] = np.unique(classes * (int(column.max(initial=0)) + 2) + column, return_inverse=True)[
        1
    ].ravel()
    return found


def _rates(classes: npt.NDArray[np.intp], weight: npt.NDArray[np.float64], total: float) -> tuple[float, float]:
    """Return which part of all is the likeliest of its class, and which is among the three likeliest."""
    order = np.lexsort((-weight, classes))
    starts = np.flatnonzero(np.r_[True, np.diff(classes[order]) != 0])
    place = np.arange(len(order)) - np.repeat(starts, np.diff(np.r_[starts, len(order)]))
    own = weight[order]
    return float(own[place == 0].sum()) / total, float(own[place < 3].sum()) / total
