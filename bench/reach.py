"""The bench of reach: all pairs cold and after an edit, with three yardsticks in the same run."""

from __future__ import annotations

import gc
import resource
import statistics
from collections.abc import Callable, Iterator
from pathlib import Path
from random import Random
from threading import Thread
from time import perf_counter

import jsonpatch
import numpy as np
from netaddr import IPNetwork, IPSet

from anabasis.climb import Climb
from anabasis.design import Patch, Tree, apply, load_file, parse_design
from anabasis.design.devices import Firewall
from bench.generated import generated_site

SIZES = {"S": (60, 300), "M": (250, 2_000), "L": (1_000, 10_000), "XL": (2_000, 30_000)}
"""(segments, rules)"""
COLUMNS = ("demo", "S", "M", "L", "XL")
GOALS: dict[str, tuple[float | None, ...]] = {
    "all pairs, cold": (0.06, 0.25, 1.0, 5, 15),
    "a rule edited": (0.008, 0.01, 0.025, 0.1, 0.35),
    "a rule naming a new address": (0.015, 0.02, 0.06, 0.25, 0.9),
    "a route out": (0.02, 0.04, 0.1, 0.4, 1.5),
    "a tag out": (0.02, 0.04, 0.1, 0.4, 1.5),
    "a port off": (0.02, 0.04, 0.1, 0.4, 1.5),
    "a zone changed": (0.02, 0.04, 0.1, 0.4, 1.5),
    "a translation edited": (0.02, 0.04, 0.1, 0.4, 1.5),
    "findings, cold": (0.1, 0.3, 1.5, 6, 20),
    "findings after a rule edited": (0.02, 0.06, 0.2, 1, 4),
    "findings after a tag out": (0.02, 0.06, 0.2, 1, 4),
    "memory of the design, MiB": (None, 20, 60, 200, 800),
}
"""Seconds by row, for the columns in their order. An edit counts from the patch to its consequences spelled out, the check of the document included."""
SAMPLE = 60
TURNS = {"demo": 5, "S": 3, "M": 3, "L": 1, "XL": 1}
"""How often each edit is made, and taken back; the median counts."""


def timed(work: Callable[[], object]) -> float:
    """Return the seconds some work takes."""
    start = perf_counter()
    work()
    return perf_counter() - start


def site_of(size: str) -> Tree:
    """Return the demo, or a generated site."""
    if size == "demo":
        return load_file(Path("demo/tidewrack.yaml")).raw
    return generated_site(*SIZES[size])


def measured(size: str) -> dict[str, float]:
    """Return the figures of one size by row, and the yardsticks as ratios to what one pair costs when all are computed."""
    raw = site_of(size)
    idle = resident()
    design = parse_design(raw)
    colds: list[float] = []
    for _ in range(TURNS[size]):
        climb = Climb(design)
        climb.site  # noqa: B018 - layers 1 to 3 are not part of it
        colds.append(timed(lambda c=climb: (c.sweep.fingerprints, c.sweep.tally())))
    cold = statistics.median(colds)
    out = {"all pairs, cold": cold, "findings, cold": timed(lambda: climb.findings)}
    climb.consequences_since(climb)
    first = resident() - idle
    for name, patch in edits(raw).items():
        wanted = name in ("a rule edited", "a tag out")
        spent, findings = _edited(raw, climb, patch, TURNS[size], wanted)
        out[name] = statistics.median(spent)
        if wanted:
            out[f"findings after {name}"] = statistics.median(findings)
    pairs = len(climb.site.segments.all) * (len(climb.site.segments.all) - 1)
    out |= {"memory of the design, MiB": first, "memory after all edits, MiB": resident() - idle}
    ratios = {
        "a walk / a pair": walked(climb) / (cold / pairs),
        "plain reading / a pair": plain(climb) / (cold / pairs),
        "all pairs / floor": cold / floor(climb),
        "a rule edited / floor": out["a rule edited"] / floor(climb),
    }
    return out | ratios


def resident() -> float:
    """Return the memory of this process in MiB."""
    gc.collect()
    pages = int(Path("/proc/self/statm").read_text(encoding="ascii").split()[1])
    return pages * resource.getpagesize() / 2**20


