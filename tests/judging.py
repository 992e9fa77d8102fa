"""Is the cause named? A sound site, one fault of the catalogue put into it, and what findings, plug in, walk and matrix then say."""

from __future__ import annotations

import copy
from dataclasses import dataclass, field
from functools import lru_cache
from random import Random
from typing import Any

from anabasis.climb import Climb
from anabasis.design import parse_design
from anabasis.design.edits import patched
from anabasis.design.items import link
from anabasis.errors import InputRefused, UnknownPlace
from anabasis.faults import KINDS, faults_of
from anabasis.faults.kinds import Fault
from anabasis.findings import Finding
from anabasis.probe import Plug
from anabasis.verdicts import ask
from tests.sites import Tree
from tests.sound import sound_site
from tests.sound_fabrics import FABRICS, sound_fabric

ASKERS = ("findings", "plug", "walk", "matrix")
SERVICES = ("https", "ping")


@dataclass
class Judged:
    """What the askers said of one fault; an asker that had nothing to say is not in `named`."""

    seed: int
    fault: Fault
    named: dict[str, bool] = field(default_factory=dict)
    said: dict[str, str] = field(default_factory=dict)
    innocent: list[str] = field(default_factory=list)
    mended: bool | None = None


@dataclass(frozen=True)
class Base:
    """A sound site and what works in it."""

    tree: Tree
    climb: Climb
    probes: tuple[tuple[str, str, str], ...]
    """(from, to, service) of packets that arrive and are answered."""
    plugs: dict[str, Plug]
    """What a laptop gets at the free ports."""


def names(pointer: str, guilty: tuple[str, ...]) -> bool:
    """Tell whether a pointer leads to a guilty item: to it, into it, or to the thing whose setting it is."""
    for g in guilty:
        if pointer == g or pointer.startswith(g + "/"):
            return True
        if g.startswith(pointer + "/") and pointer.count("/") > 2:
            return True
    return False


def ends_of(tree: Tree) -> list[str]:
    """Return the hosts of a site, and the outside."""
    return [d["name"] for d in tree["devices"] if d["kind"] in ("endpoint", "outside")]


@lru_cache(maxsize=6)
def base_of(seed: int) -> Base:
    """Return a sound site with what works in it."""
    tree = sound_fabric(seed) if seed >= FABRICS else sound_site(seed)
    climb = Climb(parse_design(tree))
    ends = ends_of(tree)
    probes = [
        (a, b, s) for a in ends for b in ends if a != b and a != "internet" for s in SERVICES if _works(climb, a, b, s)
    ]
    spare = [
        f"{d['name']}:{p['name']}"
        for d in tree["devices"]
        for p in d.get("ports", [])
        if p.get("note") == "Free on purpose"
    ]
    return Base(tree, climb, tuple(probes), {place: climb.plug(place) for place in spare})


def _works(climb: Climb, a: str, b: str, service: str) -> bool:
    try:
        return climb.walk(a, b, service).outcome != "stopped"
    except UnknownPlace:
        return False


def some_fault(seed: int, turn: int) -> Fault | None:
    """Return a fault for a site: a kind by lot among those it can have, then one of the kind by lot."""
    rng = Random(f"{seed}/{turn}")
    base = base_of(seed)
    kinds = list(KINDS)
    rng.shuffle(kinds)
    for kind in kinds:
        found = list(faults_of(base.tree, kind))
        if found:
            return rng.choice(found)
    return None


def judge(seed: int, fault: Fault, askers: tuple[str, ...] = ASKERS) -> Judged | None:
    """Put a fault into a sound site and ask. None where the document is refused with it."""
    base, out = base_of(seed), Judged(seed, fault)
    tree = patched(copy.deepcopy(base.tree), fault.edit)
    try:
        climb = Climb(parse_design(tree))
    except InputRefused:
        return None
    kind, rng = KINDS[fault.kind], Random(f"{seed}/{fault.edit}")
    if "findings" in askers:
        _findings(base, climb, out, kind.severity)
    lost = _lost(base, climb, rng) if kind.reach else []
    if "walk" in askers:
        for a, b, service in lost[:2]:
            _walk(climb, out, a, b, service)
    if "matrix" in askers:
        for a, b, service in lost[:2]:
            _matrix(climb, out, a, b, service)
    if "plug" in askers and kind.reach:
        _plug(base, climb, out, rng)
    return out


