"""What must be open and what must stay closed, judged against the exact flows (docs/semantics.md, "The climb")."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator
from dataclasses import asdict, dataclass, replace

import numpy as np

from anabasis.allpairs import PairSpace, Sweep, Zones, published
from anabasis.classes import Mask, Numbers
from anabasis.design import Expectation
from anabasis.design.notation import Address, looks_like_address, parse_address, pointer
from anabasis.errors import UnknownPlace, nearest
from anabasis.facts import Cause, Flow, Ground, Judgement, Passes, stage_of
from anabasis.memo import Same
from anabasis.policy import Service, ServiceSpan
from anabasis.routing import Intervals, intersect, merge
from anabasis.site import Site, find_place, host_place, own_place
from anabasis.trace import Walk, choose_ends, service_text, walk
from anabasis.verdicts.questions import one_service
from anabasis.verdicts.rules_met import RulesMet, rules_met
from anabasis.verdicts.verdicts import Verdicts
from anabasis.wording import shown_by

Side = list[tuple[int, dict[int, Intervals] | None, bool]]
"""Segments, each with the addresses that count, by family (None = all of them), and whether its own hosts have any of those."""


@dataclass(frozen=True)
class Judged:
    """One expectation, and whether it holds."""

    name: str
    pointer: str
    source: str
    target: str
    services: list[str]
    expect: str
    through: str | None
    holds: bool
    verdict: Judgement
    ground: Ground
    """What shows it."""
    decided_by: list[str]
    note: str | None
    cause: Cause | None = None
    """What stops the flow that shows it, where one has to pass and does not."""

    @property
    def opened(self) -> bool:
        """Tell whether something passes that must not: of `only`, something beside what is named."""
        return (
            not self.holds
            and self.verdict != "unknown"
            and (self.expect == "closed" or (self.expect == "only" and self.cause is None))
        )

    @property
    def reason(self) -> str:
        """Return what shows it, for a person."""
        return shown_by(self.ground)

    def as_dict(self) -> dict[str, object]:
        """Return it for JSON (command-line promise, `expect`)."""
        out = asdict(self)
        del out["cause"], out["ground"]
        return out | {"from": out.pop("source"), "to": out.pop("target"), "reason": self.reason}


@dataclass(frozen=True)
class _Cell:
    """One flow that decides: between which segments, of which classes, on which service."""

    a: int
    b: int
    space: PairSpace
    source: int
    destination: int
    service: Service


NOBODY = Ground("nobody-stands-there")
Head = tuple[str, str, str, str, list[str], str, str | None]
"""What is judged: name, pointer, ends, services, what is expected, through."""


def judge_all(verdicts: Verdicts) -> list[Judged]:
    """Return every expectation of the design, in order. One whose flows are what they were, and whose packets met the same rules, is not judged again."""
    wanted = verdicts.sweep.site.design.expectations
    return [_remembered(verdicts, e, pointer("expectations", i)) for i, e in enumerate(wanted)]


def judge_some(verdicts: Verdicts, names: Collection[str]) -> list[Judged]:
    """Return those of the expectations that bear one of the names, in order; nothing is remembered for other states."""
    wanted = enumerate(verdicts.sweep.site.design.expectations)
    return [judge(verdicts, e, pointer("expectations", i), []) for i, e in wanted if e.name in names]


@dataclass(frozen=True)
class _Kept:
    """A judgement with what it was read from, the forwarding planes and the words of rules aside."""

    judged: Judged
    fingerprints: bytes
    met: dict[Zones, RulesMet]


def _remembered(verdicts: Verdicts, wanted: Expectation, at: str) -> Judged:
    site = verdicts.sweep.site
    if not verdicts.sweep.made:
        return judge(verdicts, wanted, at, [])
    inputs = Same(wanted, site.policies.terms), verdicts.ground, at
    ends = [[k for k, _, _ in side_of(site, text)] for text in (wanted.from_, wanted.to)]
    prints = verdicts.sweep.fingerprints[np.ix_(*ends)].tobytes() if all(ends) else b""
    known: _Kept | None = verdicts.memo.find("expectation", inputs)
    if known is not None and known.fingerprints == prints and verdicts.as_met(known.met):
        return known.judged
    walks: list[Walk] = []
    judged = judge(verdicts, wanted, at, walks)
    met = [rules_met(site.policies, w) for w in walks]
    if None not in met:
        every = {crossing: rules for one in met for crossing, rules in (one or {}).items()}
        verdicts.memo.put("expectation", inputs, _Kept(judged, prints, every))
    return judged


def judge(verdicts: Verdicts, wanted: Expectation, at: str, walks: list[Walk]) -> Judged:
    """Judge one expectation: `open` = every flow passes, `closed` = none does, `through` = none passes by another way.

    `walks`: to which the packets are added that it was told by.
    """
    sweep = verdicts.sweep
    head = (wanted.name, at, wanted.from_, wanted.to, list(wanted.services), wanted.expect, wanted.through)
    ends = [side_of(sweep.site, text) for text in (wanted.from_, wanted.to)]
    if ends[0] and not ends[1] and _own(sweep.site, wanted.to) is not None:
        return _to_box(verdicts, wanted, head, ends[0], walks)
    for text, side in zip((wanted.from_, wanted.to), ends, strict=True):
        if not side:
            known = list(sweep.site.segments.by_name)
            ground = Ground("names-nothing", name=text, nearest=nearest(text, known))
            return Judged(*head, False, "unknown", ground, [at], wanted.note)
    if wanted.expect == "only":
        return _only(verdicts, wanted, at, head, walks)
    services = sweep.site.policies.terms.services(wanted.services)
    verdict, passing, stopped, together = _measure(verdicts, ends[0], ends[1], sweep.services.mask(services), services)
    holds, ground, decided_by, *why = _conclude(verdicts, wanted, passing, stopped, together, walks)
    return Judged(*head, holds, verdict, ground, decided_by or [at], wanted.note, *why)


def _only(verdicts: Verdicts, wanted: Expectation, at: str, head: Head, walks: list[Walk]) -> Judged:
    """Judge `only`: the services named are open, and every other one is closed."""
    whole = judge(verdicts, wanted.model_copy(update={"expect": "open"}), at, walks)
    if not whole.holds:
        return replace(whole, expect="only")
    sweep = verdicts.sweep
    ends = [side_of(sweep.site, text) for text in (wanted.from_, wanted.to)]
    others = ~sweep.services.mask(sweep.site.policies.terms.services(wanted.services))
    _, passing, _, _ = _measure(verdicts, ends[0], ends[1], others, None)
    if passing is None:
        return Judged(*head, True, whole.verdict, Ground("only-that-passes"), [at], wanted.note)
    went = _walk(verdicts, passing, walks)
    ground = Ground("passes-as-well", _flow(verdicts, passing))
    return Judged(*head, False, "some", ground, _opened_by(went) or [at], wanted.note)


def _opened_by(went: Walk) -> list[str]:
    """Return what lets a packet through that should be stopped: the rules and defaults, else the routes and frames it took."""
    routes = [s.pointer for s in went.steps if stage_of(s) in ("route", "frame") and s.pointer]
    return list(went.decided_by) or routes[-1:]


def _own(site: Site, text: str) -> Address | None:
    """Return the box's own address that a text is, if it is one."""
    if not looks_like_address(text) or "/" in text or "-" in text:
        return None
    address = parse_address(text)
    return address if address in site.net.owned else None


