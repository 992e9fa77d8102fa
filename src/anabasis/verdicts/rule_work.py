"""What each rule really does: what it decides after those above it, what would decide instead, and whether any route brings it traffic.

Exact over classes of addresses and services, between every two zones it speaks of.
"""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from anabasis.allpairs import Family, Sweep
from anabasis.classes import Mask, kinds
from anabasis.facts import Decides
from anabasis.memo import Memo, Same
from anabasis.policy import Policy, RuleLine
from anabasis.routing import look_up
from anabasis.site import number_to_address
from anabasis.verdicts.zone_members import zone_segments

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
    spares: set[str] = field(default_factory=set)
    """The names of later rules with the opposite action of which it takes a part: it makes an exception from them."""
    instead: set[str] = field(default_factory=set)
    """Who would decide the same without it: names of rules below, or `the default`."""

    @property
    def word(self) -> Decides:
        """Return `something`, `nothing` (all of it is taken above), `redundant` (the same without it) or `unmet`."""
        if not self.decides:
            return "nothing"
        if not self.needed:
            return "redundant"
        return "something" if self.met else "unmet"

    def joined(self, other: RuleWork) -> None:
        """Take in what the rule does elsewhere."""
        self.decides, self.needed, self.met = (
            self.decides or other.decides, self.needed or other.needed, self.met or other.met,
        )  # fmt: skip
        self.taken_by |= other.taken_by
        self.opposed_by |= other.opposed_by
        self.spares |= other.spares
        self.instead |= other.instead


def works_of(sweep: Sweep, memo: Memo, firewall: str) -> dict[str, RuleWork]:
    """Return what each rule of a firewall does, by pointer. Findings and the policy both tell it."""
    policy = sweep.site.policies.of[firewall]
    inputs = Same(policy, *sweep.planes.values()), firewall
    return memo.get("rules of a firewall", inputs, lambda: _rule_work(sweep, memo, policy))


def _rule_work(sweep: Sweep, memo: Memo, policy: Policy) -> dict[str, RuleWork]:
    """Return the work of every enabled rule of a firewall. Cost: zone pairs x their rules x classes of the two zones, those of edited rules only."""
    works = {r.pointer: RuleWork() for r in policy.rules}
    members = zone_segments(sweep.site, policy.device)
    classes = {(v, z): zone_classes(sweep, v, members[z]) for v in sweep.families for z in policy.zone_kinds}
    for a, kind in policy.zone_kinds.items():
        for b in (z for z, k in policy.zone_kinds.items() if k == kind):
            lines = policy.lines(a, b)
            for version in sweep.families if lines else ():
                ends = classes[version, a], classes[version, b]
                if len(ends[0]) and len(ends[1]):
                    crossing = _Crossing(sweep, policy, version, (a, b), ends, members)
                    for pointer, work in memo.get("rules at a crossing", crossing.inputs, crossing.works).items():
                        works[pointer].joined(work)
    for rule in policy.rules:
        works[rule.pointer].met = works[rule.pointer].met or _met_translated(sweep, policy, rule)
    return works


def _met_translated(sweep: Sweep, policy: Policy, rule: RuleLine) -> bool:
    """Tell whether a rule speaks of sources that another firewall on the way gives to what it hides."""
    site = sweep.site
    for name, other in site.policies.of.items():
        for entry in other.translations if name != policy.device else ():
            given = [entry.source.onto] if entry.source is not None else []
            if entry.by_interface:
                mine = (i for i in site.net.interfaces if i.device == name and entry.leaves(i.zone or ""))
                given += [(a.version, int(a.ip), int(a.ip)) for i in mine for a in i.addresses]
            for family, low, high in given:
                if any(f == family and a <= high and low <= b for f, a, b in rule.sources):
                    zone = _zone_towards(sweep, policy.device, family, low)
                    if zone is not None and rule.enters(zone):
                        return True
    return False


def _zone_towards(sweep: Sweep, device: str, family: int, number: int) -> str | None:
    for (owner, vrf), table in sweep.site.net.tables.items():
        route = look_up(table, number_to_address(family, number)).winner if owner == device else None
        egress = sweep.site.net.by_name.get((owner, route.interface or "")) if route is not None else None
        if egress is not None and egress.vrf == vrf:
            return egress.zone
    return None


def zone_classes(sweep: Sweep, version: int, segments: list[int]) -> Classes:
    """Return int[member]: the address classes of hosts of some segments."""
    family = sweep.families[version]
    own = [family.members[g] for k in segments for g in family.standing.get(k, [])]
    return np.unique(np.concatenate(own)) if own else np.zeros(0, dtype=np.intp)