def _told(out: Judged, asker: str, right: bool, text: str) -> None:
    out.named[asker] = out.named.get(asker, True) and right
    if not right or asker not in out.said:
        out.said[asker] = text


def fresh(base: Climb, climb: Climb) -> list[Finding]:
    """Return the findings that a site has and another had not."""
    known = {f.sentence for f in base.findings}
    return [f for f in climb.findings if f.sentence not in known]


def _findings(base: Base, climb: Climb, out: Judged, severity: str) -> None:
    new = fresh(base.climb, climb)
    guilty = out.fault.guilty
    first = new[0] if new else None
    right = first is not None and any(names(p, guilty) for p in first.pointers)
    out.innocent = [
        f"{f.code}: {f.sentence}"
        for f in new
        if f.kind.severity == "breaks" and not any(names(p, guilty) for p in f.pointers)
    ]
    text = f"{first.code} {first.sentence} {list(first.pointers)}" if first else "nothing"
    _told(out, "findings", right and not out.innocent, text + (f" INNOCENT {out.innocent[0]}" if out.innocent else ""))
    if right and first is not None and first.mend:
        mended = Climb(parse_design(patched(copy.deepcopy(_tree(climb)), first.mend)))
        out.mended = not [p for p in base.probes[::3] if not _works(mended, *p)]


def _tree(climb: Climb) -> Tree:
    return climb.design.model_dump(mode="json", by_alias=True, exclude_unset=True)


def _lost(base: Base, climb: Climb, rng: Random) -> list[tuple[str, str, str]]:
    probes = list(base.probes)
    rng.shuffle(probes)
    out = []
    for probe in probes:
        if len(out) < 2 and not _works(climb, *probe):
            out.append(probe)
    return out


def _walk(climb: Climb, out: Judged, a: str, b: str, service: str) -> None:
    try:
        went = climb.walk(a, b, service)
    except UnknownPlace as error:
        _told(out, "walk", False, f"{a} {b}: {error}")
        return
    right = any(names(p, out.fault.guilty) for p in went.decided_by[:1])
    _told(out, "walk", right, f"{a} to {b} {service}: {went.layer} {went.reason} {list(went.decided_by)}")


def _segment(climb: Climb, name: str) -> int | None:
    site = climb.site
    for i, s in enumerate(site.segments.all):
        if s.name == name and s.kind == "outside":
            return i
    attachment = next((t for t in site.fabric.attachments if t.device == name), None)
    return site.segments.of_attachment.get(attachment.index) if attachment else None


def _matrix(climb: Climb, out: Judged, a: str, b: str, service: str) -> None:
    one, two = _segment(climb, a), _segment(climb, b)
    if one is None or two is None or one == two:
        return
    verdict = climb.verdicts(ask(climb.site, service)).judge(one, two)
    if verdict.verdict == "all" or verdict.cause is None:
        return  # others of the segment still reach it, or nobody stands there any more
    right = any(names(p, out.fault.guilty) for p in verdict.decided_by[:1])
    text = f"{verdict.source} to {verdict.target} {service}: {verdict.verdict} {verdict.layer} {verdict.reason} {list(verdict.decided_by)}"
    _told(out, "matrix", right, text)


def _plug(base: Base, climb: Climb, out: Judged, rng: Random) -> None:
    places = list(base.plugs)
    rng.shuffle(places)
    asked = 0
    for place in places:
        was, now = base.plugs[place], climb.plug(place)
        if now.address is not None and now.gateway == was.gateway and (now.reaches or not was.reaches):
            continue  # it has its lease and gets somewhere: which flows a rule takes from it is not plug in's question
        right = any(names(p, out.fault.guilty) for p in now.decided_by[:1])
        _told(
            out,
            "plug",
            right,
            f"{place}: {now.address} {now.layer} {now.reason} {now.decided_by} reaches {now.reaches}",
        )
        asked += 1
        if asked == 2:
            return


