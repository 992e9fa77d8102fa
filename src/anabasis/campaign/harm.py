"""What the rows of a campaign show: which parts and which kinds of mistakes matter."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from anabasis.campaign.judging import Row
from anabasis.faults import KINDS, OPENING


@dataclass
class Matters:
    """What comes of a part, or of a kind of mistake, in all the rows it is in."""

    design: str
    """Of a part; kinds of mistakes are told of all designs together."""
    name: str
    failure: bool
    """A part that fails; else a kind of mistake."""
    meaning: str
    """What the catalogue calls a kind of mistake; "" of a part."""
    alone: tuple[int, ...] = (0, 0, 0, 0)
    """The worst harm that it does by itself: broken open, broken closed, pairs lost for good, lost meanwhile."""
    cases: int = 0
    harmful: int = 0
    """In how many of its cases there is harm."""
    opens: int = 0
    """In how many something is broken open."""
    beyond: int = 0
    """In how many of two things at once there is more harm than either does alone."""


@dataclass(frozen=True)
class Harm:
    """All of it, what does the most harm alone first; what does none alone and some with others after it."""

    parts: list[Matters]
    mistakes: list[Matters]
    single_points: int
    """Parts that do lasting harm by themselves."""


def harm_of(rows: Iterable[Row]) -> Harm:
    """Count up what rows show. Cost: linear in the rows."""
    found: dict[tuple[str, str, bool], Matters] = {}
    alone: dict[tuple[str, str, bool], tuple[int, ...]] = {}
    pairs: list[Row] = []
    for row in rows:
        names = [(row.design, n, True) for n in row.failed]
        exact = [(row.design, n, False) for n in row.faults]
        if len(names) + len(exact) == 1:
            alone[(names + exact)[0]] = row.harm
        elif len(names) + len(exact) == 2:
            pairs.append(row)
        for key in dict.fromkeys((*names, *(("", _kind(n), False) for _, n, _ in exact))):
            held = found.setdefault(key, Matters(*key, "" if key[2] else (KINDS | OPENING)[key[1]].meaning))
            held.cases += 1
            held.harmful += any(row.harm)
            held.opens += bool(row.opened)
            if len(names) + len(exact) == 1:
                held.alone = max(held.alone, row.harm)
    for row in pairs:
        keys = [*((row.design, n, True) for n in row.failed), *((row.design, n, False) for n in row.faults)]
        each = [alone.get(k, (0, 0, 0, 0)) for k in keys]
        if all(row.harm > one for one in each) and row.harm > tuple(map(sum, zip(*each, strict=True))):
            for design, name, failure in keys:
                found[(design, name, True) if failure else ("", _kind(name), False)].beyond += 1
    ordered = sorted(found.values(), key=lambda m: (tuple(-n for n in m.alone), -m.beyond, -m.harmful, m.name))
    parts = [m for m in ordered if m.failure]
    return Harm(parts, [m for m in ordered if not m.failure], sum(any(m.alone[:3]) for m in parts))


def _kind(fault: str) -> str:
    return fault.partition("#")[0]
