"""Findings about translation: sources that need one, translations that no rule lets anything through, rules that need one."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace

from anabasis.design import Patch, apply
from anabasis.design.devices import Firewall, Outside, RoutingBox
from anabasis.design.notation import is_private, parse_address, parse_prefix
from anabasis.facts import Cause, EditDoes, FollowsRoute, Receives, Says, Wrong
from anabasis.failover import stand
from anabasis.findings.catalogue import Choice, Finding, finding
from anabasis.findings.mends import first_that_helps
from anabasis.findings.returning import routes_for
from anabasis.policy import Policy, Translation
from anabasis.routing import look_up
from anabasis.site import Site, number_to_address
from anabasis.trace import Walk, walk
from anabasis.verdicts import Shown, Verdict, Verdicts

MOST_ROUTES = 6
"""How many boxes on the way back are given a route before it is given up."""


def check(verdicts: Verdicts) -> Iterator[Finding]:
    """All of them."""
    site = verdicts.sweep.site
    yield from _private(verdicts)
    for policy in site.policies.of.values():
        for entry in policy.translations:
            yield from _unruled(site, policy, entry)
        yield from _unpublished(site, policy)


def _private(verdicts: Verdicts) -> Iterator[Finding]:
    """One finding a source segment: rules let it out, and the outside drops it for its private address."""
    site = verdicts.sweep.site
    transit = {s.name for s in site.segments.all if s.kind == "transit"}
    lost: dict[tuple[Wrong, str], list[Verdict]] = defaultdict(list)
    for verdict in verdicts.lost:
        root = verdict.cause.root if verdict.cause is not None else None
        if root is not None and root.wrong in PRIVATE and verdict.source not in transit:
            lost[root.wrong, root.guilty[0]].append(verdict)
    kinds = {s.name: s.kind for s in site.segments.all}
    for found in lost.values():
        one = next((v for v in found if kinds[v.target] == "outside"), found[0])
        by_name = site.segments.by_name
        shown = verdicts.show(by_name[one.source], by_name[one.target], stopped=True)
        cause = one.cause
        if shown is None or cause is None:
            continue
        sources = list(dict.fromkeys(v.source for v in found))
        subnets = _subnets(site, found)
        patches = [*_repaired(site, cause, shown.walk, subnets), *_hidings(site, shown.walk, subnets, cause)]
        choice = _way_back(site, shown, one)
        mend = first_that_helps(site, patches, shown)
        yield finding(
            Says.PRIVATE_OUTSIDE,
            *cause.pointers,
            mend=mend,
            also=(choice,) if choice else (),
            cause=cause,
            sources=sources,
            target=one.target,
        )


PRIVATE = frozenset(
    (Wrong.PRIVATE_DROPPED, Wrong.NOT_TRANSLATED, Wrong.TRANSLATION_OFF, Wrong.TRANSLATION_MISSES)
)  # fmt: skip
"""How a private source comes to be dropped outside."""


def _repaired(site: Site, cause: Cause, walk: Walk, subnets: list[str]) -> Iterator[Patch]:
    """Yield the edits of the translation that just misses: switched on, its zones, its sources."""
    root = cause.root
    if root.wrong == Wrong.TRANSLATION_OFF:
        yield [{"op": "replace", "path": f"{root.guilty[0]}/enabled", "value": True}]
    if root.wrong != Wrong.TRANSLATION_MISSES:
        return
    firewall = str(root.value("device"))
    egress = next(_zones_out(site, walk, firewall), None)
    box = next(d for d in site.design.devices if d.name == firewall)
    entry = next(n for n in getattr(box, "nat", ()) if n.name == root.value("entry"))
    more = [n for n in subnets if n not in entry.sources]
    yield [{"op": "add", "path": f"{root.guilty[0]}/sources", "value": [*entry.sources, *more]}]
    if egress and egress not in entry.to:
        yield [{"op": "add", "path": f"{root.guilty[0]}/to", "value": [egress]}]


def _hidings(site: Site, walk: Walk, subnets: list[str], cause: Cause) -> Iterator[Patch]:
    """Yield edits that hide the source at the box that should have: take its zone into an entry there is, else a new entry."""
    name = cause.root.known.get("device")
    entered = [site.net.by_name.get((s.device, s.name)) for s in walk.steps if isinstance(s, Receives)]
    inside = [i for i in entered if i is not None and i.device == name]
    if not inside:
        return
    firewall = inside[-1].device
    d = next(k for k, x in enumerate(site.design.devices) if x.name == firewall)
    device = site.design.devices[d]
    if isinstance(device, RoutingBox):
        yield from _hidden_by_interface(site, walk, subnets, device, d)
    if not isinstance(device, Firewall):
        return
    zones_in = list(dict.fromkeys((inside[-1].zone or "", *_zones_of(site, firewall, subnets))))
    ingress = zones_in[0]
    for i, entry in enumerate(device.nat):
        if entry.source_to == "interface" and "any" not in entry.from_ and ingress not in entry.from_:
            missing = [z for z in zones_in if z not in entry.from_]
            yield [{"op": "add", "path": f"/devices/{d}/nat/{i}/from/-", "value": z} for z in missing]
    egress = next((z for z in _zones_out(site, walk, firewall)), None)
    if egress and subnets:
        names = {n.name for n in device.nat}
        name = next(n for n in (f"hide-{ingress}", *(f"hide-{ingress}-{k}" for k in range(2, 99))) if n not in names)
        new = {"name": name, "from": zones_in, "to": [egress], "sources": list(subnets), "source_to": "interface"}
        has = "nat" in device.model_fields_set
        yield [{"op": "add", "path": f"/devices/{d}/nat" + ("/-" if has else ""), "value": new if has else [new]}]


def _hidden_by_interface(site: Site, walk: Walk, subnets: list[str], device: RoutingBox, d: int) -> Iterator[Patch]:
    """Yield the translation that a box without zones lacks, on the interface its route leaves by."""
    routes = [s.pointer for s in walk.steps if isinstance(s, FollowsRoute) and s.device == device.name]
    found = (r.interface for t in site.net.tables.values() for r in t.routes if r.pointer in routes and r.interface)
    egress = next(found, None)
    if egress and subnets:
        names = {n.name for n in device.nat}
        name = next(n for n in (f"hide-{egress}", *(f"hide-{egress}-{k}" for k in range(2, 99))) if n not in names)
        new: dict[str, object] = {"name": name, "to": [egress], "sources": subnets, "source_to": "interface"}
        has = bool(device.nat)
        yield [{"op": "add", "path": f"/devices/{d}/nat" + ("/-" if has else ""), "value": new if has else [new]}]


def _subnets(site: Site, lost: list[Verdict]) -> list[str]:
    """Return the subnets that the lost sources are of: of their segments, and of what another box made of them on the way."""
    by_name, every = site.segments.by_name, [n for s in site.segments.all if s.kind != "outside" for n in s.subnets]
    out: dict[str, None] = {}
    for verdict in lost:
        own = site.segments.all[by_name[verdict.source]].subnets
        source = parse_address(str(verdict.cause.root.value("address"))) if verdict.cause is not None else None
        fits = [n for n in (*own, *every) if source is not None and source in parse_prefix(n)]
        out |= dict.fromkeys(own if not fits or fits[0] in own else fits[:1])
    return list(out)


def _zones_of(site: Site, firewall: str, subnets: list[str]) -> list[str]:
    """Return the zones by which hosts of some subnets come into a firewall: those of its interfaces in their subnets, else of its routes there."""
    out: list[str] = []
    for text in subnets:
        net = parse_prefix(text)
        table = site.net.tables.get((firewall, "main"))
        winner = look_up(table, net[0]).winner if table is not None else None
        interface = site.net.by_name.get((firewall, winner.interface or "")) if winner is not None else None
        if interface is not None and interface.zone and winner is not None and winner.to.prefixlen:
            out.append(interface.zone)
    return out


def _zones_out(site: Site, walk: Walk, firewall: str) -> Iterator[str]:
    """Yield the zone by which the firewall's route leaves."""
    for step in walk.steps:
        egress = site.net.by_name.get((firewall, step.interface)) if isinstance(step, FollowsRoute) else None
        if egress is not None and step.device == firewall and egress.zone:
            yield egress.zone


