"""What the purpose of a VLAN promises, judged on reach: visitors touch nothing inside, boxes are run from where they are meant to be."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from anabasis.design.devices import Outside
from anabasis.facts import Says
from anabasis.findings.catalogue import Finding, finding
from anabasis.findings.ruling import strangers
from anabasis.policy import holds_service
from anabasis.probe import MANAGEMENT, answered
from anabasis.site import Site
from anabasis.verdicts import Verdicts, side_of


def check(verdicts: Verdicts) -> Iterator[Finding]:
    """All of them."""
    yield from _visitors(verdicts)
    yield from _management(verdicts.sweep.site)


def _visitors(verdicts: Verdicts) -> Iterator[Finding]:
    """One finding a segment of visitors that reaches anything inside."""
    site, opened = verdicts.sweep.site, verdicts.tally.some
    for a, segment in enumerate(site.segments.all):
        if "visitors" not in site.purposes[a]:
            continue
        reached = [int(b) for b in np.flatnonzero(opened[a]) if b != a and _inside(site, int(b))]
        if not reached:
            continue
        shown = verdicts.show(a, reached[0], stopped=False)
        decided = shown.walk.decided_by if shown is not None else ()
        names = [site.segments.all[b].name for b in reached]
        yield finding(Says.VISITORS_INSIDE, *decided, segment.pointer, segment=segment.name, reached=names)


def _inside(site: Site, segment: int) -> bool:
    kind = site.segments.all[segment].kind
    return kind not in ("outside", "transit") and "visitors" not in site.purposes[segment]


def _management(site: Site) -> Iterator[Finding]:
    """Where a VLAN is for management, boxes are run from it, or from where the operator sits: one finding a box that others can ask."""
    kept = {k for k, purposes in enumerate(site.purposes) if "management" in purposes}
    if not kept:
        return
    kept |= {k for k, _, _ in side_of(site, site.design.operator)} if site.design.operator else set()
    strange = {id(g) for g in strangers(site)}
    told: dict[str, list[tuple[str, str, tuple[str, ...]]]] = {}
    for interface in site.net.interfaces:
        answers = site.policies.answered_by(interface)
        foreign = isinstance(site.net.devices[interface.device], Outside)
        if answers is None or foreign or not interface.up or not interface.addresses:
            continue
        open_ = [n for n, s in MANAGEMENT.items() if holds_service(answers.services, s)]
        for group in site.net.hosts if open_ else []:
            if group.segment in kept or id(group) in strange or site.segments.all[group.segment].kind == "transit":
                continue
            if answered(site, interface, answers, group, MANAGEMENT[open_[0]]):
                who = site.segments.all[group.segment].name
                told.setdefault(interface.device, []).append((who, open_[0], (answers.pointer, interface.pointer)))
    for device, found in told.items():
        others = list(dict.fromkeys(w for w, _, _ in found))
        services = list(dict.fromkeys(s for _, s, _ in found))
        yield finding(
            Says.MANAGEMENT_OPEN,
            *(p for _, _, ps in found for p in ps),
            device=device,
            services=services,
            others=others,
        )
