"""Verdicts for pairs of segments: all, some or none, with the first thing that stops the rest and the items that decide it."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from anabasis.allpairs import HOST, ForwardingClasses, PairSpace, Sweep, Tally, Zones
from anabasis.classes import Box, FlowSet, Mask, Numbers, prefix_cover, readable_addresses, service_texts
from anabasis.design.devices import Firewall
from anabasis.design.notation import Address, Network, parse_address, parse_prefix
from anabasis.fabric import Segment
from anabasis.facts import Cause, Elsewhere, Layer, Passes, Tone, Why, Wrong, because
from anabasis.memo import Memo, Same
from anabasis.once import once
from anabasis.patience import Work, through
from anabasis.policy import Service, ServiceSpan, holds_address
from anabasis.routing import HostGroup, Intervals, look_up, merge
from anabasis.site import Place, host_place, number_to_address, published_place
from anabasis.trace import SYMPTOMS, Walk, walk
from anabasis.verdicts.rules_met import RulesMet, rules_between, rules_met
from anabasis.wording import because_of

PREFERRED = ((6, 443), (1, 8), (58, 128), (17, 53), (6, 80))
"""Where a concrete service is wanted: https, ping, dns and http come first."""
Asked = frozenset[ServiceSpan] | None
"""The services something is about; None = all."""


JUDGED = 600
"""Up to how many lost pairs all are walked for the findings."""
FEW, FEW_ON_LINK = 3, 12
"""How many of pairs that are most likely lost for one cause are judged. On a link rules come first for most of them, and there are few links."""
ON_LINK = 3
POLICY_LAYERS = ("rule", "nat", "answers")
"""Layers that stop flows on purpose."""


@dataclass(frozen=True)
class Question:
    """What is asked of every pair."""

    services: frozenset[ServiceSpan] | None = None
    family: int | None = None


@dataclass(frozen=True)
class Verdict:
    """The answer for one ordered pair of segments."""

    source: str
    target: str
    verdict: Passes
    layer: Layer | None
    why: Why
    decided_by: tuple[str, ...]
    tone: Tone

    @property
    def cause(self) -> Cause | None:
        """Return what stops the rest."""
        return self.why if isinstance(self.why, Cause) else None

    @property
    def reason(self) -> str:
        """Return why, for a person."""
        return because_of(self.why)


@dataclass(frozen=True)
class Shown:
    """One flow of a pair, walked."""

    walk: Walk
    source: Place
    target: Place
    service: Service


@dataclass(frozen=True)
class _Judged:
    """A verdict with what it was read from, the forwarding plane aside."""

    verdict: Verdict
    fingerprint: int
    met: dict[Zones, RulesMet]


class _LostPlaces:
    """Which pairs are most likely lost for one cause, in one family."""

    def __init__(self, fecs: ForwardingClasses, devices: set[str], segments: int) -> None:
        self._names, self._codes = fecs.lost_places
        here, first = np.unique(fecs.segment, return_index=True)
        self._at = np.full(segments, -1, dtype=np.intp)
        self._at[here] = np.arange(len(here))
        alike, sorts = fecs.plane.alike[fecs.place], dict[Hashable, int]()
        told = [tuple(np.unique(x).tolist()) for x in np.split(alike, first[1:])] if len(alike) else []
        self.sort = np.full(segments, -1, dtype=np.intp)
        """int[segment]: the same where every box sends alike to its hosts, and translations do not tell them apart; -1 = none stands there."""
        self.sort[here] = [sorts.setdefault(t, len(sorts)) for t in told]
        kinds = [0 if not name else 1 if name == HOST else 2 if name in devices else ON_LINK for name in self._names]
        self._kind = np.array(kinds, dtype=np.intp)

    def alike(self, sources: Numbers, targets: Numbers) -> tuple[Numbers, Mask]:
        """Return int[pair]: the same number for pairs that are lost at one place, -1 where nothing is lost; and bool[pair]: on a link.

        In a box it makes a difference where they were going, but not among segments to which every box sends alike; on a link it makes none;
        a host that sends nothing is a place of its own. What is lost nowhere is a matter of both.
        """
        one, two = self._at[sources], self._at[targets]
        here = np.flatnonzero((one >= 0) & (two >= 0))
        out, on_link = np.full(len(sources), -1, dtype=np.intp), np.zeros(len(sources), dtype=bool)
        code = self._codes[one[here], two[here]].astype(np.intp)
        here, code = here[code >= 0], code[code >= 0]
        back = code % 2 == 1  # the reply is lost
        sender, goal = (np.where(back, x[here], y[here]) for x, y in ((targets, sources), (sources, targets)))
        many = len(self._at) + 1
        ends = [(self.sort[sender] + 1) * many + self.sort[goal] + 1, sender, self.sort[goal] + 1, 0 * goal]
        out[here] = code * many**2 + np.choose(self._kind[code // 2], ends)
        on_link[here] = self._kind[code // 2] == ON_LINK
        return out, on_link


def _first_few(groups: Numbers, most: Numbers, rank: Numbers) -> Numbers:
    """Return, sorted, where the first of every group stand, `most` of them, those of higher rank before others. `groups`, `most`, `rank`: int[n]."""
    order = np.lexsort((-rank, groups))
    starts = np.flatnonzero(np.diff(groups[order], prepend=groups[order][:1] - 1))
    sizes = np.diff(np.append(starts, len(order)))
    place = np.arange(len(order)) - np.repeat(starts, sizes)
    return np.sort(order[place < most[order]])


class Verdicts:
    """All verdicts of a sweep for one question, each judged when it is first asked for."""

    def __init__(self, sweep: Sweep, question: Question | None = None, memo: Memo | None = None) -> None:
        """`memo`: what is known of other states; a pair of which nothing has changed is not judged again."""
        self.sweep, self.question = sweep, question or Question()
        self.memo = memo if memo is not None else Memo()
        self._ground = Same(*sweep.planes.values())
        self._known: dict[tuple[int, int], Verdict] = {}
        self._services: dict[tuple[int, Asked], Service] = {}
        self._named: dict[tuple[int, int], list[int]] = {}
        self._rules: dict[Zones, RulesMet] = {}
        self._mask = sweep.services.mask(self.question.services)

    def judge(self, a: int, b: int) -> Verdict:
        """Return the verdict for one pair."""
        if (a, b) not in self._known:
            self._known[a, b] = self._remembered(a, b)
        return self._known[a, b]

    def _remembered(self, a: int, b: int) -> Verdict:
        """Return the verdict of a pair; where its flows are what they were, and so are the rules that its shown packet met, that of then."""
        if not self.sweep.made:  # one pair is told before all pairs are
            return self._judge(a, b)[0]
        key = self._ground, self.question, a, b
        known: _Judged | None = self.memo.find("verdict", key)
        print_ = int(self.sweep.fingerprints[a, b])
        if known is not None and known.fingerprint == print_ and self.as_met(known.met):
            return known.verdict
        verdict, shown = self._judge(a, b)
        met = rules_met(self.sweep.site.policies, shown.walk) if shown is not None else None
        if met is not None:
            self.memo.put("verdict", key, _Judged(verdict, print_, met))
        return verdict

    @property
    def ground(self) -> Same:
        """Return the forwarding planes, as an input."""
        return self._ground

    def as_met(self, met: dict[Zones, RulesMet]) -> bool:
        """Tell whether the rules at some crossings are what they were when a packet met them."""
        for crossing, known in met.items():
            if crossing not in self._rules:
                self._rules[crossing] = rules_between(self.sweep.site.policies, crossing)
            if self._rules[crossing] is not known and self._rules[crossing] != known:
                return False
        return True

    @once
    def tally(self) -> Tally:
        """Return the answer for every ordered pair, as arrays."""
        return self.sweep.tally(self.question.services, self.question.family)

    @once
    def lost(self) -> list[Verdict]:
        """Return the verdicts of the pairs that something below the rules may stop, in the order of segments.

        Of more than `JUDGED` only some: a few of those that are lost at one place, and so most likely for one cause; those first that rules most
        likely let come so far.
        """
        pairs = [(a, b) for a, b in np.argwhere(self.tally.known & ~self.tally.led).tolist() if a != b]
        if len(pairs) > JUDGED:
            told = np.array(pairs, dtype=np.intp)
            pairs = [pairs[k] for k in _first_few(*self._lost_alike(told), self._let_near(told)).tolist()]
        return [self.judge(a, b) for a, b in through(pairs, Work.PAIRS)]

    def _let_near(self, pairs: Numbers) -> Numbers:
        """Return int[pair]: with how many segments in the zone of the one rules let the other speak: where with many, rules most likely do not come first."""
        zones: dict[str | None, int] = {}
        zone = np.array([zones.setdefault(z, len(zones)) for z in self.sweep.site.zones], dtype=np.intp)
        let = np.zeros((len(zone), len(zones)), dtype=np.intp)
        for k in range(len(zones)):
            let[:, k] = self.tally.some[:, zone == k].sum(axis=1)
        one, two = pairs.T
        near: Numbers = let[one, zone[two]] + let[two, zone[one]]
        return near

    def _lost_alike(self, pairs: Numbers) -> tuple[Numbers, Numbers]:
        """Return int[pair]: the same number for pairs that are most likely lost for one cause; and how many of those to judge. `pairs`: int[pair, 2]."""
        sources, targets = pairs.T
        count, devices = len(self.sweep.site.segments.all), set(self.sweep.site.net.devices)
        places = [_LostPlaces(f.plane.fecs, devices, count) for f in self.sweep.families.values()]
        told, on_link = zip(*(p.alike(sources, targets) for p in places), strict=True)
        sorts = [p.sort[ends] for ends in (sources, targets) for p in places]
        # where nothing is lost a translation leads there, and leaves something out
        rows = np.array([*told, *(np.where(np.max(told, axis=0) < 0, s, -1) for s in sorts)], dtype=np.intp)
        groups: Numbers = np.unique(rows, axis=1, return_inverse=True)[1].ravel()
        return groups, np.where(np.any(on_link, axis=0), FEW_ON_LINK, FEW)

    @once
    def all(self) -> list[Verdict]:
        """Return every ordered pair of different segments, in the order of segments."""
        return [self.judge(a, b) for a, b in through(self.sweep.pairs, Work.PAIRS)]

    def flows(self, a: int, b: int) -> FlowSet:
        """Return the exact flows of a pair."""
        return self.sweep.flows(a, b, self.question.services, self.question.family)

    def written(self, a: int, b: int) -> list[dict[str, list[str]]]:
        """Return the exact flows of a pair as prefixes and services (command-line promise, `flows`)."""
        return write_flows(self.sweep, a, b, self.flows(a, b))

    def as_dict(self) -> dict[str, object]:
        """Return everything for JSON (command-line promise, `reach`)."""
        pairs = [
            {
                "from": v.source,
                "to": v.target,
                "verdict": v.verdict,
                "layer": v.layer,
                "reason": v.reason,
                "decided_by": list(v.decided_by),
                "flows": self.written(a, b),
            }
            for (a, b), v in zip(self.sweep.pairs, self.all, strict=True)
        ]
        return {"segments": [s.name for s in self.sweep.site.segments.all], "pairs": pairs}

    def _judge(self, a: int, b: int) -> tuple[Verdict, Shown | None]:
        """Return the verdict, and the flow it was told by; None where there is no flow to tell it by."""
        names = self.sweep.site.segments.all[a].name, self.sweep.site.segments.all[b].name
        spaces = self._spaces(a, b)
        if not spaces:
            return self._empty(a, b), None
        verdict = self._passes(a, b, spaces)
        shown = self.show(a, b, stopped=verdict != "all")
        if shown is None:
            return Verdict(*names, verdict, None, "nothing-asked", (), "open"), None
        layer, why = shown.walk.layer, _why(shown, verdict)
        if verdict == "all":
            layer = None
        elif shown.walk.outcome != "stopped":
            layer = Layer.NAT
        tone: Tone = "open" if verdict != "none" else self._tone(shown.walk)
        return Verdict(*names, verdict, layer, why, shown.walk.decided_by, tone), shown

    def _passes(self, a: int, b: int, spaces: list[PairSpace]) -> Passes:
        """Return whether all, some or none of what is asked passes: from the tally, where all pairs have been told."""
        if self.sweep.made:
            return "all" if self.tally.full[a, b] else "some" if self.tally.some[a, b] else "none"
        asked = [s.allowed[:, :, self._asked(s)] for s in spaces]
        whole = all(x[:, s.real].all() for s, x in zip(spaces, asked, strict=True))
        return "all" if whole else "some" if any(x.any() for x in asked) else "none"

    def _tone(self, stopped: Walk) -> Tone:
        """Tell policy from breakage: what a rule stops is closed, what an outside has no way to is apart, all else is broken."""
        if stopped.layer in POLICY_LAYERS:
            return "closed"
        kinds = {d.name: d.kind for d in self.sweep.site.design.devices}
        ended = stopped.steps[-1].device if stopped.steps and stopped.layer != "return" else ""
        not_sent = stopped.cause is not None and stopped.cause.root.wrong == Wrong.TUNNEL_SELECTORS
        if not_sent or self._kept_hidden(stopped):
            return "apart"
        symptom = stopped.cause is not None and stopped.cause.root.wrong in SYMPTOMS
        return "apart" if symptom and kinds.get(ended) == "outside" else "broken"

    def _kept_hidden(self, stopped: Walk) -> bool:
        """Tell whether no route leads to hosts that their own firewall hides behind a translation: nobody was meant to come to them.

        One that is switched off says so as well, and one whose sources leave them out, though it is for their zone.
        """
        cause = stopped.cause
        if cause is None or cause.layer == Layer.RETURN or cause.root.wrong != Wrong.NO_ROUTE:
            return False
        address, terms = parse_address(str(cause.root.value("address"))), self.sweep.site.policies.terms
        return any(
            entry.source_to is not None
            and (
                holds_address(terms.addresses(entry.sources), address.version, int(address))
                or not set(entry.from_).isdisjoint(self._zones_towards(device.name, address))
            )
            for device in self.sweep.site.design.devices
            if isinstance(device, Firewall) and device.name != cause.root.value("device")
            for entry in device.nat
        )

    def _zones_towards(self, device: str, address: Address) -> set[str]:
        """Return the zones that a box's tables lead into, on the way to an address."""
        net = self.sweep.site.net
        found = [look_up(table, address).winner for (box, _), table in net.tables.items() if box == device]
        out = [net.by_name.get((device, route.interface or "")) for route in found if route is not None]
        return {interface.zone for interface in out if interface is not None and interface.zone is not None}

    def _spaces(self, a: int, b: int) -> list[PairSpace]:
        wanted = (None, self.question.family) if self.question.family else (None, 4, 6)
        return [s for s in self.sweep.pair(a, b) if s.family in wanted and len(self._asked(s))]

    def _asked(self, space: PairSpace) -> npt.NDArray[np.intp]:
        """Return int[asked]: the service atoms the question is about, of those the family can carry."""
        return np.flatnonzero(self._mask & space.possible)

    def _empty(self, a: int, b: int) -> Verdict:
        """No host of one family stands on both sides."""
        one, two = (self.sweep.site.segments.all[k] for k in (a, b))
        groups = self.sweep.site.net.groups_of
        for segment, index in ((one, a), (two, b)):
            if not segment.attachments:  # nobody stands where nobody can: no layer is to blame
                return Verdict(one.name, two.name, "none", None, "nobody-can-stand-there", (segment.pointer,), "apart")
            if not groups[index]:
                cause = self._without_address(segment) or because(
                    Layer.GATEWAY, Wrong.SWITCHED_ONLY, segment.pointer, segment=segment.name
                )
                return self._nobody(a, b, cause)
        lacking = next((s for s, k in ((one, a), (two, b)) if not self._has_family(k)), one)
        full = next((s for s, k in ((one, a), (two, b)) if not self._has_free_address(k)), None)
        if full:
            held = self._contested(full)
            return self._nobody(a, b, held or because(Layer.GATEWAY, Wrong.FULL, full.pointer, segment=full.name))
        return self._nobody(a, b, because(Layer.GATEWAY, Wrong.NO_FAMILY, lacking.pointer, segment=lacking.name))

    def _nobody(self, a: int, b: int, cause: Cause) -> Verdict:
        names = self.sweep.site.segments.all[a].name, self.sweep.site.segments.all[b].name
        calm = (Wrong.SWITCHED_ONLY, Wrong.NO_FAMILY, Wrong.FULL)
        tone: Tone = "apart" if cause.root.wrong in calm else "broken"
        return Verdict(*names, "none", cause.layer, cause, cause.pointers, tone)

    def _without_address(self, segment: Segment) -> Cause | None:
        """Return why the one client of a segment has no address."""
        attachments = {(t.device, t.name) for t in segment.attachments}
        return next(
            (h.cause for k, h in self.sweep.site.handed.items() if k in attachments and h.cause is not None), None
        )

    def _contested(self, segment: Segment) -> Cause | None:
        groups = self._groups(self.sweep.site.segments.by_name[segment.name])
        held = self.sweep.site.net.contested
        return next((held[g.first] for g in groups if g.endpoint and g.first in held), None)

    def _has_free_address(self, segment: int) -> bool:
        return any(self.sweep.site.net.host_spans(g) for g in self._groups(segment))

    def _has_family(self, segment: int) -> bool:
        return any(g.subnet.version == self.question.family for g in self.sweep.site.net.groups_of[segment])

    def show(self, a: int, b: int, stopped: bool) -> Shown | None:
        """Walk one flow of a pair that passes, or one that is stopped: what no route carries comes before what a rule stops."""
        for lost_only in (True, False) if stopped else (False,):
            for space in self._spaces(a, b):
                asked = self._asked(space)
                if lost_only:  # and so not allowed either
                    lost = space.real[None, :] & ~space.routed
                    wanted = np.broadcast_to(lost[:, :, None], (*lost.shape, len(asked)))
                else:
                    wanted = space.allowed[:, :, asked] ^ stopped
                    wanted = wanted & space.real[None, :, None] if stopped else wanted
                if wanted.any():
                    s, d, v = self.telling_flow(a, b, space, asked, wanted)
                    service = self.service(int(asked[v]))
                    source = self.place(a, space.family, int(space.sources[s]))
                    target = self.place(b, space.family, int(space.destinations[d]))
                    return Shown(walk(self.sweep.site, source, target, service), source, target, service)
        return None

    def telling_flow(
        self, a: int, b: int, space: PairSpace, asked: Numbers, wanted: Mask, among: Asked = None
    ) -> tuple[int, int, int]:
        """Return which of some flows of a pair to tell it by: the same however finely classes are cut.

        `asked`: int[asked], service atoms; `wanted`: bool[source, destination, asked], with some flow in it; `among`: the services it is about.
        """
        v = self._telling(asked, np.asarray(wanted.any(axis=(0, 1))), among)
        s = self._first(a, space.family, space.sources, np.asarray(wanted[:, :, v].any(axis=1)))
        d = self._first(b, space.family, space.destinations, np.asarray(wanted[s, :, v]))
        return s, d, v

    def _first(self, segment: int, family: int, classes: Numbers, able: Mask) -> int:
        """Return which of some classes to show, of those that are able: that of a host one would name first, else of the lowest address.

        However finely classes are cut, it is the same address.
        """
        intervals = self.sweep.families[family].classes.intervals
        able_ones = np.flatnonzero(able).tolist()
        for value in self._named_first(segment, family):
            held = [k for k in able_ones if any(x <= value <= y for x, y in intervals[classes[k]])]
            if held:
                return int(held[0])
        return int(min(able_ones, key=lambda k: intervals[classes[k]][0][0]))

    def _named_first(self, segment: int, family: int) -> list[int]:
        """Return the addresses, as numbers, of the hosts of a segment that one would name first, one a group."""
        if (segment, family) not in self._named:
            mine = (host_place(self.sweep.site, g) for g in self._groups(segment) if g.subnet.version == family)
            self._named[segment, family] = [int(p.address) for p in mine if p is not None]
        return self._named[segment, family]

    def service(self, atom: int, among: Asked = None) -> Service:
        """Return one concrete service of an atom that the question is about, or that is among some."""
        key = atom, among if among is not None else self.question.services
        if key not in self._services:
            self._services[key] = self._service(*key)
        return self._services[key]

    def _service(self, atom: int, among: Asked) -> Service:
        mask = np.zeros(len(self.sweep.services.atoms), dtype=bool)
        mask[atom] = True
        spans = self.sweep.services.spans(mask, among)
        known = [s for s in PREFERRED if any(p == s[0] and low <= s[1] <= high for p, low, high in spans)]
        return known[0] if known else spans[0][:2]

    def _telling(self, asked: npt.NDArray[np.intp], able: Mask, among: Asked) -> int:
        """Return which of the asked atoms to show: one with a service everybody knows, else that of the lowest service."""
        rank = {s: k for k, s in enumerate(PREFERRED)}
        services = {int(v): self.service(int(asked[v]), among) for v in np.flatnonzero(able)}
        return min(services, key=lambda v: (rank.get(services[v], len(rank)), services[v]))

    def place(self, segment: int, family: int, number: int) -> Place:
        """Return one host of a segment whose address is of a class."""
        value = self.sweep.families[family].classes.intervals[number][0][0]
        address = number_to_address(family, value)
        for group in self._groups(segment):
            if group.subnet.version == family and any(
                x <= value <= y for x, y in self.sweep.site.net.host_spans(group)
            ):
                preferred = host_place(self.sweep.site, group)
                if preferred and self._same_class(family, number, int(preferred.address)):
                    return preferred
                found = host_place(self.sweep.site, group, address)
                assert found is not None
                return found
        return published_place(address, segment)

    def _same_class(self, family: int, number: int, value: int) -> bool:
        return any(x <= value <= y for x, y in self.sweep.families[family].classes.intervals[number])

    def _groups(self, segment: int) -> list[HostGroup]:
        return self.sweep.site.net.groups_of[segment]


