"""The rules that decide a pair: those without any of which some of its flows would be decided otherwise."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anabasis.allpairs import Lines, Sweep, Zones
from anabasis.classes import Bits, packed
from anabasis.design.filters import is_stateless, named


@dataclass(frozen=True)
class Deciding:
    """One rule, or a default, that decides some flow of a pair."""

    device: str
    name: str
    """The rule's name; `the default` where no rule matches."""
    action: str
    pointer: str


def deciding_rules(sweep: Sweep, a: int, b: int) -> list[Deciding]:
    """Return the smallest list of rules that lets pass between two segments what all rules together do, firewall by firewall.

    None of the list can be left out. Empty where nothing leads from one to the other, or where a translation has a word in it.
    """
    found: dict[str, Deciding] = {}
    for family in sweep.families.values():
        fecs = family.plane.fecs
        numbers = np.unique(fecs.filter_set[np.ix_(fecs.in_segment(a), fecs.in_segment(b))])
        crossings = {c for n in numbers.tolist() if n >= 0 for c in fecs.filter_sets[n]}
        sides = [
            np.unique(
                np.concatenate([family.members[g] for g in family.standing.get(k, [])] or [np.zeros(0, dtype=np.intp)])
            )
            for k in (a, b)
        ]
        for crossing in sorted(crossings):
            for one in _deciding(sweep, crossing, family.permits.speaking(crossing, *sides)):
                found.setdefault(one.pointer, one)
    return list(found.values())


def _deciding(sweep: Sweep, crossing: Zones, lines: Lines) -> list[Deciding]:
    """Leave out one rule after another from below, as long as nothing is let pass otherwise."""
    kept = list(range(len(lines.permit)))
    wanted, _ = _passed(lines, kept)
    for k in reversed(range(len(lines.permit))):
        fewer = [x for x in kept if x != k]
        if np.array_equal(_passed(lines, fewer)[0], wanted):
            kept = fewer
    _, left = _passed(lines, kept)
    policy = sweep.site.policies.filtering[crossing[0]]
    out = [Deciding(policy.device, r.name, r.action, r.pointer) for r in (lines.rules[k] for k in kept)]
    if left.any():
        action, pointer = policy.default(crossing[1], crossing[2])
        name = "the default" if not is_stateless(crossing[0]) else f"what {named(crossing[0])} lacks"
        out.append(Deciding(policy.device, name, action, pointer))
    return out


def _passed(lines: Lines, kept: list[int]) -> tuple[Bits, Bits]:
    """Return what some of the rules let pass, and what none of them matches: uint64[source, destination, word]."""
    shape = (lines.sources.shape[1], lines.destinations.shape[1])
    full = packed(np.ones(lines.services.shape[1], dtype=bool))
    passed = np.zeros((*shape, len(full)), dtype=np.uint64)
    open_ = np.broadcast_to(full, passed.shape).copy()
    services = packed(lines.services)
    for k in kept:
        here = np.ix_(np.flatnonzero(lines.sources[k]), np.flatnonzero(lines.destinations[k]))
        if lines.permit[k]:
            passed[here] |= open_[here] & services[k]
        open_[here] &= ~services[k]
    return (passed | open_ if lines.default else passed), open_
