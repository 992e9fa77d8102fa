"""Findings about rules and answers: too wide, about traffic that never comes by, and services of the box that strangers can ask."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from anabasis.allpairs import Sweep
from anabasis.design.devices import BridgingBox, Firewall, Outside
from anabasis.design.notation import parse_prefix
from anabasis.facts import EditDoes, Says
from anabasis.findings.catalogue import Choice, Finding, finding
from anabasis.memo import Same
from anabasis.policy import AnswerList, Policy, RuleLine, Span, holds_address, holds_service
from anabasis.probe import MANAGEMENT, answered
from anabasis.routing import HostGroup, L3Interface, look_up
from anabasis.site import Site, number_to_address
from anabasis.verdicts import Verdicts, works_of


def check(verdicts: Verdicts) -> Iterator[Finding]:
    """All of them."""
    site, covered = verdicts.sweep.site, dict[Span, list[HostGroup]]()
    for policy in site.policies.of.values():
        outside = outside_zones(site, policy)
        yield from _idle(verdicts, policy)
        for rule in policy.rules:
            yield from _wide(policy, rule, outside)
            inputs = Same(rule, *verdicts.sweep.planes.values()), policy.device
            yield from verdicts.memo.get(
                "rules elsewhere", inputs, partial(_elsewhere, verdicts.sweep, policy, rule, covered)
            )
    yield from risky_answers(site)


def _idle(verdicts: Verdicts, policy: Policy) -> Iterator[Finding]:
    """Rules that could go: others take all they speak of, would decide the same, or nothing comes by."""
    device = next(d for d in verdicts.sweep.site.design.devices if d.name == policy.device)
    assert isinstance(device, Firewall)
    works = works_of(verdicts.sweep, verdicts.memo, device.name)
    place = {r.name: i for i, r in enumerate(policy.rules)}

    def in_order(names: set[str]) -> list[RuleLine]:
        return [policy.rules[i] for i in sorted(place[n] for n in names)]

    logged = {f"{policy.pointer}/rules/{i}" for i, r in enumerate(device.rules) if r.log}  # these say what they stop
    hours = {r.name for r in device.rules if r.when is not None}  # out of them, rules below decide
    for rule in policy.rules:
        work = works[rule.pointer]
        if hours & (work.taken_by | work.instead):
            continue
        mend = [{"op": "remove", "path": rule.pointer}]
        which = {"device": policy.device, "rule": rule.name}
        if work.word == "nothing" and work.taken_by:
            taken_by = in_order(work.taken_by)
            names = [r.name for r in taken_by]
            first = next((r.pointer for r in in_order(work.opposed_by)), None)
            takers = tuple(r.pointer for r in taken_by)
            if first is not None:  # one of the two is meant otherwise: the narrower one first is what people forget
                above = [{"op": "move", "from": rule.pointer, "path": first}]
                out = Choice(EditDoes("takes-idle-rule-out"), mend)
                yield finding(
                    Says.RULE_SHADOWED_AGAINST,
                    rule.pointer,
                    *takers,
                    mend=above,
                    also=(out,),
                    others=names,
                    values=which,
                )
            else:
                yield finding(Says.RULE_SHADOWED, rule.pointer, *takers, mend=mend, others=names, values=which)
        elif work.word == "redundant" and not (rule.pointer in logged and rule.action != "permit"):
            yield finding(Says.RULE_REDUNDANT, rule.pointer, mend=mend, others=sorted(work.instead), values=which)
        elif work.word == "unmet":
            yield finding(Says.RULE_UNMET, rule.pointer, values=which)


def outside_zones(site: Site, policy: Policy) -> set[str]:
    """Return the zones by which a firewall sends to addresses behind an outside."""
    out: set[str] = set()
    for group in site.net.hosts:
        spans = site.net.host_spans(group) if group.behind else []
        for (device, _), table in site.net.tables.items():
            if device == policy.device and spans:
                winner = look_up(table, number_to_address(group.subnet.version, spans[0][0])).winner
                zone = site.net.by_name[device, winner.interface].zone if winner and winner.interface else None
                out |= {zone} if zone else set()
    return out


def _wide(policy: Policy, rule: RuleLine, outside: set[str]) -> Iterator[Finding]:
    if rule.action != "permit":
        return
    every = all(holds_address(s, 4, n) for s in (rule.sources, rule.destinations) for n in (0, 2**32 - 1))
    if rule.from_zones is None and rule.to_zones is None and every and rule.services is None:
        yield finding(Says.RULE_ANY, rule.pointer, device=policy.device, rule=rule.name)
    elif rule.to_zones is None and outside and holds_address(rule.destinations, 4, 2**32 - 1):
        yield finding(
            Says.RULE_COVERS_OUTSIDE, rule.pointer + "/to", device=policy.device, rule=rule.name, zones=sorted(outside)
        )


def _elsewhere(sweep: Sweep, policy: Policy, rule: RuleLine, covered: dict[Span, list[HostGroup]]) -> list[Finding]:
    """A rule about addresses whose traffic never meets the firewall: switched in one segment, or routed behind it."""
    site = sweep.site
    sides = [_covered(site, s, covered) for s in (rule.sources, rule.destinations)]
    if not all(sides):
        return []
    told: list[list[str]] = []
    for one in sides[0]:
        for two in sides[1]:
            if (one is two and one.endpoint) or one.subnet.version != two.subnet.version:
                continue
            where = _meets(sweep, policy.device, one, two)
            if where is None:
                return []  # some of it does meet the firewall
            told.append(where)
    if not told:
        return []
    first, which = told[0], {"device": policy.device, "rule": rule.name}
    if len(first) == 1:
        return [finding(Says.RULE_SWITCHED, rule.pointer, segment=first[0], values=which)]
    return [finding(Says.RULE_ELSEWHERE, rule.pointer, source=first[0], target=first[1], values=which)]


def _covered(site: Site, spans: frozenset[Span], known: dict[Span, list[HostGroup]]) -> list[HostGroup]:
    """Return the host groups inside some spans; none where the spans reach further than the site's own subnets."""
    out: list[HostGroup] = []
    for span in spans:
        if span not in known:
            known[span] = site.net.hosts_in(*span)
        if not known[span]:
            return []
        out += known[span]
    return out


