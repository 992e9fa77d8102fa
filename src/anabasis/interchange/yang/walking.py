"""Steps through data that somebody else has written: whatever is not there, or not of the kind, is nothing."""

from __future__ import annotations

from typing import Any

from anabasis.design import Tree


def at(data: Any, *path: str) -> Any:
    """Return what stands at the end of a path; None where nothing does."""
    for name in path:
        data = data.get(name) if isinstance(data, dict) else None
    return data


def items(data: Any, *path: str) -> list[Tree]:
    """Return the entries of a list at the end of a path. XML does not tell a list of one from a container: both are read."""
    held = at(data, *path)
    if isinstance(held, dict):
        held = [held]
    return [e for e in held if isinstance(e, dict)] if isinstance(held, list) else []


def values(data: Any, *path: str) -> list[str]:
    """Return the values of a leaf-list, or of a leaf, as text."""
    held = at(data, *path)
    held = held if isinstance(held, list) else [] if held is None else [held]
    return [str(v) for v in held if not isinstance(v, dict | list)]


def text(data: Any, *path: str) -> str:
    """Return a leaf as text; empty where there is none."""
    held = at(data, *path)
    return "" if held is None or isinstance(held, dict | list) else str(held)


def number(data: Any, *path: str) -> int | None:
    """Return a leaf as a number: JSON has them as such, XML and 64 bits as text (RFC 7951 section 6.1)."""
    held = text(data, *path)
    return int(held) if held.isascii() and held.isdigit() and len(held) < 20 else None


def flag(data: Any, *path: str) -> bool | None:
    """Return a leaf as yes or no."""
    return {"true": True, "True": True, "false": False, "False": False}.get(text(data, *path))


def spans(held: str) -> list[int]:
    """Read the VLANs of `10-12,20` (ieee802-dot1q-types, vid-range-type)."""
    out: list[int] = []
    for part in held.split(","):
        low, dash, high = part.strip().partition("-")
        if low.isdigit() and (high.isdigit() or not dash) and len(low) < 5 and len(high) < 5:
            out += range(int(low), int(high or low) + 1)
    return out