LAYERS = (
    "link",
    "isolation",
    "vlan",
    "gateway",
    "neighbour",
    "route",
    "underlay",
    "tunnel",
    "answers",
    "zone",
    "nat",
    "rule",
    "standby",
    "name",
)
"""From the cable up, as faults are sorted."""
LEVEL = {layer: k for k, layer in enumerate(LAYERS)} | {"isolation": LAYERS.index("vlan")}
MOVES = ("remove", "move")
"""Operations after which pointers of another fault may no longer hold."""


def two_faults(seed: int) -> tuple[Tree, list[Fault]] | None:
    """Return a site with two faults of different kinds, the lower one first; None where there are none that leave each other's places alone."""
    rng, base = Random(f"two/{seed}"), base_of(seed)
    first = some_fault(seed, rng.randrange(1000))
    if first is None or KINDS[first.kind].layer == "standby":
        return None
    tree = patched(copy.deepcopy(base.tree), first.edit)
    kinds = [k for k in KINDS if k != first.kind and KINDS[k].layer != "standby"]
    rng.shuffle(kinds)
    for kind in kinds:
        found = [f for f in faults_of(tree, kind) if _apart(first, f)]
        if found:
            second = rng.choice(found)
            both = sorted((first, second), key=lambda f: LAYERS.index(KINDS[f.kind].layer))
            return patched(copy.deepcopy(tree), second.edit), both
    return None


def _apart(one: Fault, two: Fault) -> bool:
    """Tell whether a second fault moves no place of the first, and is about other items."""
    still = all(
        (op["op"] not in MOVES and not op["path"].rsplit("/", 1)[-1].isdigit()) or op["op"] == "replace"
        for op in two.edit
    )
    return (
        still
        and not any(names(g, two.guilty) for g in one.guilty)
        and not any(names(g, one.guilty) for g in two.guilty)
    )


def named_in_order(seed: int) -> tuple[bool, str] | None:
    """Put two faults into a site; tell whether findings name both, the lower one first. None where nothing could be tried."""
    made = two_faults(seed)
    if made is None:
        return None
    tree, both = made
    try:
        climb = Climb(parse_design(tree))
    except InputRefused:
        return None
    new = fresh(base_of(seed).climb, climb)
    first = [next((k for k, f in enumerate(new) if any(names(p, x.guilty) for p in f.pointers)), None) for x in both]
    said = f"{seed} {[(x.kind, x.guilty[:2]) for x in both]}: {[(f.code, f.pointers[:2]) for f in new[:6]]}"
    if None in first:
        return False, said
    grave = len({new[k].kind.severity for k in first if k is not None}) > 1  # the graver one comes first
    heights = {LEVEL[KINDS[x.kind].layer] for x in both}
    same = len(heights) == 1 or grave
    return same or (first[0] or 0) <= (first[1] or 0), said


def title(tree: Tree, pointer: str) -> str:
    """Return what a pointer is called."""
    try:
        return link(tree, pointer).title
    except (KeyError, IndexError, TypeError, AttributeError):
        return pointer


def rates(judged: list[Judged]) -> dict[str, dict[str, tuple[int, int]]]:
    """Return kind -> asker -> (named, asked)."""
    out: dict[str, dict[str, tuple[int, int]]] = {}
    for j in judged:
        row = out.setdefault(j.fault.kind, {})
        for asker, right in j.named.items():
            good, of = row.get(asker, (0, 0))
            row[asker] = (good + right, of + 1)
    return out


def many(sites: int, turns: int, first: int = 0, **more: Any) -> list[Judged]:
    """Judge some faults in each of some sites."""
    out = []
    for seed in range(first, first + sites):
        for turn in range(turns):
            fault = some_fault(seed, turn)
            found = judge(seed, fault, **more) if fault else None
            if found is not None:
                out.append(found)
    return out
