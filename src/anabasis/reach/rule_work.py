"""What each rule really does: what it decides after those above it, what would decide instead, and whether any route brings it traffic.

Exact over classes of addresses and services, between every two zones it speaks of.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from anabasis.policy import Policy, RuleLine
from anabasis.reach.paths import Paths, Zones
from anabasis.reach.spaces import Mask
from anabasis.reach.sweep import Sweep

Classes = npt.NDArray[np.intp]
Members = dict[str, list[int]]
"""zone -> the segments that stand in it"""


@dataclass
class RuleWork:
    """One rule, summed up over the zones it speaks of."""

    decides: bool = False
    """It takes some flow that no rule above it takes."""
    needed: bool = False
    """Without it something would be decided otherwise."""
    met: bool = False
    """Some of what it decides comes by, as the routes are."""
    taken_by: set[str] = field(default_factory=set)
    """The names of the rules above that take some of what it speaks of."""
    opposed_by: set[str] = field(default_factory=set)
    """Those of them with the opposite action."""
    instead: set[str] = field(default_factory=set)
    """Who would decide the same without it: names of rules below, or `the default`."""

    @property
    def word(self) -> str:
        """Return `something`, `nothing` (all of it is taken above), `redundant` (the same without it) or `unmet`."""
        if not self.decides:
            return "nothing"
        if not self.needed:
            return "redundant"
        return "something" if self.met else "unmet"


def rule_work(sweep: Sweep, policy: Policy, members: Members) -> dict[str, RuleWork]:
    """Return the work of every enabled rule of a firewall, by pointer. Cost: zone pairs x their rules x classes of the two zones."""
    works = {r.pointer: RuleWork() for r in policy.rules}
    for a, kind in policy.zone_kinds.items():
        for b in (z for z, k in policy.zone_kinds.items() if k == kind):
            lines = policy.lines(a, b)
            for version in sweep.families if lines else ():
                s, d = (zone_classes(sweep, version, members[z]) for z in (a, b))
                if len(s) and len(d):
                    _measure(sweep, policy, works, version, (a, b), (s, d), members)
    return works


def zone_classes(sweep: Sweep, version: int, segments: list[int]) -> Classes:
    """Return int[member]: the address classes of hosts of some segments."""
    family = sweep.families[version]
    own = [family.members[g] for k in segments for g in family.standing.get(k, [])]
    return np.unique(np.concatenate(own)) if own else np.zeros(0, dtype=np.intp)


def _measure(
    sweep: Sweep,
    policy: Policy,
    works: dict[str, RuleWork],
    version: int,
    zones: tuple[str, str],
    ends: tuple[Classes, Classes],
    members: Members,
) -> None:
    family = sweep.families[version]
    lines = policy.lines(*zones)
    speaking = [_speaks(sweep, version, rule, ends) for rule in lines]
    comes = _comes_by(sweep, policy, version, zones, ends, members)
    taken = np.full((len(ends[0]), len(ends[1]), int(family.possible.sum())), -1, dtype=np.int32)
    fresh: list[Mask] = []
    for k, (rule, speaks) in enumerate(zip(lines, speaking, strict=True)):
        work = works[rule.pointer]
        above = [lines[int(x)] for x in np.unique(taken[speaks]) if x >= 0]
        work.taken_by |= {r.name for r in above}
        work.opposed_by |= {r.name for r in above if _lets(r) != _lets(rule)}
        fresh.append(speaks & (taken < 0))
        work.decides |= bool(fresh[k].any())
        work.met |= bool((fresh[k] & comes[:, :, None]).any())
        taken[fresh[k]] = k
    below = np.full(taken.shape, len(lines), dtype=np.int32)  # who decides after rule k: a later rule, or the default
    effects = np.array([*map(_lets, lines), policy.default(*zones)[0] == "permit"])
    for k in reversed(range(len(lines))):
        work = works[lines[k].pointer]
        after = np.unique(below[fresh[k]])
        work.needed |= bool((effects[after] != effects[k]).any())
        work.instead |= {lines[int(x)].name if x < len(lines) else "the default" for x in after}
        below[speaking[k]] = k


def _lets(rule: RuleLine) -> bool:
    return rule.action == "permit"


def _speaks(sweep: Sweep, version: int, rule: RuleLine, ends: tuple[Classes, Classes]) -> Mask:
    """Return bool[source, destination, service_atom]: what a rule speaks of between two zones."""
    family = sweep.families[version]
    sources = family.classes.holds(family.spans_at[rule.sources])[ends[0]]
    destinations = family.classes.holds(family.spans_at[rule.destinations])[ends[1]]
    services = sweep.services.mask(rule.services)[family.possible]
    speaks: Mask = sources[:, None, None] & destinations[None, :, None] & services[None, None, :]
    return speaks


def _comes_by(
    sweep: Sweep, policy: Policy, version: int, zones: tuple[str, str], ends: tuple[Classes, Classes], members: Members
) -> Mask:
    """Return bool[source, destination]: whether routes and frames bring such traffic here. Where a translation may touch it, they may."""
    family = sweep.families[version]
    comes = np.zeros((len(ends[0]), len(ends[1])), dtype=bool)
    for entry in policy.translations:  # what is published is met by whoever asks for it by another address
        if entry.destination is not None and entry.enters(zones[0]):
            onto = family.words.addresses(entry.destination)[family.changed]
            comes[:, np.isin(ends[1], onto)] = True
    groups = [[g for k in members[z] for g in family.standing.get(k, [])] for z in zones]
    for g in groups[0]:
        rows = np.searchsorted(ends[0], family.members[g])
        touched = family.touched(g, ends[1])
        comes[np.ix_(rows, np.flatnonzero(touched))] = True
        for h in groups[1]:
            columns = np.searchsorted(ends[1], family.members[h])
            numbers = family.arriving(g, h, reply=False).whole
            by = {
                int(n)
                for n in np.unique(numbers)
                if n >= 0 and _crosses(family.ways.paths.of(int(n)), (policy.device, *zones))
            }
            here = np.isin(numbers, list(by)) if by else np.zeros(len(numbers), dtype=bool)
            comes[np.ix_(rows, columns[here])] = True
    return comes


def _crosses(paths: Paths, crossing: Zones) -> bool:
    return any(crossing in p.crossings for p in paths)