def _to_box(verdicts: Verdicts, wanted: Expectation, head: Head, sources: Side, walks: list[Walk]) -> Judged:
    """Judge what a box itself answers: a packet of each service from a host of each of the sources' subnets."""
    site = verdicts.sweep.site
    address = _own(site, wanted.to)
    assert address is not None
    target = next((own_place(site, i, address) for i in site.net.holders(address)), None)
    groups = [g for k, _, _ in sources for g in site.net.groups_of[k] if g.subnet.version == address.version]
    tried: list[tuple[Flow, Walk]] = []
    for group in groups if target is not None else ():
        place = host_place(site, group)
        for service in wanted.services if place is not None else ():
            concrete = one_service(site, service, {address.version})
            flow = Flow(str(place.address) if place else "", str(address), service_text(concrete))
            tried.append((flow, walk(site, place, target, concrete)))  # type: ignore[arg-type]
    walks += [went for _, went in tried]
    answered = [t for t in tried if t[1].cause is None]
    stopped = [t for t in tried if t[1].cause is not None]
    verdict: Passes = "none" if not answered else "some" if stopped else "all"
    if wanted.expect == "closed":
        if answered:
            ground = Ground("answered", answered[0][0])
            return Judged(*head, False, verdict, ground, _opened_by(answered[0][1]), wanted.note)
        ground = Ground("nothing-answered", became=stopped[0][1].became) if stopped else NOBODY
        return Judged(*head, True, verdict, ground, list(stopped[0][1].decided_by) if stopped else [], wanted.note)
    if stopped or not answered:
        went = stopped[0][1] if stopped else None
        ground = Ground("not-answered", stopped[0][0], went.became) if went else NOBODY
        cause = went.cause if went else None
        return Judged(*head, False, verdict, ground, list(went.decided_by) if went else [], wanted.note, cause)
    lets = _opened_by(answered[0][1])
    return Judged(*head, True, verdict, Ground("everything-answered"), lets, wanted.note)