def _edited(raw: Tree, climb: Climb, patch: Patch, turns: int, told: bool = False) -> tuple[list[float], list[float]]:
    """Return the seconds of an edit, and of the findings after it, made and taken back some times."""
    spent, findings = list[float](), list[float]()
    tree, here = raw, climb
    for _ in range(turns):
        for step in (patch, None):
            step = step if step is not None else jsonpatch.make_patch(tree, raw).patch
            began = perf_counter()
            tree, design = apply(tree, step, here.design)
            after = here.edited(design)
            after.consequences_since(here)
            spent.append(perf_counter() - began)
            if told:
                findings.append(timed(lambda c=after: c.findings))
            here = after
    return spent, findings


def edits(raw: Tree) -> dict[str, Patch]:
    """Return one edit a kind."""
    devices = list(enumerate(raw["devices"]))
    d, wall = next((d, x) for d, x in devices if len(x.get("rules", [])) > 5)
    k, rule = next((k, r) for k, r in enumerate(wall["rules"]) if "any" not in (*r["from"], *r["to"]) and k > 1)
    other = "drop" if rule["action"] == "permit" else "permit"
    new = {**rule, "name": "another", "sources": ["10.17.3.96/29"]}
    zone = next((at, z) for at, z in _zoned(d, wall) if z in rule["from"] + rule["to"])
    names = [z["name"] for z in wall["zones"] if z.get("kind", "routed") == "routed"]
    nat = next((f"/devices/{d}/nat/{i}" for d, x in devices for i, _ in enumerate(x.get("nat", []))), None)
    out: dict[str, Patch] = {
        "a rule edited": [{"op": "replace", "path": f"/devices/{d}/rules/{k}/action", "value": other}],
        "a rule naming a new address": [{"op": "add", "path": f"/devices/{d}/rules/{k}", "value": new}],
        "a route out": [{"op": "remove", "path": _a_route(raw)}],
        "a tag out": [{"op": "remove", "path": _a_tag(raw)}],
        "a port off": [{"op": "add", "path": f"{_a_port(raw)}/enabled", "value": False}],
        "a zone changed": [{"op": "replace", "path": zone[0], "value": next(n for n in names if n != zone[1])}],
    }
    if nat is not None:
        out["a translation edited"] = [{"op": "add", "path": f"{nat}/enabled", "value": False}]
    return out


def _zoned(d: int, wall: Tree) -> Iterator[tuple[str, str]]:
    """Yield the subinterfaces of a firewall that stand in a zone, and the zone."""
    for key in ("ports", "lags"):
        for k, port in enumerate(wall.get(key, [])):
            for s, sub in enumerate(port.get("subinterfaces", [])):
                if sub.get("zone"):
                    yield f"/devices/{d}/{key}/{k}/subinterfaces/{s}/zone", sub["zone"]
            if port.get("zone") and port.get("addresses"):
                yield f"/devices/{d}/{key}/{k}/zone", port["zone"]


def _a_route(raw: Tree) -> str:
    """Return the pointer of a static route."""
    routes = ((d, x.get("vrfs", [{}])[0].get("routes", [])) for d, x in enumerate(raw["devices"]) if x.get("vrfs"))
    return next(f"/devices/{d}/vrfs/0/routes/{len(r) - 1}" for d, r in routes if len(r) > 1)


def _ports(raw: Tree) -> Iterator[tuple[str, Tree]]:
    for d, device in enumerate(raw["devices"]):
        for key in ("lags", "ports"):
            for k, port in enumerate(device.get(key, [])):
                if device["kind"] == "switch":
                    yield f"/devices/{d}/{key}/{k}", port


def _a_tag(raw: Tree) -> str:
    """Return the pointer of a tag on an uplink: without it a segment falls apart."""
    return next(f"{at}/tagged/0" for at, p in _ports(raw) if len(p.get("tagged", [])) > 1)


def _a_port(raw: Tree) -> str:
    """Return the pointer of an edge port."""
    return next(at for at, p in _ports(raw) if p.get("untagged") and not p.get("tagged"))


