"""What each rule really does: what it decides after those above it, what would decide instead, and whether any route brings it traffic.

Exact over classes of addresses and services, between every two zones it speaks of.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from hashlib import blake2b

import numpy as np
import numpy.typing as npt

from anabasis.allpairs import Family, Sweep
from anabasis.classes import Mask, kinds
from anabasis.facts import Decides
from anabasis.memo import Memo, Same
from anabasis.once import once
from anabasis.policy import Policy, RuleLine, Span
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
    """Return the work of every enabled rule of a firewall, where it is known by other planes that bring the same traffic here."""
    given, members = tuple(_given_elsewhere(sweep, policy)), zone_segments(sweep.site, policy.device)
    sides = {
        (v, z): _Side.of(sweep, v, zone_classes(sweep, v, members[z]), members[z])
        for v in sweep.families
        for z in policy.zone_kinds
    }
    traffic = tuple(_traffic_at(sweep, v, policy.device) for v in sweep.families)
    ends = tuple(side.digest for side in sides.values())
    inputs = Same(policy, *(f.classes for f in sweep.families.values())), given, traffic, ends
    return memo.get(
        "a firewall and its traffic", inputs, lambda: _worked_out(sweep, memo, policy, given, members, sides)
    )


def _worked_out(
    sweep: Sweep,
    memo: Memo,
    policy: Policy,
    given: Sequence[tuple[str, Span]],
    members: Members,
    sides: dict[tuple[int, str], _Side],
) -> dict[str, RuleWork]:
    """Return the work of every enabled rule. Cost: zone pairs x their rules x classes of the two zones, those of edited rules only."""
    works = {r.pointer: RuleWork() for r in policy.rules}
    for a, kind in policy.zone_kinds.items():
        for b in (z for z, k in policy.zone_kinds.items() if k == kind):
            lines = policy.lines(a, b)
            for version in sweep.families if lines else ():
                ends = sides[version, a], sides[version, b]
                if len(ends[0].classes) and len(ends[1].classes):
                    crossing = _Crossing(sweep, policy, version, (a, b), ends, members)
                    for pointer, work in crossing.remembered(memo).items():
                        works[pointer].joined(work)
    for rule in policy.rules if given else ():
        spoken = [zone for zone, span in given if _overlaps(rule.sources, span)]
        works[rule.pointer].met = works[rule.pointer].met or any(map(rule.enters, spoken))
    return works


def _traffic_at(sweep: Sweep, version: int, device: str) -> bytes:
    """Return a digest of what forwarding brings to a firewall: from every forwarding class to every other, over which of its crossings."""
    family = sweep.families[version]
    fecs = family.plane.fecs
    parts = [tuple(c for c in f if c[0] == device) for f in fecs.filter_sets]
    number = {part: k for k, part in enumerate(sorted(set(parts)))}
    at = np.array([*(number[part] for part in parts), -1], dtype=np.int32)  # the last stands for -1
    told = (at[fecs.sent], fecs.row, fecs.place, fecs.touched_row, family.plane.changed)
    return _digest(repr(list(number)), *told)


def _digest(words: str, *arrays: npt.NDArray[np.generic]) -> bytes:
    digest = blake2b(words.encode(), digest_size=16)
    for one in arrays:
        digest.update(repr(one.shape).encode() + np.ascontiguousarray(one).tobytes())
    return digest.digest()


def _given_elsewhere(sweep: Sweep, policy: Policy) -> list[tuple[str, Span]]:
    """Return the sources that other firewalls give to what they hide, each with the zone in which it comes to this one."""
    site, given = sweep.site, list[Span]()
    for name, other in site.policies.of.items():
        for entry in other.translations if name != policy.device else ():
            given += [entry.source.onto] if entry.source is not None else []
            if entry.by_interface:
                mine = (i for i in site.net.of_device[name] if entry.leaves(i.zone or ""))
                given += [(a.version, int(a.ip), int(a.ip)) for i in mine for a in i.addresses]
    towards = ((_zone_towards(sweep, policy.device, span[0], span[1]), span) for span in dict.fromkeys(given))
    return [(zone, span) for zone, span in towards if zone is not None]


def _overlaps(spans: frozenset[Span], one: Span) -> bool:
    return any(f == one[0] and a <= one[2] and one[1] <= b for f, a, b in spans)


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
class _Side:
    """The hosts of one zone of a firewall, in one family."""

    classes: Classes
    """int[n]: their address classes"""
    fecs: Classes
    """int[m]: their forwarding classes"""
    rows: Classes
    """int[m]: the rows by which those send"""
    digest: bytes
    """Stands for all of it, and for which of its rows a translation might touch on the way to what."""

    @classmethod
    def of(cls, sweep: Sweep, version: int, classes: Classes, segments: list[int]) -> _Side:
        """Return the side of some segments."""
        fecs = sweep.families[version].plane.fecs
        mine = np.flatnonzero(np.isin(fecs.segment, segments))
        rows, senders = np.unique(fecs.row[mine], return_inverse=True)
        told = classes, fecs.place[mine], senders, fecs.touched_row[rows]
        return cls(classes, mine, fecs.row[mine], _digest("", *told))


@dataclass(frozen=True)
class _Crossing:
    """The rules between two zones of a firewall, for one family."""

    sweep: Sweep
    policy: Policy
    version: int
    zones: tuple[str, str]
    ends: tuple[_Side, _Side]
    members: Members

    def remembered(self, memo: Memo) -> dict[str, RuleWork]:
        """Return `works`, where they are known by the same forwarding plane, or by one that brings the same traffic here over the same classes.

        By the same plane how finely classes are cut makes no difference.
        """
        policy, zones = self.policy, self.zones
        rules = policy.lines(*zones)
        place = policy.device, self.version, zones, policy.default(*zones)
        mine = tuple(tuple(self.members[z]) for z in zones)
        by_plane = *place, mine, Same(self.sweep.planes[self.version], *rules)
        known: dict[str, RuleWork] | None = memo.find("rules at a crossing", by_plane)
        if known is None:
            by_traffic = (
                *place,
                policy.translations,
                self._traffic,
                Same(self.sweep.families[self.version].classes, *rules),
            )
            known = memo.get("rules and their traffic", by_traffic, self.works)
            memo.put("rules at a crossing", by_plane, known)
        return known

    @property
    def _traffic(self) -> bytes:
        """Return a digest of all that `_comes_by` reads, but for rules, translations and classes."""
        sides = self.ends[0].digest + self.ends[1].digest
        return sides + _digest("", self._brought, self.sweep.families[self.version].plane.changed)

    @once
    def _brought(self) -> Mask:
        """Return bool[fec, fec]: forwarding brings packets from the one zone to the other here."""
        fecs, (mine, theirs) = self.sweep.families[self.version].plane.fecs, self.ends
        through = np.zeros(len(fecs.filter_sets) + 1, dtype=bool)  # the last stands for -1
        through[fecs.through.get((self.policy.device, *self.zones), np.zeros(0, dtype=np.intp))] = True
        return through[fecs.sent[np.ix_(mine.rows, theirs.fecs)]]

    def works(self) -> dict[str, RuleWork]:
        """Read the rules kind by kind: classes that none of them tells apart are one."""
        family = self.sweep.families[self.version]
        said = family.permits.speaking((self.policy.device, *self.zones), *(e.classes for e in self.ends))
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
        policy, zones, (mine, theirs) = self.policy, self.zones, self.ends
        family = self.sweep.families[self.version]
        fecs = family.plane.fecs
        size = int(kind[0].max()) + 1, int(kind[1].max()) + 1
        comes = np.zeros(size, dtype=bool)
        for entry in policy.translations:  # what is published is met by whoever asks for it by another address
            if entry.destination is not None and entry.enters(zones[0]):
                onto = family.maps.addresses(entry.destination)[family.changed]
                comes[:, kind[1][np.isin(theirs.classes, onto)]] = True
        has, takes = (_in_fecs(family, e.fecs, e.classes, k, n) for e, k, n in zip(self.ends, kind, size, strict=True))
        with np.errstate(
            invalid="ignore"
        ):  # zeros and ones only; some BLAS raise the flag over padding they read and never use
            comes |= has.T @ self._brought.astype(np.float32) @ takes > 0
        wanted = family.plane_of[theirs.classes]  # whatever its kind: a translation may touch what no fec has
        for row in np.unique(mine.rows):
            touched = kind[1][fecs.touched_row[row][wanted]]
            if len(touched):
                comes[np.ix_(np.flatnonzero(has[mine.rows == row].any(axis=0)), np.unique(touched))] = True
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
    place = family.plane.fecs.place[fecs]
    order = np.argsort(place, kind="stable")
    planes = family.plane_of[ends]
    low, high = (np.searchsorted(place[order], planes, side=side) for side in ("left", "right"))
    sizes = high - low
    within = np.arange(sizes.sum()) - np.repeat(np.cumsum(sizes) - sizes, sizes)
    out[order[np.repeat(low, sizes) + within], np.repeat(kind, sizes)] = 1
    return out
