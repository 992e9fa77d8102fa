"""The policy of a firewall as a person reads it: zones against zones, the rules in order, translations, and what the box answers to whom."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anabasis.allpairs import Sweep
from anabasis.classes import Mask, unpacked
from anabasis.design.devices import Firewall
from anabasis.design.notation import looks_like_address, parse_address, pointer
from anabasis.design.rules import Rule
from anabasis.errors import UnknownPlace
from anabasis.facts import Decides, Passes
from anabasis.memo import Memo
from anabasis.once import once
from anabasis.policy import Policy, RuleLine, holds_address
from anabasis.verdicts import Classes, RuleWork, read_services, works_of, zone_classes, zone_segments


@dataclass(frozen=True)
class ZoneView:
    """One zone."""

    name: str
    kind: str
    pointer: str
    segments: list[str]
    interfaces: list[str]
    note: str | None


@dataclass(frozen=True)
class ZoneCell:
    """How much one zone may open to another."""

    source: str
    target: str
    opens: Passes
    """`all`, `some` or `none` of what hosts of the one could send to hosts of the other."""
    services: str
    """What passes for some addresses, in words; empty where nothing does."""
    rules: list[int]
    """Which rules speak of the pair, as indexes into the firewall's rules."""
    deciding: int
    """How many of them decide something."""
    default: str
    """What becomes of the rest."""
    kinds_fit: bool
    """Zones of different kinds never meet."""


@dataclass(frozen=True)
class Hours:
    """When a rule is in force, as written."""

    start: str
    duration: str
    repeat: str | None


@dataclass(frozen=True)
class RuleView:
    """One rule as written, and what it decides after those above it."""

    name: str
    pointer: str
    from_zones: list[str]
    to_zones: list[str]
    sources: list[str]
    destinations: list[str]
    services: list[str]
    action: str
    enabled: bool
    log: bool
    note: str | None
    decides: Decides
    shadowed_by: list[str]
    """The names of the rules above that take what it speaks of, where it decides nothing."""
    opposed_by: list[str]
    """Rules above with the opposite action that take some of what it speaks of."""
    spares: list[str]
    """Rules below with the opposite action from which it makes an exception."""
    instead: list[str]
    """Where it is redundant: who would decide the same without it."""
    found: bool
    """Whether it speaks of what is looked for; true where nothing is."""
    when: Hours | None = None


@dataclass(frozen=True)
class NatView:
    """One translation as written."""

    name: str
    pointer: str
    from_zones: list[str]
    to_zones: list[str]
    sources: list[str]
    destinations: list[str]
    services: list[str]
    changes: str
    """What becomes of what, in words."""
    changes_destination: bool
    changes_source: bool
    enabled: bool
    note: str | None


@dataclass(frozen=True)
class FirewallPolicy:
    """The whole policy of one firewall."""

    name: str
    pointer: str
    same_zone: str
    between_zones: str
    zones: list[ZoneView]
    cells: list[ZoneCell]
    rules: list[RuleView]
    nat: list[NatView]


def policies(sweep: Sweep, memo: Memo, look: str = "") -> list[FirewallPolicy]:
    """Return the policy of every firewall, in document order. `look`: an address, a service or part of a name that rules are marked by."""
    out = []
    for d, device in enumerate(sweep.site.design.devices):
        if isinstance(device, Firewall):
            out.append(_Reader(sweep, memo, device, d, look.strip()).read())
    return out


