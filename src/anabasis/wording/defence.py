"""How deep an expectation is defended, as a person reads it."""

from __future__ import annotations

from collections.abc import Sequence

WORDS = ("none", "one", "two", "three")


def depth_said(depth: int, exact: bool) -> str:
    """Return how many failures or mistakes it takes. `exact`: every smaller number was tried out."""
    if depth == 0:
        return "open as things are"
    return WORDS[depth] if exact and depth < 3 else f"at least {WORDS[depth]}"


def mistake_said(meaning: str, place: str, value: str) -> str:
    """Return what a mistake is, where, and what stands there."""
    return meaning + (f": {place}" if place else "") + (f" ({value})" if value else "")


def case_said(failed: Sequence[str], mistakes: Sequence[str]) -> str:
    """Return what happens in a case: the parts that fail, and mistakes in words."""
    return "; ".join([*(f"{part} fails" for part in failed), *mistakes])