@dataclass(frozen=True)
class _Crossing:
    """The rules between two zones of a firewall, for one family."""

    sweep: Sweep
    policy: Policy
    version: int
    zones: tuple[str, str]
    ends: tuple[Classes, Classes]
    """int[source], int[destination]: the classes of hosts of the two zones"""
    members: Members

    @property
    def inputs(self) -> Hashable:
        """Return all that the work of the rules depends on. How finely classes are cut makes no difference."""
        mine = tuple(tuple(self.members[z]) for z in self.zones)
        rules = Same(self.sweep.planes[self.version], *self.policy.lines(*self.zones))
        return self.policy.device, self.version, self.zones, self.policy.default(*self.zones), mine, rules

    def works(self) -> dict[str, RuleWork]:
        """Read the rules kind by kind: classes that none of them tells apart are one."""
        family = self.sweep.families[self.version]
        said = family.permits.speaking((self.policy.device, *self.zones), *self.ends)
        lines, works = said.rules, {r.pointer: RuleWork() for r in said.rules}
        if not lines:
            return works
        (from_kind, rows), (to_kind, columns) = kinds(said.sources), kinds(said.destinations)
        services = said.services[:, family.possible]
        speaking = [tuple(map(np.flatnonzero, spoken)) for spoken in zip(rows, columns, services, strict=True)]
        comes = self._comes_by((from_kind, to_kind))
        taken = np.full((rows.shape[1], columns.shape[1], services.shape[1]), -1, dtype=np.int32)
        fresh: list[tuple[Classes, ...]] = []
        for k, (rule, cell) in enumerate(zip(lines, speaking, strict=True)):
            work = works[rule.pointer]
            held = taken[np.ix_(*cell)]
            above = [lines[x] for x in _different(held) if x >= 0]
            work.taken_by |= {r.name for r in above}
            work.opposed_by |= {r.name for r in above if _lets(r) != _lets(rule)}
            own = tuple(along[n] for along, n in zip(cell, np.nonzero(held < 0), strict=True))
            fresh.append(own)
            work.decides |= bool(len(own[0]))
            work.met |= bool(comes[own[0], own[1]].any())
            taken[own] = k
        below = np.full(
            taken.shape, len(lines), dtype=np.int32
        )  # who decides after rule k: a later rule, or the default
        effects = [*map(_lets, lines), self.policy.default(*self.zones)[0] == "permit"]
        for k in reversed(range(len(lines))):
            work = works[lines[k].pointer]
            after = _different(below[fresh[k]])
            work.needed |= any(effects[x] != effects[k] for x in after)
            work.instead |= {lines[x].name if x < len(lines) else "the default" for x in after}
            work.spares |= {lines[x].name for x in after if x < len(lines) and effects[x] != effects[k]}
            below[np.ix_(*speaking[k])] = k
        return works

    def _comes_by(self, kind: tuple[Classes, Classes]) -> Mask:
        """Return bool[source kind, destination kind]: whether routes and frames bring such traffic here. Where a translation may touch it, they may."""
        policy, zones, ends, members = self.policy, self.zones, self.ends, self.members
        family = self.sweep.families[self.version]
        fecs = family.plane.fecs
        size = int(kind[0].max()) + 1, int(kind[1].max()) + 1
        comes = np.zeros(size, dtype=bool)
        for entry in policy.translations:  # what is published is met by whoever asks for it by another address
            if entry.destination is not None and entry.enters(zones[0]):
                onto = family.maps.addresses(entry.destination)[family.changed]
                comes[:, kind[1][np.isin(ends[1], onto)]] = True
        through = np.zeros(len(fecs.filter_sets) + 1, dtype=bool)  # the last stands for -1
        through[fecs.through.get((policy.device, *zones), np.zeros(0, dtype=np.intp))] = True
        mine, theirs = (np.flatnonzero(np.isin(fecs.segment, members[z])) for z in zones)
        has, takes = (_in_fecs(family, p, e, k, n) for p, e, k, n in zip((mine, theirs), ends, kind, size, strict=True))
        brought = through[fecs.sent[np.ix_(fecs.row[mine], theirs)]]
        with np.errstate(
            invalid="ignore"
        ):  # zeros and ones only; some BLAS raise the flag over padding they read and never use
            comes |= has.T @ brought.astype(np.float32) @ takes > 0
        wanted = family.plane_of[ends[1]]  # whatever its kind: a translation may touch what no fec has
        for row in np.unique(fecs.row[mine]):
            touched = kind[1][fecs.touched_row[row][wanted]]
            if len(touched):
                comes[np.ix_(np.flatnonzero(has[fecs.row[mine] == row].any(axis=0)), np.unique(touched))] = True
        return comes


def _different(numbers: npt.NDArray[np.int32]) -> list[int]:
    """Return the different numbers of an array, sorted; most arrays are so small that a set beats a sort."""
    found: list[int] = np.unique(numbers).tolist() if numbers.size > 500 else sorted(set(numbers.ravel().tolist()))
    return found


def _lets(rule: RuleLine) -> bool:
    return rule.action == "permit"


def _in_fecs(family: Family, fecs: Classes, ends: Classes, kind: Classes, count: int) -> npt.NDArray[np.float32]:
    """Return [fec, kind]: 1 where a forwarding class has a class of a kind."""
    out = np.zeros((len(fecs), count), dtype=np.float32)
    place = family.plane.fecs.place
    cells: dict[int, list[int]] = {}
    for k, p in enumerate(place[fecs]):
        cells.setdefault(int(p), []).append(k)
    for plane, one in zip(family.plane_of[ends].tolist(), kind.tolist(), strict=True):
        for k in cells.get(plane, ()):
            out[k, one] = 1
    return out
