"""How deep an expectation is defended, as a person reads it."""

from __future__ import annotations

WORDS = ("none", "one", "two", "three")


def depth_said(depth: int, exact: bool) -> str:
    """Return how many failures or mistakes it takes. `exact`: every smaller number was tried out."""
    if depth == 0:
        return "open as things are"
    return WORDS[depth] if exact and depth < 3 else f"at least {WORDS[depth]}"