def beside(size: str) -> tuple[float, float]:
    """Return the seconds of an edit of the demo alone, and while a large site is computed in another thread: neither waits for the other's lock."""
    raw, large = site_of("demo"), parse_design(site_of(size))
    climb = Climb(parse_design(raw))
    climb.consequences_since(climb)
    patch = edits(raw)["a rule edited"]
    alone = statistics.median(_edited(raw, climb, patch, 5)[0])
    other = Thread(target=lambda: Climb(large).sweep.fingerprints, daemon=True)
    other.start()
    together = statistics.median(_edited(raw, climb, patch, 5)[0])
    other.join()
    return alone, together


def sampled(climb: Climb) -> list[tuple[int, int]]:
    """Return some pairs of segments that rules decide, the same on every run."""
    led = np.argwhere(climb.sweep.tally().led)
    return [(int(a), int(b)) for a, b in Random(4).sample(led.tolist(), min(SAMPLE, len(led)))]


def walked(climb: Climb) -> float:
    """Return the seconds of one walk there and back, the median of a sample: one flow of one pair."""
    verdicts = climb.verdicts()
    return statistics.median(timed(lambda p=p: verdicts.show(*p, stopped=False)) for p in sampled(climb))


def plain(climb: Climb) -> float:
    """Return the seconds to read one pair plainly, the median of a sample: rules from the top over sets of a general library.

    For each crossing the addresses and services still open are a list of (sources, destinations, services); every rule splits it.
    """
    sets = {s.name: list(s.members) for s in climb.design.addresses}
    walls = {d.name: d for d in climb.design.devices if isinstance(d, Firewall)}
    services = climb.site.policies.terms.services
    known: dict[str, IPSet] = {}

    def addresses(terms: list[str]) -> IPSet | None:
        if "any" in terms:
            return None
        out = IPSet()
        for t in terms:
            if t not in known:
                known[t] = (addresses(sets[t]) or IPSet()) if t in sets else IPSet([IPNetwork(t)])
            out |= known[t]
        return out

    def read(a: int, b: int) -> int:
        family = climb.sweep.families[4]
        one, two = (IPSet(str(p) for p in climb.site.segments.all[k].subnets if ":" not in p) for k in (a, b))
        parts = family.plane.fecs
        p, q = np.flatnonzero(parts.segment == a), np.flatnonzero(parts.segment == b)
        permitted = 0
        for device, source, target in parts.filter_sets[parts.filter_set[p[0], q[0]]] if len(p) and len(q) else ():
            open_ = [(one, two, [(n, 0, 65535) for n in range(256)])]
            for rule in walls[device].rules:
                if not ({source, "any"} & set(rule.from_) and {target, "any"} & set(rule.to)):
                    continue
                left = []
                for s, d, v in open_:
                    froms, tos = addresses(rule.sources), addresses(rule.destinations)
                    mine, theirs = s if froms is None else s & froms, d if tos is None else d & tos
                    asked = services(rule.services)
                    hit = [
                        x
                        for x in v
                        if asked is None or any(x[0] == y[0] and x[1] <= y[2] and y[1] <= x[2] for y in asked)
                    ]
                    if not mine or not theirs or not hit:
                        left.append((s, d, v))
                        continue
                    permitted += rule.action == "permit"
                    left += [x for x in ((s - mine, d, v), (mine, d - theirs, v)) if x[0] and x[1]]
                    if asked is not None:
                        left.append((mine, theirs, v))
                open_ = left
        return permitted

    return statistics.median(timed(lambda p=p: read(*p)) for p in sampled(climb)[:20])


def floor(climb: Climb) -> float:
    """Return the seconds of one pass of NumPy over segments x rules: which rule speaks of which segment as source and as destination."""
    family = climb.sweep.families[4]
    spans = list(family.spans_at.values())
    where = np.zeros((len(climb.site.segments.all), family.classes.count), dtype=np.float32)
    for k, groups in family.standing.items():
        for g in groups:
            where[k, family.members[g]] = 1
    held = np.array([family.classes.holds(s) for s in spans], dtype=np.float32)
    return max(timed(lambda: (where @ held.T > 0).sum()), 1e-6)