def _way_back(site: Site, shown: Shown, verdict: Verdict) -> Choice | None:
    """The other way: the outside takes private sources, and every box on the way back gets a route, one after the other."""
    name = str(verdict.cause.root.value("outside")) if verdict.cause is not None else ""
    raw = site.written
    patch: Patch = [{"op": "add", "path": f"{site.item_of(name)}/accepts_private", "value": True}]
    for _ in range(MOST_ROUTES):
        mended = stand(apply(raw, patch, site.design)[1], before=site)
        went = walk(mended, shown.source, shown.target, shown.service)
        if went.layer != "return":
            return Choice(EditDoes("routes-back", name), patch) if went.outcome != "stopped" else None
        routes = list(routes_for(mended, went.cause, replace(shown, walk=went))) if went.cause is not None else []
        if not routes:
            return None
        patch += routes[-1]
    return None


def _unruled(site: Site, policy: Policy, entry: Translation) -> Iterator[Finding]:
    """A translation that no rule lets anything through."""
    zones_in = [z for z, kind in policy.zone_kinds.items() if entry.enters(z) and kind == "routed"]
    if entry.destination is not None:
        targets = {_zone_of(site, policy, entry.destination.family, entry.destination.onto[1])} - {None}
        onto = number_to_address(entry.destination.family, entry.destination.onto[1])
    else:
        targets = {z for z, kind in policy.zone_kinds.items() if entry.leaves(z) and kind == "routed"}
        onto = None
    if not targets or any(_may_pass(policy, a, z or "") for a in zones_in for z in targets):
        return
    which = {"device": policy.device, "entry": entry.name}
    ends = {"sources": zones_in, "targets": sorted(z or "" for z in targets)}
    if onto is None:
        yield finding(Says.NAT_UNRULED_HIDES, entry.pointer, values={**which, **ends})
    else:
        yield finding(Says.NAT_UNRULED, entry.pointer, address=onto, values={**which, **ends})


