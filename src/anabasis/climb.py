"""The climb: everything derived from one checked design, each step computed when it is first asked for.

The one value that the command line and the server hold; they compute nothing themselves.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Generic, TypeVar

from anabasis.allpairs import Sweep
from anabasis.design import Design, Patch, Tree, parse_design
from anabasis.design.edits import patched
from anabasis.design.notes import same_but_for_notes
from anabasis.errors import Problem, UnknownPlace, nearest
from anabasis.fabric import ALL_WELL, Conditions, conditions_of
from anabasis.failover import DrillSheet, Event, WhatIf, drill_sheet, elected, pairs_of
from anabasis.findings import STAGES, Finding, find_all, place_to_begin
from anabasis.memo import Memo
from anabasis.once import changed, once
from anabasis.probe import Managed, Plug, managed, plug
from anabasis.site import Site, find_place
from anabasis.trace import Walk, choose_ends, stopped_at, walk
from anabasis.tunnels import build_site
from anabasis.verdicts import (
    Consequences,
    Judged,
    Proposal,
    Question,
    Unasked,
    Verdicts,
    compare_reach,
    judge_all,
    judge_some,
    keep_as_it_is,
    one_service,
    propose,
    suggested,
    unasked,
)
from anabasis.views import FirewallPolicy, PairStand, pair_stands, policies

T = TypeVar("T")


@dataclass(frozen=True)
class _Last(Generic[T]):
    """What a layer was when it was last worked out."""

    design: Design
    value: T


@dataclass(frozen=True)
class Stage:
    """One stage of the climb."""

    name: str
    findings: int
    breaks: int


class Climb:
    """A design and all that follows from it under given conditions."""

    def __init__(self, design: Design, conditions: Conditions = ALL_WELL, memo: Memo | None = None) -> None:
        """`memo`: what is known of other states of the design; what is the same in this one is taken over from it."""
        self.design, self.conditions = design, conditions
        self.memo = memo if memo is not None else Memo()
        self._what_ifs: dict[frozenset[tuple[tuple[str, int], str]], WhatIf] = {}
        self._verdicts: dict[Question, Verdicts] = {}
        self._policies: dict[str, list[FirewallPolicy]] = {}
        self._alike: dict[int, tuple[Design, bool]] = {}

    def edited(self, design: Design) -> Climb:
        """Return another state of the design under the same conditions."""
        return Climb(design, self.conditions, self.memo)

    def _layer(self, layer: object, same: Callable[[T], T], anew: Callable[[T | None], T]) -> T:
        """Return a layer: `same` of what it was last, where the design differs in notes alone since; else worked out anew.

        `anew` may look at what the layer was in the last state that was looked at, whichever that was.
        """
        key = layer, self.conditions
        last: _Last[T] | None = self.memo.last(key)
        if last is not None and self._noted_alone(last.design):
            value = same(last.value)
        else:
            value = anew(last.value if last is not None else None)
        self.memo.put(key, None, _Last(self.design, value))
        return value

    def _noted_alone(self, other: Design) -> bool:
        """Tell whether another state of the design differs in notes alone."""
        if id(other) not in self._alike:
            self._alike[id(other)] = other, same_but_for_notes(self.design, other)
        return self._alike[id(other)][1]

    @once
    def site(self) -> Site:
        """Return layers 1 to 3 and the policies."""
        self.memo.begin()

        def anew(last: Site | None) -> Site:
            return build_site(self.design, elected(self.design, self.conditions, last), last)

        def same(last: Site) -> Site:
            return last.described_by(self.design)

        return self._layer("site", same, anew)

    @once
    def sweep(self) -> Sweep:
        """Return the exact flows of all pairs."""
        site = self.site
        return self._layer("sweep", lambda last: changed(last, site=site), lambda last: Sweep(site, base=last))

    def verdicts(self, question: Question | None = None) -> Verdicts:
        """Return the verdicts for a question, kept for the next time it is asked."""
        asked, sweep = question or Question(), self.sweep
        if asked not in self._verdicts:
            self._verdicts[asked] = self._layer(
                asked, lambda last: changed(last, sweep=sweep), lambda _: Verdicts(sweep, asked, self.memo)
            )
        return self._verdicts[asked]

    def policies(self, look: str = "") -> list[FirewallPolicy]:
        """Return the policies as a person reads them, rules marked by what is looked for; kept for the next time it is asked."""
        if look not in self._policies:
            self._policies = {look: policies(self.sweep, self.memo, look)}
        return self._policies[look]

    def plug(self, place: str, tag: int | None = None) -> Plug:
        """Plug a laptop into `device:port`. Raises UnknownPlace where there is no such port."""
        return plug(self.site, place, tag)

    def failover(self, failed: Iterable[str], active: Iterable[str] = ()) -> Event:
        """Say what happens when some parts fail; `active`: units that are active now. Raises UnknownPlace where a name is none."""
        now: dict[tuple[str, int], str] = {}
        for name in active:
            owner = next((p for p in pairs_of(self.design) if name in {u.name for u in p.units}), None)
            if owner is None:
                units = [u.name for p in pairs_of(self.design) for u in p.units]
                raise UnknownPlace(
                    [
                        Problem(
                            "/active",
                            "there is no unit of this name",
                            repr(name),
                            ", ".join(units),
                            nearest(name, units),
                        )
                    ]
                )
            now |= {(owner.name, g): name for g in (1, 2)}
        key = frozenset(now.items())
        if key not in self._what_ifs:
            self._what_ifs[key] = WhatIf(self.design, now, self._well, self.memo)
        return self._what_ifs[key].event(conditions_of(self.design, failed))

    @property
    def _well(self) -> Sweep | None:
        """Return the flows with nothing failed."""
        return self.sweep if not self.conditions.failed else None

    @property
    def pairs(self) -> list[PairStand]:
        """Return the two units of every pair side by side."""
        return pair_stands(self.design)

    def drill(self, pair: str) -> DrillSheet:
        """Return the steps of a failover drill. Raises UnknownPlace where there is no such pair."""
        names = [p.name for p in pairs_of(self.design)]
        if pair not in names:
            raise UnknownPlace(
                [Problem("", "there is no pair of this name", repr(pair), ", ".join(names), nearest(pair, names))]
            )
        return drill_sheet(self.design, pair, self._well, self.memo)

    def walk(self, source: str, target: str, service: str) -> Walk:
        """Send one packet between two places in words, and its reply. Raises UnknownPlace where a word names nothing."""
        ends = find_place(self.site, source), find_place(self.site, target)
        for end in ends:
            if end.cause is not None and not end.places:
                return stopped_at(end.cause, end.text)
        shared = ends[0].families & ends[1].families
        concrete = one_service(self.site, service, shared)
        return walk(self.site, *choose_ends(*ends, concrete), concrete)

    def segment(self, name: str) -> int:
        """Return the index of a segment. Raises UnknownPlace with the nearest name."""
        known = self.site.segments.by_name
        if name not in known:
            allowed = ", ".join(list(known)[:14])
            raise UnknownPlace(
                [Problem("", "there is no segment of this name", repr(name), allowed, nearest(name, list(known)))]
            )
        return known[name]

    def consequences_since(self, before: Climb) -> Consequences:
        """Return what changed in reach since another state of the design."""
        held, holds = ({j.name: j.holds for j in c.expectations} for c in (before, self))
        broken = tuple(n for n, now in holds.items() if not now and held.get(n, True))
        mended = tuple(n for n, now in holds.items() if now and not held.get(n, True))
        same = self._noted_alone(before.design) and self.conditions == before.conditions
        moved = Consequences((), (), (), (), ()) if same else compare_reach(before.sweep, self.sweep)
        lost = (
            ()
            if same
            else tuple(sorted((before.managed.reached - self.managed.reached) & {d.name for d in self.design.devices}))
        )
        return replace(moved, broken=broken, mended=mended, cut_off=lost)

    @once
    def managed(self) -> Managed:
        """Return which boxes the operator reaches."""
        return self._layer("managed", lambda last: last, lambda _: managed(self.site))

    @once
    def expectations(self) -> list[Judged]:
        """Return every expectation, and whether it holds."""
        return judge_all(self.verdicts())

    def judged(self, names: Collection[str]) -> list[Judged]:
        """Return some of the expectations by name, and whether they hold: only their own pairs are worked out."""
        return judge_some(self.verdicts(), names)

    def findings_since(self, before: Climb) -> tuple[list[Finding], list[Finding]]:
        """Return (come, gone): the findings this state has and the other had not, and the other way round."""
        old, new = ({f.what: f for f in c.findings} for c in (before, self))
        return [f for k, f in new.items() if k not in old], [f for k, f in old.items() if k not in new]

    def keep_as_it_is(self, source: str, target: str) -> list[dict[str, object]]:
        """Return expectations that say what holds between two segments now. Raises UnknownPlace where a name is none."""
        return list(keep_as_it_is(self.verdicts(), self.segment(source), self.segment(target)))

    def propose(self, source: str, target: str, service: str, expect: str) -> list[Proposal]:
        """Return edits of rules after which one segment may (`open`), or may not (`closed`), reach another. Raises UnknownPlace."""
        return propose(self.verdicts(), self.segment(source), self.segment(target), service, expect)

    @once
    def suggestions(self) -> list[dict[str, object]]:
        """Return expectations that purposes let one expect, and that hold now."""
        return list(suggested(self.verdicts()))

    @once
    def unasked(self) -> Unasked:
        """Return what passes though nothing asks for it, and what ways out leave out."""
        return self._layer("unasked", lambda last: last, lambda _: unasked(self.verdicts()))

    @property
    def stages(self) -> list[Stage]:
        """Return the stages of the climb with the number of findings that start at each."""
        of = {s: [f for f in self.findings if f.kind.stage == s] for s in STAGES}
        return [Stage(s, len(of[s]), sum(f.kind.severity == "breaks" for f in of[s])) for s in STAGES]

    @property
    def begin_at(self) -> str | None:
        """Return the lowest stage with a finding that breaks something: the place to begin."""
        return place_to_begin(self.findings)

    @once
    def findings(self) -> list[Finding]:
        """Return what to mend."""
        return self._layer("findings", lambda last: last, lambda _: find_all(self.verdicts()))


def breaking_edit(tree: Tree, edits: Sequence[tuple[int, Patch]], name: str) -> int | None:
    """Return the version of the edit that broke an expectation, or None where it never held as far back as `edits` goes.

    `edits`: (version, inverse) of each edit, the newest first. Cost: one climb an edit.
    """
    for version, back in edits:
        tree = patched(tree, back)
        judged = [e for e in Climb(parse_design(tree)).expectations if e.name == name]
        if not judged:
            return None
        if judged[0].holds:
            return version
    return None