def _meets(sweep: Sweep, firewall: str, one: HostGroup, two: HostGroup) -> list[str] | None:
    """Return where traffic goes instead: the segment it is switched in, or the two it is routed between; None where it meets the firewall or gets nowhere at all."""
    site = sweep.site
    names = [site.segments.all[g.segment].name for g in (one, two)]
    if one.segment == two.segment:
        return names[:1]
    family = sweep.families[one.subnet.version]
    number = site.net.host_spans(two)[0][0]
    goal = family.plane.classes.class_of(number)
    paths = family.forwarding.from_group(one, goal)
    if not paths or not all(p.arrived and not p.touched for p in paths) or any(firewall in p.firewalls for p in paths):
        return None
    if any(p.end is None for p in paths):
        return None
    return names


def risky_answers(site: Site) -> Iterator[Finding]:
    """Management services of a box that visitors or strangers can ask, each shown by a packet that gets its answer."""
    for interface in site.net.interfaces:
        answers = site.policies.answered_by(interface)
        foreign = isinstance(site.net.devices[interface.device], Outside)
        if answers is None or foreign or not interface.up or not interface.addresses:
            continue
        open_ = [n for n, s in MANAGEMENT.items() if holds_service(answers.services, s)]
        for group in strangers(site) if open_ else ():
            asked = answered(site, interface, answers, group, MANAGEMENT[open_[0]])
            if asked:
                who = site.segments.all[group.segment].name
                mend = (
                    _without(site, interface.device, answers, open_) if answers.name else _pings_only(site, interface)
                )
                places = (answers.pointer, interface.pointer)
                seen = {"interface": interface.label, "segment": who, "address": asked}
                if answers.services is None:
                    yield finding(Says.ANSWERS_EVERYTHING, *places, mend=mend, values=seen)
                else:
                    yield finding(Says.ANSWERS_RISKY, *places, mend=mend, services=open_, values=seen)
                break


def strangers(site: Site) -> Iterator[HostGroup]:
    """Yield the hosts of visitors, and those behind outsides."""
    visiting = {n for v in site.design.vlans if v.purpose == "visitors" for n in v.subnets}
    networks = [parse_prefix(n) for n in visiting]
    for group in site.net.hosts:
        outside = group.behind and isinstance(site.net.devices[group.behind], Outside)
        if outside or any(group.subnet.version == n.version and group.subnet == n for n in networks):
            yield group


def _pings_only(site: Site, interface: L3Interface) -> list[dict[str, object]]:
    """Return the edit that gives an interface without a list one that answers pings."""
    at = site.item_of(interface.device)
    box = site.net.devices[interface.device]
    known = [a.name for a in box.answers] if isinstance(box, BridgingBox) else []
    name = next(n for n in ("ping-only", *(f"ping-only-{k}" for k in range(2, 99))) if n not in known)
    entry = {"name": name, "services": ["ping"]}
    path = f"{at}/answers/-" if known else f"{at}/answers"
    made: list[dict[str, object]] = [{"op": "add", "path": path, "value": entry if known else [entry]}]
    return [*made, {"op": "add", "path": f"{interface.pointer}/answers", "value": name}]


def _without(site: Site, box: str, answers: AnswerList, names: list[str]) -> list[dict[str, object]] | None:
    """Return the edit that takes the services out of the list, where they stand there by name."""
    lists = (a for d in site.design.devices if isinstance(d, BridgingBox) and d.name == box for a in d.answers)
    written: list[str] = next(a.services for a in lists if a.name == answers.name)
    ports = {f"tcp/{MANAGEMENT[n][1]}" for n in names}
    rest = [s for s in written if s not in names and s not in ports]
    if not rest or len(written) - len(rest) < len(names):
        return None
    return [{"op": "replace", "path": f"{answers.pointer}/services", "value": rest}]
