"""What changed in reach between two states of a design: pairs opened, closed and changed, with the exact flows.

Segments are matched by their attachments. A **piece** is what a segment before and a segment now have in common: where one segment
fell into two there are two pieces, where two became one likewise. Pieces are compared pair by pair, so nothing that was cut off or
joined on is missed.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

import numpy as np

from anabasis.allpairs import Fingerprints, Sweep
from anabasis.classes import FlowSet, Mask
from anabasis.fabric import Segment
from anabasis.facts import ChangeKind
from anabasis.verdicts.verdicts import read_flows
from anabasis.wording import everything

SPELLED = 60
"""For how many pairs the flows are spelled out even where all were lost, or all are new: for the rest that says it exactly."""


@dataclass(frozen=True)
class Change:
    """One ordered pair whose flows changed."""

    kind: ChangeKind
    source: str
    target: str
    now: list[str] | None
    """The two segments as they are now called; None where they are one, or one is no more."""
    gained: list[dict[str, str]]
    lost: list[dict[str, str]]
    folded: bool
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
    broken: tuple[str, ...] = ()
    """Expectations that held and do not any more."""
    mended: tuple[str, ...] = ()
    """Expectations that hold now and did not."""
    cut_off: tuple[str, ...] = ()
    """Boxes that the operator reached before, and does not any more."""

    def __bool__(self) -> bool:
        """Tell whether anything changed."""
        return bool(
            self.opened
            or self.closed
            or self.changed
            or self.split
            or self.joined
            or self.broken
            or self.mended
            or self.cut_off
        )


Flow = dict[str, str]


@dataclass(frozen=True)
class _Piece:
    """What a segment before and a segment now have in common; None = there was, or is, no such segment."""

    then: int | None
    now: int | None
    name: str


def compare_reach(before: Sweep, after: Sweep, spelled: int = SPELLED) -> Consequences:
    """Compare two sweeps. `spelled`: for how many pairs flows are spelled out in any case. Cost: pieces squared; exact flows only where fingerprints differ."""
    pieces = _pieces(before, after)
    then, now = _fingerprints(before, [p.then for p in pieces]), _fingerprints(after, [p.now for p in pieces])
    was_one, are_one = _together([p.then for p in pieces]), _together([p.now for p in pieces])
    apart = (then != now) | (was_one != are_one)
    np.fill_diagonal(apart, False)
    spots = [(pieces[a], pieces[b]) for a, b in np.argwhere(apart)]
    found: list[Change] = []
    for p, q in spots:
        change = _change(before, after, p, q, len(found) < spelled)
        found += [change] if change is not None else []
    of = {kind: tuple(c for c in found if c.kind == kind) for kind in ("opened", "closed", "changed")}
    split = _regroups([(p.then, p.now) for p in pieces], before, after)
    joined = _regroups([(p.now, p.then) for p in pieces], after, before)
    return Consequences(of["opened"], of["closed"], of["changed"], split, joined)


def lost_pairs(before: Sweep, after: Sweep) -> list[tuple[str, str, bool]]:
    """Return (from, to, nothing passes any more) for every ordered pair that lost flows; transit segments aside."""
    pieces = _pieces(before, after)
    then, now = [p.then for p in pieces], [p.now for p in pieces]
    had, has = _fingerprints(before, then), _fingerprints(after, now)
    apart = (had != has) | (_together(then) != _together(now))
    np.fill_diagonal(apart, False)
    out: dict[tuple[str, str], bool] = {}
    for a, b in np.argwhere(apart):
        p, q = pieces[a], pieces[b]
        if (
            p.then is None
            or q.then is None
            or "transit" in {before.site.segments.all[k].kind for k in (p.then, q.then)}
        ):
            continue
        if p.now is not None and p.now == q.now:
            continue
        passes = bool(has[a, b])  # a pair without flows has no fingerprint
        if _met(before, after, p, q) if p.then == q.then else _lost(before, after, p, q, bool(had[a, b]), passes):
            names = before.site.segments.all[p.then].name, before.site.segments.all[q.then].name
            out[names] = out.get(names, True) and not passes
    return [(*names, whole) for names, whole in out.items()]


def _lost(before: Sweep, after: Sweep, p: _Piece, q: _Piece, passed: bool, passes: bool) -> bool:
    """Tell whether any flow between two pieces passed and does not any more."""
    if not passed or not passes or None in (p.then, q.then, p.now, q.now):
        return passed
    return bool(before.beyond((p.then, q.then), after, (p.now, q.now)))  # type: ignore[arg-type]


def _met(before: Sweep, after: Sweep, p: _Piece, q: _Piece) -> bool:
    """Tell whether frames passed between two pieces of what was one segment: isolated ports never met."""
    attachments = {(t.box, t.name, t.form): t for t in before.site.fabric.attachments}
    sides = [
        [
            attachments[k]
            for t in (after.site.segments.all[x.now].attachments if x.now is not None else ())
            if (k := (t.box, t.name, t.form)) in attachments
        ]
        for x in (p, q)
    ]
    return any(before.site.fabric.delivers(a, b) for a in sides[0] for b in sides[1])


def _attachments(segment: Segment) -> set[tuple[str, str, int, bool]]:
    """Return what tells a segment again after an edit: its attachments by box, name and tag; what lies behind an outside apart."""
    return {(t.box, t.name, t.form, segment.kind == "outside") for t in segment.attachments}


def _pieces(before: Sweep, after: Sweep) -> list[_Piece]:
    """Match segments by attachments, what is left by name; segments in which nothing stands are left out."""
    olds, news = before.site.segments.all, after.site.segments.all
    home = {at: k for k, s in enumerate(olds) for at in _attachments(s)}
    shared: list[tuple[int | None, int | None]] = []
    for now, segment in enumerate(news):
        shared += [(then, now) for then in sorted({home[at] for at in _attachments(segment) if at in home})]
    kept = {then for then, _ in shared}, {now for _, now in shared}
    lone = {s.name: k for k, s in enumerate(olds) if s.attachments and k not in kept[0]}
    shared += [(lone.pop(s.name, None), k) for k, s in enumerate(news) if s.attachments and k not in kept[1]]
    shared += [(then, None) for then in lone.values()]
    makers = Counter(now for _, now in shared)
    return [
        _Piece(
            then,
            now,
            news[now].name if now is not None and (makers[now] == 1 or then is None) else olds[then or 0].name,
        )
        for then, now in shared
    ]


def _change(before: Sweep, after: Sweep, p: _Piece, q: _Piece, spelled: bool) -> Change | None:
    """Return what changed between two pieces; where it is not to be spelled out and one side is empty, the whole of the other in words."""
    was_one, are_one = (p.then == q.then is not None), (p.now == q.now is not None)
    fingerprints = _fingerprint(before, p.then, q.then), _fingerprint(after, p.now, q.now)
    if was_one == are_one:
        if fingerprints[0] == fingerprints[1]:
            return None
        if not spelled and not was_one and 0 in fingerprints:
            return _whole(before, after, p, q, bool(fingerprints[1]))
    inside = [{"sources": p.name, "destinations": q.name, "services": "any, inside one segment"}]
    if was_one == are_one:
        gained, lost = _differences(before, after, None if was_one else p, q)
        more = read_flows(after, p.now or 0, q.now or 0, gained) if gained else []
        less = read_flows(before, p.then or 0, q.then or 0, lost) if lost else []
    else:
        more, less = (inside if are_one else []), (inside if was_one else [])
    if not more and not less:
        return None
    kind: ChangeKind = "opened" if not less else "closed" if not more else "changed"
    return _changed(before, after, p, q, kind, more, less)


def _differences(before: Sweep, after: Sweep, p: _Piece | None, q: _Piece) -> tuple[FlowSet, FlowSet]:
    """Return the flows gained and lost between two pieces; None for the first = both are of one segment, then and now."""
    then = None if p is None or p.then is None or q.then is None else (p.then, q.then)
    now = None if p is None or p.now is None or q.now is None else (p.now, q.now)
    if then and now:
        return after.beyond(now, before, then), before.beyond(then, after, now)
    return (after.flows(*now) if now else FlowSet(())), (before.flows(*then) if then else FlowSet(()))


def _whole(before: Sweep, after: Sweep, p: _Piece, q: _Piece, opened: bool) -> Change:
    flows = [{"sources": p.name, "destinations": q.name, "services": everything(opened)}]
    return _changed(
        before, after, p, q, "opened" if opened else "closed", flows if opened else [], [] if opened else flows
    )


def _changed(
    before: Sweep, after: Sweep, p: _Piece, q: _Piece, kind: ChangeKind, more: list[Flow], less: list[Flow]
) -> Change:
    news = after.site.segments.all
    one = p.now is None or q.now is None or p.now == q.now
    named = None if one else [news[p.now or 0].name, news[q.now or 0].name]
    folded = _is_transit(before, after, p) or _is_transit(before, after, q)
    return Change(kind, p.name, q.name, named, more, less, folded)


def _fingerprint(sweep: Sweep, a: int | None, b: int | None) -> int:
    """Return the print of the flows of a pair; zero where there are none."""
    return 0 if a is None or b is None else int(sweep.fingerprints[a, b])


def _fingerprints(sweep: Sweep, segments: list[int | None]) -> Fingerprints:
    """Return uint64[piece, piece]: the fingerprints of the flows between them; zero where one is none, or both are one segment."""
    if segments == list(range(len(sweep.fingerprints))):
        return sweep.fingerprints
    numbers = np.array([len(sweep.fingerprints) if k is None else k for k in segments], dtype=np.intp)
    return np.pad(sweep.fingerprints, ((0, 1), (0, 1)))[np.ix_(numbers, numbers)]


def _together(segments: list[int | None]) -> Mask:
    """Return bool[piece, piece]: the two are of one segment."""
    numbers = np.array([-1 if k is None else k for k in segments], dtype=np.intp)
    same: Mask = (numbers[:, None] == numbers) & (numbers >= 0)
    return same


def _is_transit(before: Sweep, after: Sweep, piece: _Piece) -> bool:
    if piece.now is not None:
        return after.site.segments.all[piece.now].kind == "transit"
    return piece.then is not None and before.site.segments.all[piece.then].kind == "transit"


def _regroups(links: list[tuple[int | None, int | None]], wholes: Sweep, parts: Sweep) -> tuple[Regroup, ...]:
    of: dict[int, list[int]] = {}
    for whole, part in links:
        if whole is not None and part is not None:
            of.setdefault(whole, []).append(part)
    names, others = wholes.site.segments.all, parts.site.segments.all
    return tuple(
        Regroup(names[w].name, tuple(others[p].name for p in sorted(ps))) for w, ps in of.items() if len(ps) > 1
    )
