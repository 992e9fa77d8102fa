"""What changed in reach between two states of a design: pairs opened, closed and changed, with the exact flows."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, replace
from itertools import product

from anabasis.fabric import Segment
from anabasis.reach.spaces import FlowSet
from anabasis.reach.sweep import Sweep
from anabasis.reach.verdicts import read_flows


@dataclass(frozen=True)
class Change:
    """One ordered pair whose flows changed."""

    kind: str
    """`opened` (nothing is lost), `closed` (nothing is gained), `changed` (both)."""
    source: str
    target: str
    gained: list[dict[str, str]]
    lost: list[dict[str, str]]
    folded: bool = False
    """One side is a transit segment, which the screens fold away."""


@dataclass(frozen=True)
class Regroup:
    """A segment and its parts."""

    whole: str
    parts: tuple[str, ...]


@dataclass(frozen=True)
class Consequences:
    """Everything an edit changed."""

    opened: tuple[Change, ...]
    closed: tuple[Change, ...]
    changed: tuple[Change, ...]
    split: tuple[Regroup, ...]
    """Segments that fell apart: the segment before, its parts now."""
    joined: tuple[Regroup, ...]
    """Segments that became one: the segment now, what it was made of."""

    def __bool__(self) -> bool:
        """Tell whether anything changed."""
        return bool(self.opened or self.closed or self.changed or self.split or self.joined)


def compare_reach(before: Sweep, after: Sweep) -> Consequences:
    """Compare two sweeps, segment by segment: each segment is matched with the one its attachments stood in before."""
    origin = _origins(before, after)
    changes = [c for a, b in after.pairs if (c := _change(before, after, a, b, origin)) is not None]
    changes += _gone(before, after, origin)
    parts: dict[int, list[int]] = {}
    for now, then in origin.items():
        parts.setdefault(then, []).append(now)
    names_before = [s.name for s in before.site.segments.all]
    names_after = [s.name for s in after.site.segments.all]
    split = tuple(
        Regroup(names_before[then], tuple(names_after[n] for n in now)) for then, now in parts.items() if len(now) > 1
    )
    back = _origins(after, before)
    made: dict[int, list[int]] = {}
    for then, now in back.items():
        made.setdefault(now, []).append(then)
    joined = tuple(
        Regroup(names_after[now], tuple(names_before[t] for t in then)) for now, then in made.items() if len(then) > 1
    )
    transit = {s.name for x in (before, after) for s in x.site.segments.all if s.kind == "transit"}
    changes = [replace(c, folded=bool({c.source, c.target} & transit)) for c in changes]
    of = {kind: tuple(c for c in changes if c.kind == kind) for kind in ("opened", "closed", "changed")}
    return Consequences(of["opened"], of["closed"], of["changed"], split, joined)


def _origins(before: Sweep, after: Sweep) -> dict[int, int]:
    """Return segment now -> the segment before that shares most attachments with it, by name where none does."""
    home = {at: k for k, s in enumerate(before.site.segments.all) for at in _attachments(s)}
    by_name = before.site.segments.by_name
    out: dict[int, int] = {}
    for k, segment in enumerate(after.site.segments.all):
        votes = Counter(home[at] for at in _attachments(segment) if at in home)
        if votes:
            best = max(votes.values())
            tied = [then for then, count in votes.items() if count == best]
            out[k] = by_name[segment.name] if by_name.get(segment.name) in tied else min(tied)
        elif segment.name in by_name:
            out[k] = by_name[segment.name]
    return out


def _attachments(segment: Segment) -> set[tuple[str, str, int, bool]]:
    """Return what tells a segment again after an edit: its attachments by box, name and tag; what lies behind an outside apart."""
    return {(t.box, t.name, t.form, segment.kind == "outside") for t in segment.taps}


def _change(before: Sweep, after: Sweep, a: int, b: int, origin: dict[int, int]) -> Change | None:
    now = after.flows(a, b)
    then, known = _then(before, a, b, origin)
    names = after.site.segments.all[a].name, after.site.segments.all[b].name
    if not known:  # they were one segment: everything between them passed, and now only this does
        if _are_parts(a, b, origin):
            return Change(
                "closed",
                *names,
                [],
                [{"sources": names[0], "destinations": names[1], "services": "any, inside one segment"}],
            )
        then = FlowSet(())
    gained, lost = now.minus(then), then.minus(now)
    if not gained and not lost:
        return None
    kind = "opened" if not lost else "closed" if not gained else "changed"
    return Change(kind, *names, read_flows(after, a, b, gained), read_flows(after, a, b, lost))


def _then(before: Sweep, a: int, b: int, origin: dict[int, int]) -> tuple[FlowSet, bool]:
    pair = origin.get(a), origin.get(b)
    if None in pair or pair[0] == pair[1]:
        return FlowSet(()), False
    return before.flows(*pair), True  # type: ignore[arg-type]


def _are_parts(a: int, b: int, origin: dict[int, int]) -> bool:
    return a in origin and origin.get(a) == origin.get(b)


def _gone(before: Sweep, after: Sweep, origin: dict[int, int]) -> list[Change]:
    """Pairs of segments of which one is no more."""
    kept = set(origin.values())
    out = []
    for a, b in product(range(len(before.site.segments.all)), repeat=2):
        if a != b and not {a, b} <= kept:
            flows = before.flows(a, b)
            if flows:
                names = before.site.segments.all[a].name, before.site.segments.all[b].name
                out.append(Change("closed", *names, [], read_flows(before, a, b, flows)))
    return out
