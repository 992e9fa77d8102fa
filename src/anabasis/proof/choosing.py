"""Which packets to send: of every pair of segments what passes and what does not, and of every rule, route, translation and answer both sides of its border."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from itertools import product
from typing import Any

from anabasis.design.devices import Firewall, Outside
from anabasis.design.notation import FAMILY_OF, PROTOCOLS
from anabasis.facts import (
    Arrives,
    Cause,
    Covers,
    FollowsRoute,
    Met,
    NotProved,
    OverCable,
    Permits,
    ProofProbe,
    Receives,
    Stops,
    Translates,
    Wrong,
)
from anabasis.policy import Service
from anabasis.site import Place, Site, find_place, host_place
from anabasis.trace import Walk, walk
from anabasis.verdicts import read_services

PING, PING6 = (PROTOCOLS["icmp"], 8), (PROTOCOLS["icmpv6"], 128)
USUAL: tuple[Service, ...] = (PING, PING6, (6, 443), (17, 53))
MOST_TRIES = 400
"""How many packets are looked at for one that an entry decides over."""
SENT = {6, 17}
NAMES = {6: "tcp", 17: "udp", 1: "icmp", 58: "icmpv6"}
LISTS = (("rules", Covers.RULE), ("nat", Covers.TRANSLATION))
LUCK = frozenset({Wrong.HELD_TWICE})


@dataclass
class Chosen:
    """Probes, and what was left out."""

    probes: list[ProofProbe] = field(default_factory=list)
    left_out: dict[NotProved, int] = field(default_factory=dict)
    behind: dict[str, set[str]] = field(default_factory=dict)
    """Outside -> addresses of it that probes speak of."""
    there: dict[Covers, set[str]] = field(default_factory=dict)
    """What there is to be met: pointers."""


@dataclass(frozen=True)
class _End:
    name: str
    """Whose namespace it is."""
    at: str
    place: Place
    segment: str


def choose(
    site: Site, stands: dict[str, str], unproved: dict[str, list[str]], pairs: Sequence[tuple[str, str]] = ()
) -> Chosen:
    """Return few probes that meet much. `stands`: laptop -> where it stands. `pairs`: of these segments alone, all there is to ask of them.

    Cost: a walk a sender, target and usual service, and `MOST_TRIES` a rule and a translation.
    """
    work = _Choosing(site, stands, unproved, pairs)
    for sender, target in work.ends():
        for service in USUAL if not pairs else dict.fromkeys([*USUAL, *_of_rules(site)]):
            work.tries(sender, target, service)
    for d, device in enumerate(site.design.devices):
        for key, kind in LISTS:
            for k, entry in enumerate(getattr(device, key, [])):
                if entry.enabled:
                    work.borders(Met(kind, f"/devices/{d}/{key}/{k}", False), device, entry)
    return work.out


class _Choosing:
    def __init__(
        self, site: Site, stands: dict[str, str], unproved: dict[str, list[str]], pairs: Sequence[tuple[str, str]]
    ) -> None:
        self.site, self.pairs = site, pairs
        self.out = Chosen(there=_there(site))
        self.senders, self.targets = list(_senders(site, stands)), list(_targets(site))
        self.lame = {NotProved(k): set(v) for k, v in unproved.items()}
        self.met: set[object] = set()
        self.beside: dict[str, list[str]] = {}
        """Route -> the routes of the same table: a packet that follows the one passes by the others."""
        for table in site.net.tables.values():
            active = [r.pointer for r in table.routes if r.active]
            self.beside |= {p: active for p in active}

    def ends(self) -> Iterator[tuple[_End, _End]]:
        """Yield who may ask whom."""
        for sender, target in product(self.senders, self.targets):
            one, two = sender.place.address, target.place.address
            if (
                one.version == two.version
                and one != two
                and (not self.pairs or (sender.segment, target.segment) in self.pairs)
            ):
                yield sender, target

    def tries(self, sender: _End, target: _End, service: Service, beside: Met | None = None) -> frozenset[str]:
        """Return what decides over a packet; it becomes a probe where it meets something new. `beside`: what it is to be just out of the reach of."""
        if FAMILY_OF.get(service[0], sender.place.address.version) != sender.place.address.version:
            return frozenset()
        went = walk(self.site, sender.place, target.place, service)
        mine = list(_met(went))
        pointers = frozenset(m.item for m in mine)
        if beside is not None and beside.item not in pointers:
            mine.append(beside)
        mine += [
            Met(Covers.ROUTE, p, False)
            for m in list(mine)
            if m.kind == Covers.ROUTE
            for p in self.beside.get(m.item, ())
            if p not in pointers
        ]
        passes = went.outcome != "stopped"
        new = {*mine, (sender.segment, target.segment, passes)} - self.met
        if new or self.pairs:
            reason = _not_proved(went, self.lame)
            if reason is not None:
                self.out.left_out[reason] = self.out.left_out.get(reason, 0) + 1
            else:
                self.met |= new
                _behind(self.site, self.out, sender, target, went)
                self.out.probes.append(_probe(sender, target, service, went, tuple(mine)))
        return pointers

    def borders(self, beside: Met, device: Any, entry: Any) -> None:
        """Look for a packet that an entry decides over, and for one just beside it: of the same two ends, by the ports next to its own."""
        spans = [
            s
            for text in entry.services
            for s in read_services(self.site, text) or ((6, 443, 443), (*PING, 8), (*PING6, 128))
        ]
        tries, pointer = 0, beside.item
        for sender, target in self._near(device, entry):
            for protocol, low, high in spans:
                if tries >= MOST_TRIES:
                    return
                if protocol not in SENT and (protocol, low) not in (PING, PING6):
                    continue
                tries += 1
                if pointer not in self.tries(sender, target, (protocol, low or 1)):
                    continue
                ports = [(protocol, n) for n in (low - 1, high + 1) if protocol in SENT and 0 < n < 65_536]
                found = [pointer not in self.tries(sender, target, s, beside) for s in [*ports, (17, 9), (6, 9)]]
                if not any(found):  # it speaks of every service: somebody else, then
                    others = (t for s, t in self.ends() if s is sender and t is not target)
                    any(pointer not in self.tries(sender, t, (protocol, low or 1), beside) for t in others)
                return

    def _near(self, device: Any, entry: Any) -> Iterator[tuple[_End, _End]]:
        """Yield the ends between which an entry could decide, those in its zones first."""

        def fits(end: _End, zones: list[str]) -> bool:
            at = self.site.zones_at.get(device.name)
            own = end.place.interface.zone if end.place.interface is not None else None
            held = (
                [own]
                if own
                else list(at[end.place.segment])
                if at is not None and end.place.segment is not None
                else []
            )
            return "any" in zones or not held or bool(set(held) & set(zones))

        yield from (e for e in self.ends() if fits(e[0], entry.from_) and fits(e[1], entry.to))


def _probe(sender: _End, target: _End, service: Service, went: Walk, mine: tuple[Met, ...]) -> ProofProbe:
    said = f"{NAMES[service[0]]}/{service[1]}"
    ends = str(sender.place.address), str(target.place.address)
    return ProofProbe(
        sender.name, sender.at, sender.segment, target.segment, *ends, said, went.outcome != "stopped", went.cause, mine
    )


def _senders(site: Site, stands: dict[str, str]) -> Iterator[_End]:
    """Yield who sends: of every segment everybody who stands in it, two at most of a family, and one behind each outside."""
    held: dict[tuple[int, int], int] = {}
    for group in site.net.hosts:
        name = group.endpoint or group.behind
        place = host_place(site, group) if name else None
        key = group.segment, group.subnet.version
        if place is None or group.stray is not None or held.get(key, 0) >= 2:
            continue
        held[key] = held.get(key, 0) + 1
        yield _End(str(name), stands.get(str(name), str(name)), place, site.segments.all[group.segment].name)


def _targets(site: Site) -> Iterator[_End]:
    """Yield who is asked: hosts, boxes' own addresses, and addresses that translations stand for."""
    for group in site.net.hosts:
        name = group.endpoint or group.behind
        place = host_place(site, group) if name else None
        if place is not None and group.stray is None:
            yield _End(str(name), "", place, site.segments.all[group.segment].name)
    for address in site.net.owned:
        found = _found(site, str(address))
        if found is not None:
            yield _End("", "", found, str(found.interface.label if found.interface else address))
    for device in site.design.devices:
        for entry in getattr(device, "nat", []):
            for text in entry.destinations if entry.enabled and (entry.destination_to or entry.service_to) else []:
                found = _found(site, text)
                if found is not None:
                    yield _End("", "", found, text)


