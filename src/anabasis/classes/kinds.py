"""Kinds: things that some rows of marks do not tell apart, and sets of services as bits."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from anabasis.classes.addresses import Mask, Numbers

Bits = npt.NDArray[np.uint64]
"""Sets of service atoms as bits, 64 a word, in the last axis."""


def packed(mask: Mask) -> Bits:
    """Return bool[..., atom] as uint64[..., word]."""
    width = -(-mask.shape[-1] // 64) * 64
    wide = np.zeros((*mask.shape[:-1], width), dtype=bool)
    wide[..., : mask.shape[-1]] = mask
    return np.packbits(wide, axis=-1, bitorder="little").view(np.uint64)


def unpacked(words: Bits, atoms: int) -> Mask:
    """Return uint64[..., word] as bool[..., atom]."""
    flat = np.ascontiguousarray(words).view(np.uint8)
    return np.unpackbits(flat, axis=-1, count=atoms, bitorder="little").astype(bool)


def kinds(rows: Mask) -> tuple[Numbers, Mask]:
    """Return int[column], the kind of each column of bool[rule, column], and bool[rule, kind]."""
    if not rows.shape[0]:
        return np.zeros(rows.shape[1], dtype=np.intp), np.zeros((0, min(1, rows.shape[1])), dtype=bool)
    bits = np.ascontiguousarray(np.packbits(rows, axis=0).T)
    _, first, kind = np.unique(bits.view(f"V{bits.shape[1]}").ravel(), return_index=True, return_inverse=True)
    return kind.ravel(), rows[:, first]


def holds(known: Numbers, wanted: Numbers) -> bool:
    """Tell whether sorted numbers hold all of some others."""
    at = np.searchsorted(known, wanted)
    return bool(len(known)) and bool((at < len(known)).all()) and np.array_equal(known[at], wanted)


def together(several: list[Numbers], count: int) -> tuple[Numbers, Numbers]:
    """Return int[n], the kinds that n things have where each of several kinds counts, and which of the things stands for each."""
    key, size = np.zeros(count, dtype=np.intp), 1
    if count < 2:
        return key, key
    telling = [one for one in several if (one != one[0]).any()]
    if not telling:
        return key, np.zeros(1, dtype=np.intp)
    for one in telling:
        wide = int(one.max(initial=0)) + 1
        key, size = _close(key * wide + one, size * wide)
    return key, _first(key, size)


def _close(key: Numbers, size: int) -> tuple[Numbers, int]:
    """Return keys below `size` renumbered without gaps, and how many there are."""
    seen = np.zeros(size, dtype=bool)
    seen[key] = True
    rank = np.cumsum(seen) - 1
    return rank[key], int(rank[-1]) + 1


def _first(key: Numbers, size: int) -> Numbers:
    first = np.zeros(size, dtype=np.intp)
    first[key[::-1]] = np.arange(len(key) - 1, -1, -1)
    return first