def side_of(site: Site, text: str) -> Side:
    """Return what a text names: a segment or outside, a VLAN in its parts, a zone, or addresses; empty where it names nothing."""
    if text in site.segments.by_name:
        return [(site.segments.by_name[text], None, True)]
    islands = {v.id for v in site.design.vlans if v.name == text}
    if islands:  # a VLAN that has fallen apart is all of its parts
        return [(k, None, True) for k, s in enumerate(site.segments.all) if islands & set(s.vlan_ids)]
    if any(text in p.zone_kinds for p in site.policies.of.values()):
        return [
            (k, None, True)
            for k, s in enumerate(site.segments.all)
            if s.kind != "transit" and any(text in at[k] for at in site.zones_at.values())
        ]
    if not looks_like_address(text) and text not in {s.name for s in site.design.addresses} and text != "any":
        return []
    spans = site.policies.terms.addresses([text])
    wanted = {v: merge((low, high) for f, low, high in spans if f == v) for v in (4, 6)}
    translated = any(intersect(published(site, v), wanted[v]) for v in (4, 6) if text != "any")
    out: Side = []
    for k, segment in enumerate(site.segments.all):
        groups = site.net.groups_of[k] if segment.kind != "transit" else []
        own = any(intersect(site.net.host_spans(g), wanted[g.subnet.version]) for g in groups)
        if translated or own:
            out.append((k, wanted, own))
    return out


def _measure(
    verdicts: Verdicts, sources: Side, targets: Side, asked: Mask, among: frozenset[ServiceSpan] | None
) -> tuple[Passes, _Cell | None, _Cell | None, str | None]:
    """Return (verdict, one flow that passes, one that is stopped, a segment both ends share)."""
    sweep = verdicts.sweep
    passing: _Cell | None = None
    stopped: _Cell | None = None
    together: str | None = None
    for a, mine, own in sources:
        for b, theirs, owned in targets:
            if a == b:
                together = sweep.site.segments.all[a].name if own and owned else together
                continue
            for space in sweep.pair(a, b):
                atoms = np.flatnonzero(asked & space.possible)
                counts = np.zeros(space.allowed.shape[:2], dtype=bool)
                counts[
                    np.ix_(
                        _chosen(sweep, space, space.sources, mine), _chosen(sweep, space, space.destinations, theirs)
                    )
                ] = True
                allowed = space.allowed[:, :, atoms]
                passes = allowed & counts[:, :, None]
                if passing is None and passes.any():
                    passing = _told_by(verdicts, a, b, space, atoms, passes, among)
                missing = ~allowed & (counts & space.real)[:, :, None]
                if stopped is None and missing.any():
                    stopped = _told_by(verdicts, a, b, space, atoms, missing, among)
    if passing is None and not together:
        return "none", None, stopped, None
    return ("some" if stopped else "all"), passing, stopped, together