def _found(site: Site, text: str) -> Place | None:
    try:
        places = find_place(site, text).places
    except ValueError:
        return None
    return places[0] if len(places) == 1 and "/" not in text else None


def _of_rules(site: Site) -> Iterator[Service]:
    """Yield one service of each that rules speak of."""
    for device in site.design.devices:
        for rule in device.rules if isinstance(device, Firewall) else ():
            for text in rule.services:
                yield from ((p, low or 1) for p, low, _ in read_services(site, text) or () if p in SENT)


def _met(went: Walk) -> tuple[Met, ...]:
    """Return what decided over a packet on its way, and over its reply."""
    out: dict[Met, None] = {}
    for step in (*went.steps, *(went.way_back.steps if went.way_back else ())):
        if isinstance(step, Permits) and step.rule:
            out[Met(Covers.RULE, step.pointer, True)] = None
        elif isinstance(step, FollowsRoute):
            out[Met(Covers.ROUTE, step.pointer, True)] = None
        elif isinstance(step, Translates):
            out[Met(Covers.TRANSLATION, step.pointer, True)] = None
        elif isinstance(step, Arrives) and step.how == "own-address":
            out[Met(Covers.ANSWERS, f"{step.device} {step.place}", True)] = None
        elif isinstance(step, Stops) and step.cause.root.wrong == Wrong.RULE_DROPS:
            out[Met(Covers.RULE, step.cause.root.pointers[0], True)] = None
        elif isinstance(step, Stops) and step.cause.root.wrong in (Wrong.NOT_ANSWERED, Wrong.ANSWERS_NOTHING):
            asked = step.cause.root.known.get("interface", "")
            out[Met(Covers.ANSWERS, str(asked), False)] = None
    return tuple(out)


