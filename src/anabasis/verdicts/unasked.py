"""Open, but nobody asked: what passes though no expectation and no purpose speaks of it, and what a zone's way out leaves out. Questions, not findings."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from anabasis.allpairs import Sweep
from anabasis.classes import Mask, readable_services
from anabasis.policy import Policy
from anabasis.routing import HostGroup
from anabasis.site import Site
from anabasis.verdicts.expectations import keep_as_it_is, side_of
from anabasis.verdicts.verdicts import Verdicts

Pairs = np.ndarray[tuple[int, int], np.dtype[np.bool_]]

MOST = 120
"""Of how many open pairs the services are told; the rest is counted."""
WAYS_OUT = frozenset(("inside", "visitors", "voice"))
"""Purposes that let one expect a way to the outside."""


@dataclass(frozen=True)
class OpenPair:
    """Two segments between which something passes, of which nothing says that it should."""

    kind: Literal["open"]
    source: str
    target: str
    services: str
    """What passes, from some host at least, as a person reads it."""
    expectation: dict[str, object] | None
    """The expectation that would say that it is meant, where whole services pass."""
    closed: dict[str, object]
    """The one that would say that it is not."""


@dataclass(frozen=True)
class LeftOut:
    """A subnet of a zone from which nothing gets out to an outside, though its zone's rules let others out."""

    kind: Literal["left-out"]
    device: str
    zone: str
    towards: str
    segment: str
    subnet: str
    pointer: str
    """A rule that lets its neighbours out."""


@dataclass(frozen=True)
class Unasked:
    """All that nobody has asked for."""

    open: list[OpenPair]
    more: int
    """How many open pairs are not listed."""
    left_out: list[LeftOut]


def unasked(verdicts: Verdicts) -> Unasked:
    """Return what passes and nothing speaks of, in the order of segments, and what ways out leave out."""
    sweep, site = verdicts.sweep, verdicts.sweep.site
    opened = verdicts.tally.some & ~_spoken_of(site) & _worth_asking(site)
    pairs = [(int(a), int(b)) for a, b in np.argwhere(opened)]
    shown = [_pair(verdicts, sweep, a, b) for a, b in pairs[:MOST]]
    return Unasked(shown, len(pairs) - len(shown), list(_left_out(site)))


def _worth_asking(site: Site) -> Pairs:
    """Return bool[segment, segment]: not a segment with itself, a transit, others' networks among themselves, or a way out that a purpose asks for."""
    segments, purposes = site.segments.all, site.purposes
    transit = np.array(
        [s.kind == "transit" or "transit" in p for s, p in zip(segments, purposes, strict=True)], dtype=bool
    )
    outside = np.array([s.kind == "outside" for s in segments], dtype=bool)
    goes_out = np.array([bool(p & WAYS_OUT) for p in purposes], dtype=bool)
    out: Pairs = ~(transit[:, None] | transit[None, :] | ((outside | goes_out)[:, None] & outside[None, :]))
    np.fill_diagonal(out, val=False)
    return out


def _spoken_of(site: Site) -> Pairs:
    """Return bool[segment, segment]: pairs that an expectation speaks of."""
    count = len(site.segments.all)
    out = np.zeros((count, count), dtype=bool)
    sides: dict[str, list[int]] = {}
    for wanted in site.design.expectations:
        for text in (wanted.from_, wanted.to):
            if text not in sides:
                sides[text] = [k for k, _, _ in side_of(site, text)]
        out[np.ix_(sides[wanted.from_], sides[wanted.to])] = True
    return out


def _pair(verdicts: Verdicts, sweep: Sweep, a: int, b: int) -> OpenPair:
    names = sweep.site.segments.all[a].name, sweep.site.segments.all[b].name
    words: list[str] = []
    for space in sweep.pair(a, b):
        passing: Mask = np.asarray(space.allowed.any(axis=(0, 1)))
        if passing.any():
            named = sweep.site.policies.terms.service_names
            words.append(readable_services(sweep.services.spans(passing), space.family, named))
    ends = {"from": names[0], "to": names[1]}
    meant = next(keep_as_it_is(verdicts, a, b), None)
    shut: dict[str, object] = {
        "name": f"{names[0]} never touch {names[1]}",
        **ends,
        "services": ["any"],
        "expect": "closed",
    }
    return OpenPair("open", *names, "; ".join(dict.fromkeys(words)), meant, shut)


def _left_out(site: Site) -> Iterator[LeftOut]:
    for policy in site.policies.of.values():
        outside = {
            z for k, s in enumerate(site.segments.all) if s.kind == "outside" for z in site.zones_at[policy.device][k]
        }
        for zone in policy.zone_kinds:
            inside = [
                g
                for g in site.net.hosts
                if zone in site.zones_at[policy.device][g.segment] and not g.behind and g.endpoint is None
            ]
            for towards in sorted(outside - {zone}):
                yield from _by(site, policy, zone, towards, inside)


def _by(site: Site, policy: Policy, zone: str, towards: str, inside: list[HostGroup]) -> Iterator[LeftOut]:
    lines = [r for r in policy.lines(zone, towards) if r.action == "permit"]
    held = {id(g): [r for r in lines if _speaks(site, g, r.sources)] for g in inside}
    for version in (4, 6):
        mine = [g for g in inside if g.subnet.version == version]
        lets = next((held[id(g)][0] for g in mine if held[id(g)]), None)
        for group in mine if lets is not None else ():
            if not held[id(group)] and lets is not None:
                name = site.segments.all[group.segment].name
                where = policy.device, zone, towards
                yield LeftOut("left-out", *where, name, str(group.subnet), lets.pointer)


def _speaks(site: Site, group: HostGroup, spans: frozenset[tuple[int, int, int]]) -> bool:
    mine = site.net.host_spans(group)
    return any(f == group.subnet.version and a <= high and low <= b for f, a, b in spans for low, high in mine)