class _Reader:
    def __init__(self, sweep: Sweep, memo: Memo, device: Firewall, d: int, look: str) -> None:
        self.memo = memo
        self.sweep, self.device, self.at, self.look = sweep, device, pointer("devices", d), look
        self.policy: Policy = sweep.site.policies.of[device.name]
        self.kinds = self.policy.zone_kinds
        self.segments = zone_segments(sweep.site, device.name)

    @once
    def _classes(self) -> dict[tuple[int, str], Classes]:
        """Return the address classes of each zone's hosts, by family."""
        return {(v, z): zone_classes(self.sweep, v, self.segments[z]) for v in self.sweep.families for z in self.kinds}

    @once
    def work(self) -> dict[str, RuleWork]:
        """Return what each rule does, by pointer."""
        return works_of(self.sweep, self.memo, self.device.name)

    def read(self) -> FirewallPolicy:
        cells = [self._cell(a, b) for a in self.kinds for b in self.kinds]
        zones = [self._zone(i) for i in range(len(self.device.zones))]
        rules = [self._rule(i) for i in range(len(self.device.rules))]
        nat = [self._nat(i) for i in range(len(self.device.nat))]
        return FirewallPolicy(
            self.device.name, self.at, self.device.same_zone, self.device.between_zones, zones, cells, rules, nat
        )

    def _zone(self, i: int) -> ZoneView:
        zone = self.device.zones[i]
        site = self.sweep.site
        held = [x.name for x in site.net.interfaces if x.device == self.device.name and x.zone == zone.name]
        held += [
            p.settings.name
            for p in site.fabric.ports.values()
            if p.device == self.device.name
            and p.forwarding
            and p.mode in ("bridged", "inline")
            and p.settings.zone == zone.name
        ]
        names = [site.segments.all[k].name for k in self.segments[zone.name] if site.segments.all[k].kind != "transit"]
        return ZoneView(zone.name, zone.kind, f"{self.at}/zones/{i}", names, list(dict.fromkeys(held)), zone.note)

    def _cell(self, a: str, b: str) -> ZoneCell:
        lines = self.policy.lines(a, b)
        rules = sorted({self._number[r.pointer] for r in lines})
        default, _ = self.policy.default(a, b)
        if self.kinds[a] != self.kinds[b]:
            return ZoneCell(a, b, "none", "", rules, 0, default, False)
        passed: list[tuple[int, Mask]] = []
        whole = True
        for family in self.sweep.families.values():
            s, d = (self._classes[family.version, z] for z in (a, b))
            if not len(s) or not len(d):
                continue
            words = family.permits.crossed((self.device.name, a, b), s, d).passed
            space = unpacked(words, len(self.sweep.services.atoms))[:, :, family.possible]
            whole = whole and bool(space.all())
            passed.append((family.version, np.asarray(space.any(axis=(0, 1)))))
        opens: Passes = "all" if passed and whole else "some" if any(m.any() for _, m in passed) else "none"
        return ZoneCell(a, b, opens, self._services(passed), rules, self._deciding(lines), default, True)

    def _deciding(self, lines: list[RuleLine]) -> int:
        """Return how many of some rules decide anything at all."""
        return sum(self.work[r.pointer].decides for r in lines)

    def _services(self, passed: list[tuple[int, Mask]]) -> str:
        texts, told = list[str](), list[int]()
        for version, mask in passed:
            family = self.sweep.families[version]
            whole = np.zeros(len(self.sweep.services.atoms), dtype=bool)
            whole[np.flatnonzero(family.possible)[mask]] = True
            if mask.any():
                told.append(version)
                texts.append(self.sweep.called(self.sweep.services.spans(whole), version))
        if len(set(texts)) < 2:
            return "".join(texts[:1])
        return "; ".join(f"IPv{v} {t}" for v, t in zip(told, texts, strict=True))

    def _rule(self, i: int) -> RuleView:
        rule = self.device.rules[i]
        at = f"{self.at}/rules/{i}"
        work = self.work.get(at, RuleWork())
        above = work.taken_by if rule.enabled and not work.decides else set()
        instead = work.instead if work.word == "redundant" else set()
        return RuleView(
            rule.name, at, list(rule.from_), list(rule.to), list(rule.sources), list(rule.destinations),
            list(rule.services), rule.action, rule.enabled, rule.log, rule.note,
            work.word if rule.stands else "something" if rule.enabled else "off", self._named(above), self._named(work.opposed_by),
            self._named(work.spares), sorted(instead),
            self._speaks(rule), _hours(rule),
        )  # fmt: skip

    @once
    def _number(self) -> dict[str, int]:
        """Return rule number by pointer."""
        return {f"{self.at}/rules/{i}": i for i in range(len(self.device.rules))}

    @once
    def _place(self) -> dict[str, int]:
        """Return rule number by name; names are unique."""
        return {r.name: i for i, r in enumerate(self.device.rules)}

    def _named(self, names: set[str]) -> list[str]:
        return sorted(names & self._place.keys(), key=self._place.__getitem__)

    def _speaks(self, rule: Rule) -> bool:
        """Tell whether a rule speaks of what is looked for: an address it holds, a service it holds, else a part of any word in it."""
        text, terms = self.look, self.sweep.site.policies.terms
        if not text:
            return True
        if looks_like_address(text) and "/" not in text and "-" not in text:
            try:
                address = parse_address(text)
            except ValueError:
                return False
            return any(
                holds_address(terms.addresses(s), address.version, int(address))
                for s in (rule.sources, rule.destinations)
            )
        try:
            asked = read_services(self.sweep.site, text)
        except UnknownPlace:
            words = [
                rule.name,
                rule.note or "",
                *rule.from_,
                *rule.to,
                *rule.sources,
                *rule.destinations,
                *rule.services,
            ]
            return any(text.lower() in w.lower() for w in words)
        own = terms.services(rule.services)
        return (
            own is None
            or asked is None
            or any(a[0] == b[0] and a[1] <= b[2] and b[1] <= a[2] for a in asked for b in own)
        )

    def _nat(self, i: int) -> NatView:
        entry = self.device.nat[i]
        changes: list[str] = []
        if entry.destination_to:
            changes.append(f"destination becomes {entry.destination_to}")
        if entry.service_to:
            changes.append(f"service becomes {entry.service_to}")
        if entry.source_to:
            whom = "the address of the interface it leaves by" if entry.source_to == "interface" else entry.source_to
            changes.append(f"source becomes {whom}" + (", one to one, and back" if entry.one_to_one else ""))
        return NatView(
            entry.name, f"{self.at}/nat/{i}", list(entry.from_), list(entry.to), list(entry.sources),
            list(entry.destinations), list(entry.services), "; ".join(changes) or "nothing changes",
            bool(entry.destination_to or entry.service_to or entry.one_to_one), entry.source_to is not None, entry.enabled, entry.note,
        )  # fmt: skip


def _hours(rule: Rule) -> Hours | None:
    return Hours(rule.when.start, rule.when.duration, rule.when.repeat) if rule.when is not None else None
