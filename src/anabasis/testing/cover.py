"""Few tests that show every fault: a set cover with duties, solved as an integer program within a time, with the bound that it proves."""

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
