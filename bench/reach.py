"""The bench of reach: all pairs cold and after an edit, with three yardsticks in the same run."""

from __future__ import annotations

import resource
import statistics
from collections.abc import Callable
from random import Random
from time import perf_counter
from typing import Any

import numpy as np
from netaddr import IPNetwork, IPSet

from anabasis.climb import Climb
from anabasis.design import Design, apply, parse_design
from anabasis.design.devices import Firewall
from anabasis.verdicts import compare_reach
from bench.generated import generated_site

SIZES = {"S": (60, 300), "M": (250, 2_000), "L": (1_000, 10_000), "XL": (2_000, 30_000)}
"""(segments, rules)"""
GOALS = {"S": (0.3, 0.05, 200), "M": (2, 0.15, 500), "L": (15, 0.4, 2048), "XL": (90, 1, 6144)}
"""(all pairs cold, s; one rule edited, s; MiB)"""
SAMPLE = 60
HEADINGS = (
    "size", "segments", "rules", "layers 1-3, s", "all pairs, s (goal)", "edit, s (goal)", "new address, s", "route, s", "tag, s", "MiB (goal)",
    "a walk / a pair", "plain / a pair", "all pairs / floor",
)  # fmt: skip


def timed(work: Callable[[], object]) -> float:
    """Return the seconds some work takes."""
    start = perf_counter()
    work()
    return perf_counter() - start


def measured(size: str, runs: int = 3) -> tuple[str, ...]:
    """Return one row of the table. Times are medians of `runs` on fresh state; memory is the peak of the process so far."""
    segments, rules = SIZES[size]
    raw = generated_site(segments, rules)
    design = parse_design(raw)
    colds: list[float] = []
    for _ in range(runs):
        climb = Climb(design)
        below = timed(lambda c=climb: c.site)
        colds.append(timed(lambda c=climb: (c.sweep.fingerprints, c.sweep.tally())))
    cold = statistics.median(colds)
    edits = [_edit(raw, design, climb, k) for k in range(runs)]
    fresh = _edit(raw, design, climb, 0, "sources", ["10.17.3.96/29"])
    rerouted = _without(raw, design, climb, _a_route(raw))
    untagged = _without(raw, design, climb, _a_tag(raw))
    pairs = len(climb.site.segments.all) * (len(climb.site.segments.all) - 1)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    goal = GOALS[size]
    return (
        size,
        str(len(climb.site.segments.all)),
        str(rules),
        f"{below:.2f}",
        f"{cold:.2f} ({goal[0]})",
        f"{statistics.median(edits):.3f} ({goal[1]})",
        f"{fresh:.2f}",
        f"{rerouted:.2f}",
        f"{untagged:.2f}",
        f"{peak:.0f} ({goal[2]})",
        f"{walked(climb) / (cold / pairs):.0f}",
        f"{plain(climb) / (cold / pairs):.0f}",
        f"{cold / floor(climb):.0f}",
    )


def _edit(raw: dict[str, Any], design: Design, climb: Climb, nth: int, key: str = "action", value: Any = None) -> float:
    """Return the seconds from a patch of one rule to its consequences."""
    rules = raw["devices"][1]["rules"]
    k = [i for i, r in enumerate(rules) if r["from"] != ["any"] and r["to"] != ["any"]][nth]
    new = value or ("drop" if rules[k]["action"] == "permit" else "permit")
    patch = [{"op": "replace", "path": f"/devices/1/rules/{k}/{key}", "value": new}]
    return timed(lambda: compare_reach(climb.sweep, climb.edited(apply(raw, patch, design)[1]).sweep))


def _without(raw: dict[str, Any], design: Design, climb: Climb, at: str) -> float:
    """Return the seconds from taking one thing out to its consequences."""
    patch = [{"op": "remove", "path": at}]
    return timed(lambda: compare_reach(climb.sweep, climb.edited(apply(raw, patch, design)[1]).sweep))


def _a_route(raw: dict[str, Any]) -> str:
    """Return the pointer of a static route."""
    routes = ((d, x.get("vrfs", [{}])[0].get("routes", [])) for d, x in enumerate(raw["devices"]))
    return next(f"/devices/{d}/vrfs/0/routes/3" for d, r in routes if len(r) > 3)


def _a_tag(raw: dict[str, Any]) -> str:
    """Return the pointer of a tag on an uplink: without it a segment falls apart."""
    ports = ((f"/devices/{d}/ports/{k}", p) for d, x in enumerate(raw["devices"]) for k, p in enumerate(x["ports"]))
    return next(f"{at}/tagged/0" for at, p in ports if len(p.get("tagged", [])) > 1)


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
        for device, source, target in parts.filter_sets[parts.chain[p[0], q[0]]] if len(p) and len(q) else ():
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