def _told_by(
    verdicts: Verdicts,
    a: int,
    b: int,
    space: PairSpace,
    atoms: Numbers,
    wanted: Mask,
    among: frozenset[ServiceSpan] | None,
) -> _Cell:
    s, d, v = verdicts.telling_flow(a, b, space, atoms, wanted, among)
    return _Cell(a, b, space, s, d, verdicts.service(int(atoms[v]), among))


def _chosen(sweep: Sweep, space: PairSpace, classes: np.ndarray[tuple[int], np.dtype[np.intp]], wanted: dict[int, Intervals] | None) -> np.ndarray[tuple[int], np.dtype[np.intp]]:  # fmt: skip
    """Return the indexes of the classes that lie in the addresses that count."""
    if wanted is None:
        return np.arange(len(classes))
    intervals = sweep.families[space.family].classes.intervals
    inside: Mask = np.array([bool(intersect(intervals[int(k)], wanted[space.family])) for k in classes], dtype=bool)
    return np.flatnonzero(inside)


def _conclude(
    verdicts: Verdicts,
    wanted: Expectation,
    passing: _Cell | None,
    stopped: _Cell | None,
    together: str | None,
    walks: list[Walk],
) -> tuple[bool, Ground, list[str]] | tuple[bool, Ground, list[str], Cause | None]:
    """Return (holds, what shows it, what decides), and for a flow that has to pass and does not, its cause."""
    if wanted.expect == "closed":
        if together:
            return False, Ground("one-segment", name=together), []
        if passing is None:
            went = _walk(verdicts, stopped, walks) if stopped else None
            if went is None:
                return True, NOBODY, []
            return True, Ground("nothing-passes", became=went.became), list(went.decided_by)
        went = _walk(verdicts, passing, walks)
        return False, Ground("passes", _flow(verdicts, passing)), _opened_by(went)
    if stopped is not None:
        went = _walk(verdicts, stopped, walks)
        return False, Ground("stopped", _flow(verdicts, stopped), went.became), list(went.decided_by), went.cause
    if passing is None and not together:
        return _unheard(verdicts.sweep.site, wanted, walks)
    if wanted.through and passing is not None:
        return _only_through(verdicts, wanted.through, passing, walks)
    return True, Ground("everything-passes"), []


def _unheard(site: Site, wanted: Expectation, walks: list[Walk]) -> tuple[bool, Ground, list[str], Cause | None]:
    """Nothing passes and no host is stopped: an address that only a translation can mean, or an end without hosts."""
    try:
        ends = find_place(site, wanted.from_), find_place(site, wanted.to)
        service = one_service(site, wanted.services[0], ends[0].families & ends[1].families)
        source, target = choose_ends(*ends, service)
    except UnknownPlace:
        return False, NOBODY, [], None
    went = walk(site, source, target, service)
    walks.append(went)
    flow = Flow(str(source.address), str(target.address), service_text(service))
    return False, Ground("stopped", flow, went.became), list(went.decided_by), went.cause