def _may_pass(policy: Policy, ingress: str, egress: str) -> bool:
    permits = any(r.action == "permit" for r in policy.lines(ingress, egress))
    return permits or policy.default(ingress, egress)[0] == "permit"


def _zone_of(site: Site, policy: Policy, family: int, number: int) -> str | None:
    """Return the zone by which packets to an address leave a firewall."""
    address = number_to_address(family, number)
    for (device, _), table in site.net.tables.items():
        winner = look_up(table, address).winner if device == policy.device else None
        if winner is not None and winner.interface:
            return site.net.by_name[device, winner.interface].zone
    return None


def _unpublished(site: Site, policy: Policy) -> Iterator[Finding]:
    """A rule that lets strangers in to private addresses only works through a translation."""
    device = site.net.devices[policy.device]
    assert isinstance(device, Firewall)
    strangers = {z for z in policy.zone_kinds if _leads_to_strangers(site, policy, z)}
    for rule in policy.rules:
        if rule.action != "permit" or rule.from_zones is None or not rule.from_zones <= strangers:
            continue
        spans = [s for s in rule.destinations if s[0] == 4]
        private = spans and all(is_private(number_to_address(4, low)) and is_private(number_to_address(4, high)) for _, low, high in spans)  # fmt: skip
        if not private:
            continue
        onto = [
            t.destination.onto
            for t in policy.translations
            if t.destination and any(t.enters(z) for z in rule.from_zones)
        ]
        if not any(low <= o[2] and o[1] <= high for _, low, high in spans for o in onto):
            zones = sorted(rule.from_zones)
            yield finding(Says.RULE_UNPUBLISHED, rule.pointer, device=policy.device, rule=rule.name, zones=zones)


def _leads_to_strangers(site: Site, policy: Policy, zone: str) -> bool:
    """Tell whether the default route leaves by a zone, towards an outside that drops private sources."""
    refusing = any(isinstance(d, Outside) and not d.accepts_private for d in site.design.devices)
    if not refusing:
        return False
    for (device, _), table in site.net.tables.items():
        winner = look_up(table, parse_address("192.0.2.10")).winner if device == policy.device else None
        if winner is not None and winner.interface and site.net.by_name[device, winner.interface].zone == zone:
            return winner.to.prefixlen == 0
    return False
