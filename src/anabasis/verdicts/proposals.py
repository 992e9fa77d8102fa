"""Which rules would have to change so that one segment may reach another on a service, or may not: edits, the narrowest first."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import chain

from anabasis.design import Patch, Tree, apply
from anabasis.design.devices import Firewall, RoutingBox
from anabasis.design.edits import patched
from anabasis.errors import InputRefused
from anabasis.fabric import Conditions
from anabasis.facts import EditDoes, FollowsRoute, Permits, Receives, Stops, Wrong, stage_of
from anabasis.routing import L3Interface
from anabasis.site import Place, Site, find_place
from anabasis.trace import Walk, choose_ends, walk
from anabasis.tunnels import build_site
from anabasis.verdicts.questions import one_service
from anabasis.verdicts.verdicts import Verdicts
from anabasis.wording import edit_words

MOST_FIREWALLS = 4
"""How many firewalls on one way are given a rule before it is given up."""


@dataclass(frozen=True)
class Proposal:
    """One edit."""

    what: EditDoes
    patch: Patch

    @property
    def words(self) -> str:
        """Return what it does, without a full stop."""
        return edit_words(self.what)


@dataclass(frozen=True)
class _Wish:
    """What is to pass, or not to: the ends as written into rules, and a packet that shows it."""

    sources: list[str]
    destinations: list[str]
    service: str
    expect: str
    conditions: Conditions


def propose(verdicts: Verdicts, a: int, b: int, service: str, expect: str) -> list[Proposal]:
    """Return edits after which a packet from segment a to segment b passes (`open`) or is stopped by a rule (`closed`).

    Every edit was tried on that packet. To open, only rules are proposed: what is stopped below them has findings of its own. To close, rules
    come first; where none meets the packet, a box that routes it is closed between its networks, or its route goes. Raises UnknownPlace where
    the service is none, or the two have no family in common that carries it.
    """
    site = verdicts.sweep.site
    names = [site.segments.all[k].name for k in (a, b)]
    ends = find_place(site, names[0]), find_place(site, names[1])
    concrete = one_service(site, service, ends[0].families & ends[1].families)
    source, target = choose_ends(*ends, concrete)
    wish = _Wish(_terms(source), _terms(target), service, expect, site.conditions)
    raw = site.written
    went = walk(site, source, target, concrete)
    if (went.outcome != "stopped") == (expect == "open") or (expect == "open" and went.layer != "rule"):
        return []
    closing = chain(_closing(raw, site, wish, went), _closing_below(raw, site, went))
    found = _opening(raw, site, wish, went) if expect == "open" else closing
    out: list[Proposal] = []
    for proposal in found:
        whole = _until_done(raw, proposal, wish, (source, target), concrete)
        if whole is not None and whole.patch not in [p.patch for p in out]:
            out.append(whole)
    return out


def _terms(place: Place) -> list[str]:
    """Return how rules speak of one end: its subnet; of what is behind an outside, any."""
    group = place.group
    return ["any"] if group is None or group.behind else [str(group.subnet)]


def _until_done(
    raw: Tree, proposal: Proposal, wish: _Wish, ends: tuple[Place, Place], service: tuple[int, int]
) -> Proposal | None:
    """Try an edit; where another firewall on the way stops the packet then, give it a rule as well."""
    patch = list(proposal.patch)
    for _ in range(MOST_FIREWALLS):
        try:
            site = build_site(apply(raw, patch)[1], wish.conditions)
        except InputRefused:
            return None
        source, target = (find_place(site, str(p.address)).of(p.address.version) for p in ends)
        if source is None or target is None:
            return None
        went = walk(site, source, target, service)
        if wish.expect == "closed":
            return replace(proposal, patch=patch) if went.outcome == "stopped" else None
        if went.outcome != "stopped":
            return Proposal(replace(proposal.what, more=len(patch) - len(proposal.patch)), patch)
        if went.layer != "rule":
            return None
        further = next(_opening(patched(raw, patch), site, wish, went), None)
        if further is None:
            return None
        patch += further.patch
    return None


def _stop(site: Site, went: Walk) -> tuple[int, Firewall, str, str, int] | None:
    """Return (device index, firewall, zone in, zone out, index of the rule that stops; past the last = the default)."""
    last = went.steps[-1]
    found = next(((d, x) for d, x in enumerate(site.design.devices) if x.name == last.device), None)
    if found is None or not isinstance(last, Stops) or last.zones is None:
        return None
    d, device = found
    if not isinstance(device, Firewall):
        return None
    names = [r.name for r in device.rules]
    rule = went.cause.root.value("rule") if went.cause and went.cause.root.wrong == Wrong.RULE_DROPS else None
    return d, device, *last.zones, names.index(str(rule)) if rule in names else len(device.rules)


def _opening(raw: Tree, site: Site, wish: _Wish, went: Walk) -> Iterator[Proposal]:
    """A rule of its own above what stops it; or the service into a rule that lets these ends through already."""
    found = _stop(site, went)
    if found is None:
        return
    d, device, one, two, at = found
    value = {"from": [one], "to": [two], "sources": wish.sources, "destinations": wish.destinations}
    name = _free(device, f"{one}-{two}-{wish.service.replace('/', '-').replace(',', '-')}")
    rule = {"name": name, **value, "services": [s.strip() for s in wish.service.split(",")], "action": "permit"}
    above = device.rules[at].name if at < len(device.rules) else ""
    yield Proposal(EditDoes("permits-just-this", device.name, name, above), _added(raw, d, at, rule))
    for i, known in enumerate(device.rules[:at]):
        speaks = known.enabled and known.action == "permit" and one in known.from_ and two in known.to
        ends = set(wish.sources) <= set(known.sources) | {"any"} and (
            set(wish.destinations) <= set(known.destinations) or "any" in known.destinations
        )
        if speaks and ends and "any" not in known.services:
            patch = [{"op": "add", "path": f"/devices/{d}/rules/{i}/services/-", "value": wish.service}]
            yield Proposal(EditDoes("adds-service", device.name, known.name, service=wish.service), patch)


def _closing(raw: Tree, site: Site, wish: _Wish, went: Walk) -> Iterator[Proposal]:
    """A drop of its own above what lets it through; or the service out of that rule."""
    for step in went.steps:
        if not isinstance(step, Permits):
            continue
        d, device = next((d, x) for d, x in enumerate(site.design.devices) if x.name == step.device)
        assert isinstance(device, Firewall)
        one, two = step.zones
        at = next((i for i, r in enumerate(device.rules) if r.name == step.rule), len(device.rules))
        name = _free(device, f"no-{one}-{two}-{wish.service.replace('/', '-').replace(',', '-')}")
        ends = {"from": [one], "to": [two], "sources": wish.sources, "destinations": wish.destinations}
        rule = {"name": name, **ends, "services": [s.strip() for s in wish.service.split(",")], "action": "drop"}
        above = device.rules[at].name if at < len(device.rules) else ""
        yield Proposal(EditDoes("drops-just-this", device.name, name, above), _added(raw, d, at, rule))
        if at < len(device.rules):
            known = device.rules[at]
            if wish.service in known.services and len(known.services) > 1:
                k = known.services.index(wish.service)
                patch: Patch = [{"op": "remove", "path": f"/devices/{d}/rules/{at}/services/{k}"}]
                yield Proposal(EditDoes("takes-service", device.name, known.name, service=wish.service), patch)
            off = [{"op": "add", "path": f"/devices/{d}/rules/{at}/enabled", "value": False}]
            yield Proposal(EditDoes("switches-rule-off", device.name, known.name), off)


def _closing_below(raw: Tree, site: Site, went: Walk) -> Iterator[Proposal]:
    """Where no rule meets it: a box without zones that routes it keeps the network it comes from to itself; or its static route goes."""
    if any(stage_of(s) == "rule" for s in went.steps):
        return
    came: L3Interface | None = None
    written = {r.pointer for t in site.net.tables.values() for r in (*t.routes, *t.steering) if r.origin == "static"}
    for step in went.steps:
        if isinstance(step, Receives):
            came = site.net.by_name.get((step.device, step.name))
        if not isinstance(step, FollowsRoute) or came is None or came.device != step.device:
            continue
        d, device = next((d, x) for d, x in enumerate(site.design.devices) if x.name == step.device)
        if isinstance(device, RoutingBox) and device.between_networks == "open":
            others = [i.pointer for i in site.net.interfaces if i.device == step.device and i is not came]
            patch: Patch = [{"op": "add", "path": f"/devices/{d}/between_networks", "value": "closed"}]
            patch += [{"op": "add", "path": f"{at}/routed_to_others", "value": True} for at in others]
            yield Proposal(EditDoes("closes-between-networks", step.device, came.name), patch)
        if step.pointer in written:
            off: Patch = [{"op": "add", "path": f"{step.pointer}/enabled", "value": False}]
            yield Proposal(EditDoes("switches-route-off", step.device, str(step.to)), off)


def _added(raw: Tree, d: int, at: int, rule: Tree) -> Patch:
    """Return the edit that puts a rule into the order."""
    if not raw["devices"][d].get("rules"):
        return [{"op": "add", "path": f"/devices/{d}/rules", "value": [rule]}]
    return [{"op": "add", "path": f"/devices/{d}/rules/{at}", "value": rule}]


def _free(device: Firewall, base: str) -> str:
    taken = {r.name for r in device.rules}
    return next(n for n in (base, *(f"{base}-{k}" for k in range(2, 1000))) if n not in taken)
