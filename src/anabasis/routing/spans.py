"""Arithmetic on intervals of whole numbers: sorted, disjoint, both ends included."""

from __future__ import annotations

from collections.abc import Iterable

from anabasis.design.notation import Network

Interval = tuple[int, int]
Intervals = list[Interval]


def span_of(net: Network) -> Interval:
    """Return a prefix as an interval."""
    return int(net.network_address), int(net.broadcast_address)


def merge(spans: Iterable[Interval]) -> Intervals:
    """Return the union, with touching intervals joined."""
    out: Intervals = []
    for low, high in sorted(spans):
        if out and low <= out[-1][1] + 1:
            out[-1] = (out[-1][0], max(out[-1][1], high))
        else:
            out.append((low, high))
    return out


def subtract(spans: Iterable[Interval], holes: Iterable[Interval]) -> Intervals:
    """Return what is in `spans` and in none of `holes`."""
    out: Intervals = []
    gaps = merge(holes)
    for low, high in merge(spans):
        for first, last in gaps:
            if last < low or first > high:
                continue
            if first > low:
                out.append((low, first - 1))
            low = last + 1
        if low <= high:
            out.append((low, high))
    return out


def intersect(one: Iterable[Interval], two: Iterable[Interval]) -> Intervals:
    """Return what is in both."""
    other = list(two)
    return merge((max(a, c), min(b, d)) for a, b in one for c, d in other if max(a, c) <= min(b, d))