def _not_proved(went: Walk, lame: dict[NotProved, set[str]]) -> NotProved | None:
    steps = (*went.steps, *(went.way_back.steps if went.way_back else ()))
    for step in steps:
        if isinstance(step, OverCable) and step.over != "cable":
            return NotProved.OVERLAY if step.over == "overlay" else NotProved.TUNNELS
        if isinstance(step, FollowsRoute) and step.equal > 1:
            return NotProved.EQUAL_ROUTES
        if isinstance(step, Receives | FollowsRoute | Stops | Arrives):
            for reason, boxes in lame.items():
                if step.device in boxes and reason in (NotProved.REDUNDANT_GATEWAYS, NotProved.SHARED_PAIRS):
                    return reason
    cause = went.cause
    while isinstance(cause, Cause):
        if cause.wrong in LUCK:
            return NotProved.LUCK
        if str(cause.layer) in ("tunnel", "underlay"):
            return NotProved.TUNNELS
        cause = cause.under
    return None


def _behind(site: Site, out: Chosen, sender: _End, target: _End, went: Walk) -> None:
    outside = {d.name for d in site.design.devices if isinstance(d, Outside)}
    ends = [(sender.name, sender.place.address), (target.name, target.place.address)]
    if went.receiver is not None and went.receiver.group is not None and went.receiver.group.behind:
        ends.append((went.receiver.group.behind, went.receiver.address))
    for name, address in ends:
        if name in outside:
            out.behind.setdefault(name, set()).add(str(address))


def _there(site: Site) -> dict[Covers, set[str]]:
    out: dict[Covers, set[str]] = {k: set() for k in Covers}
    for d, device in enumerate(site.design.devices):
        for key, kind in LISTS:
            out[kind] |= {f"/devices/{d}/{key}/{k}" for k, e in enumerate(getattr(device, key, [])) if e.enabled}
    for table in site.net.tables.values():
        out[Covers.ROUTE] |= {r.pointer for r in table.routes if r.active}
    return out