def _only_through(
    verdicts: Verdicts, firewall: str, passing: _Cell, walks: list[Walk]
) -> tuple[bool, Ground, list[str]]:
    """Look at one packet of every pair of classes that passes: all have to cross the firewall."""
    space = passing.space
    for s, d in np.argwhere(space.allowed.any(axis=2)):
        atom = int(np.argmax(space.allowed[s, d]))
        cell = _Cell(passing.a, passing.b, space, int(s), int(d), verdicts.service(atom))
        went = _walk(verdicts, cell, walks)
        if not any(s.device == firewall and stage_of(s) == "rule" for s in went.steps):
            return False, Ground("passes-around", _flow(verdicts, cell), name=firewall), list(went.decided_by)
    return True, Ground("everything-passes", name=firewall), []


def _walk(verdicts: Verdicts, cell: _Cell, walks: list[Walk]) -> Walk:
    source = verdicts.place(cell.a, cell.space.family, int(cell.space.sources[cell.source]))
    target = verdicts.place(cell.b, cell.space.family, int(cell.space.destinations[cell.destination]))
    walks.append(walk(verdicts.sweep.site, source, target, cell.service))
    return walks[-1]


def _flow(verdicts: Verdicts, cell: _Cell) -> Flow:
    source = verdicts.place(cell.a, cell.space.family, int(cell.space.sources[cell.source]))
    target = verdicts.place(cell.b, cell.space.family, int(cell.space.destinations[cell.destination]))
    return Flow(str(source.address), str(target.address), service_text(cell.service))


def keep_as_it_is(verdicts: Verdicts, a: int, b: int) -> Iterator[dict[str, object]]:
    """Yield expectations that say what holds between two segments now: what is closed, and the services that pass for every host."""
    sweep = verdicts.sweep
    names = [sweep.site.segments.all[k].name for k in (a, b)]
    ends = {"from": names[0], "to": names[1]}
    spaces = sweep.pair(a, b)
    if not any(s.allowed.any() for s in spaces):
        yield {"name": f"{names[0]} never touch {names[1]}", **ends, "services": ["any"], "expect": "closed"}
        return
    terms = sweep.site.policies.terms
    whole = [name for name, spans in terms.service_names if _all_pass(sweep, spaces, frozenset(spans))]
    if whole:
        yield {"name": f"{names[0]} reach {names[1]}", **ends, "services": whole[:8], "expect": "open"}


def _all_pass(sweep: Sweep, spaces: list[PairSpace], services: frozenset[ServiceSpan]) -> bool:
    asked = sweep.services.mask(services)
    exact = _merged(s for k in np.flatnonzero(asked) for s in sweep.services.atoms[k]) == _merged(services)
    cells = [s.allowed[:, s.real][:, :, asked & s.possible] for s in spaces]
    return exact and any(c.size for c in cells) and all(c.all() for c in cells)


def _merged(spans: Iterable[ServiceSpan]) -> dict[int, Intervals]:
    """Return spans by protocol, however they are cut."""
    of: dict[int, list[tuple[int, int]]] = {}
    for protocol, low, high in spans:
        of.setdefault(protocol, []).append((low, high))
    return {protocol: merge(held) for protocol, held in of.items()}


def suggested(verdicts: Verdicts) -> Iterator[dict[str, object]]:
    """Yield what the purposes of segments, and the outside, let one expect, as far as it holds now and is not expected yet."""
    site = verdicts.sweep.site
    known = {(e.from_, e.to, e.expect) for e in site.design.expectations}
    visiting = {v.name for v in site.design.vlans if v.purpose == "visitors"}
    shown = [k for k, s in enumerate(site.segments.all) if s.kind != "transit" and site.net.groups_of[k]]
    for a in shown:
        one = site.segments.all[a]
        strange = one.kind == "outside" or one.name in visiting
        for b in shown if strange else ():
            two = site.segments.all[b]
            inside = two.kind != "outside" and two.name not in visiting
            passes = any(s.allowed.any() for s in (verdicts.sweep.pair(a, b) if a != b else ()))
            if a != b and inside and not passes and (one.name, two.name, "closed") not in known:
                ends = {"from": one.name, "to": two.name}
                yield {"name": f"{one.name} never touch {two.name}", **ends, "services": ["any"], "expect": "closed"}