def _why(shown: Shown, verdict: Passes) -> Why:
    """Return why a pair is not wholly open, by the flow that is shown; or that it is."""
    if verdict == "all":
        return "every-flow-passes"
    if shown.walk.cause is not None:
        return shown.walk.cause
    assert shown.walk.arrival is not None
    return Elsewhere(str(shown.target.address), shown.walk.arrival)


def _side(sweep: Sweep, segment: int, family: int, answering: bool) -> tuple[Intervals, list[Network]]:
    """Return the addresses of one side of a pair and its subnets; of the side that answers also what is translated into it."""
    groups = [g for g in sweep.site.net.groups_of[segment] if g.subnet.version == family]
    own = (i for g in groups for i in sweep.site.net.host_spans(g))
    hosts = merge((*own, *(sweep.families[family].published if answering else ())))
    subnets = [parse_prefix(n) for n in sweep.site.segments.all[segment].subnets]
    return hosts, [n for n in subnets if n.version == family]


def write_flows(sweep: Sweep, a: int, b: int, flows: FlowSet) -> list[dict[str, list[str]]]:
    """Write flows between two segments as prefixes and services, exact for every host."""
    return [_written(sweep, a, b, box) | {"services": service_texts(box.services, box.family)} for box in flows.boxes]


def read_flows(sweep: Sweep, a: int, b: int, flows: FlowSet) -> list[dict[str, str]]:
    """Write flows between two segments for a person: `any except …` where that is shorter."""
    return [
        {
            "sources": readable_addresses(box.sources, *_side(sweep, a, box.family, False), box.family),
            "destinations": readable_addresses(box.destinations, *_side(sweep, b, box.family, True), box.family),
            "services": sweep.called(box.services, box.family),
        }
        for box in flows.boxes
    ]


def _written(sweep: Sweep, a: int, b: int, box: Box) -> dict[str, list[str]]:
    return {"sources": prefix_cover(box.sources, *_side(sweep, a, box.family, False), box.family),
            "destinations": prefix_cover(box.destinations, *_side(sweep, b, box.family, True), box.family)}  # fmt: skip
