"""One event: what fails, who takes over and when, what becomes of sessions, and what reach is lost meanwhile and afterwards."""

from __future__ import annotations

from dataclasses import dataclass, replace

from anabasis.allpairs import Sweep
from anabasis.design import Design
from anabasis.fabric import ALL_WELL, Conditions, Fabric, build_fabric, physical_ports
from anabasis.facts import Decision, MomentKind, Sessions
from anabasis.failover.heartbeat import heartbeats
from anabasis.failover.parts import state_key
from anabasis.failover.refusing import refusals
from anabasis.failover.standing import Standing, at_rest, pairs_of, standings
from anabasis.memo import Memo
from anabasis.site import Site
from anabasis.tunnels import build_site
from anabasis.verdicts import Judged, Verdicts, judge_all, lost_pairs
from anabasis.wording import all_decided, what_happens


@dataclass(frozen=True)
class Loss:
    """One ordered pair of segments that loses flows."""

    source: str
    target: str
    whole: bool
    """Nothing passes any more."""


@dataclass(frozen=True)
class Moment:
    """What flows from one time on."""

    at_ms: int
    what: MomentKind
    decisions: tuple[Decision, ...]
    """What decided about the pairs: of `taken over` about those where another unit is active now."""
    lost: tuple[Loss, ...]
    broken: tuple[str, ...]
    """Expectations that do not hold then, and did before."""

    @property
    def words(self) -> str:
        """Return what happens, as a sentence without its full stop."""
        return what_happens(self.what, self.at_ms, self.decisions)


@dataclass(frozen=True)
class Event:
    """What some failures do to a site with pairs."""

    failed: tuple[str, ...]
    standings: tuple[Standing, ...]
    detect_ms: int | None
    """Until every pair has noticed; 0 = at once; None = nothing has to be noticed, or nobody notices."""
    sessions: Sessions
    moments: tuple[Moment, ...]

    @property
    def why(self) -> str:
        """Return who is active and why, as a sentence without its full stop."""
        return all_decided([s.election.decision for s in self.standings])

    @property
    def settled(self) -> Moment:
        """Return what is left in the end."""
        return self.moments[-1]

    @property
    def active(self) -> tuple[str, ...]:
        """Return the units that are active in the end, each once."""
        return tuple(dict.fromkeys(u for s in self.standings for u in s.election.active))

    @property
    def split_brain(self) -> bool:
        """Tell whether two units of one group are active."""
        return any(s.election.split_brain for s in self.standings)

    def as_dict(self) -> dict[str, object]:
        """Return the event for JSON (command-line promise, `failover`)."""
        return {
            "pair": ", ".join(dict.fromkeys(s.pair for s in self.standings)) or None,
            "active": list(self.active),
            "split_brain": self.split_brain,
            "detect_ms": self.detect_ms,
            "sessions": self.sessions,
            "reach_lost": [{"from": x.source, "to": x.target} for x in self.settled.lost],
        }

    @property
    def harm(self) -> tuple[int, int]:
        """Return what events are sorted by: expectations broken, then pairs of segments that lose flows; in the end."""
        return len(self.settled.broken), len(self.settled.lost)


class WhatIf:
    """Events of one design, against the site with nothing failed. Cost: two sites and sweeps an event, fewer where nothing moves."""

    def __init__(
        self,
        design: Design,
        before: dict[tuple[str, int], str] | None = None,
        well: Sweep | None = None,
        memo: Memo | None = None,
    ) -> None:
        """`before`: who is active now, by pair and group; None = whoever is at rest. `well`: the flows of the design where they are known; `memo`: what is known of its other states."""
        self.design = design
        rest = {k: u for p in pairs_of(design) for k, u in at_rest(design, p).items()}
        self.before = rest | (before or {})
        self._reasons = {p.name: refusals(design, p) for p in pairs_of(design)}
        physical = physical_ports(design, ALL_WELL)
        self._telling = {
            p.name
            for p in pairs_of(design)
            if p.failover and p.failover.sync_sessions and any(h.up for h in heartbeats(p, physical))
        }
        """The pairs whose units tell each other their sessions."""
        self._sweeps: dict[Conditions, Sweep] = {}
        self._known: dict[frozenset[object], tuple[tuple[Loss, ...], tuple[str, ...]]] = {}
        self._memo = memo
        now = self._active(ALL_WELL, tuple((p, g, u) for (p, g), u in self.before.items()))
        self.well = well if well is not None and well.site.conditions == now else self._sweep(now, base=well)
        self._sweeps[now] = self.well
        self.held = {j.name for j in self._judged(self.well) if j.holds}

    def event(self, conditions: Conditions) -> Event:
        """Return what happens when some parts fail, and some units are active now."""
        found = tuple(standings(self.design, conditions, self.before, self._reasons))
        still = self._active(conditions, tuple((s.pair, s.group, s.before) for s in found if s.before))
        after = [self._active(conditions, a) for a in _settled(found)]
        detect = self._detect_ms(found, conditions)
        moved = any(s.moved for s in found)
        moments = [self._moment(0, "fault", (), [still])]
        if moved:
            decisions = tuple(s.election.decision for s in found if s.moved)
            moments.append(self._moment(detect or 0, "taken over", decisions, after))
        else:
            moments = [replace(moments[0], what="settled", decisions=tuple(s.election.decision for s in found))]
        return Event(tuple(sorted(conditions.failed)), found, detect, self._sessions(found), tuple(moments))

    def _moment(
        self, at_ms: int, what: MomentKind, decisions: tuple[Decision, ...], states: list[Conditions]
    ) -> Moment:
        lost: dict[tuple[str, str], Loss] = {}
        broken: dict[str, None] = {}
        for state in states:
            losses, names = self._state(state)
            for one in losses:
                known = lost.get((one.source, one.target))
                lost[one.source, one.target] = replace(one, whole=one.whole or (known is not None and known.whole))
            broken |= dict.fromkeys(names)
        return Moment(at_ms, what, decisions, tuple(lost.values()), tuple(broken))

    def _state(self, state: Conditions) -> tuple[tuple[Loss, ...], tuple[str, ...]]:
        """Return what is lost in one state of the site, and the expectations broken."""
        fabric = build_fabric(self.design, state)
        key = state_key(fabric, state)
        if key not in self._known:
            sweep = self._sweep(state, fabric)
            losses = tuple(Loss(*pair) for pair in lost_pairs(self.well, sweep))
            broken: tuple[str, ...] = ()
            if (
                losses
                or sweep.fingerprints.shape != self.well.fingerprints.shape
                or (sweep.fingerprints != self.well.fingerprints).any()
            ):
                broken = tuple(
                    j.name for j in self._judged(sweep) if not j.holds and j.name in self.held and not _moot(j)
                )
            self._known[key] = losses, broken
        return self._known[key]

    def _judged(self, sweep: Sweep) -> list[Judged]:
        return judge_all(Verdicts(sweep, memo=self._memo))

    def _sweep(self, state: Conditions, fabric: Fabric | None = None, base: Sweep | None = None) -> Sweep:
        if state not in self._sweeps:
            if len(self._sweeps) > 8:
                self._sweeps = {k: s for k, s in self._sweeps.items() if s is getattr(self, "well", None)}
            self._sweeps[state] = Sweep(self._site(state, fabric), base=base or getattr(self, "well", None))
        return self._sweeps[state]

    def _site(self, state: Conditions, fabric: Fabric | None) -> Site:
        well = getattr(self, "well", None)
        return build_site(self.design, state, well.site if well is not None else None, fabric)

    @staticmethod
    def _active(conditions: Conditions, active: tuple[tuple[str, int, str], ...]) -> Conditions:
        return replace(conditions, active=frozenset(active))

    def _detect_ms(self, found: tuple[Standing, ...], conditions: Conditions) -> int | None:
        """A dead unit, or one that is not heard, is missed after so many hellos; a watched link, or a target, is told at once."""
        out: list[int] = []
        for device in pairs_of(self.design):
            for s in (s for s in found if s.pair == device.name and s.moved and device.failover):
                dead = any(not c.alive and c.unit == s.before for c in s.claims)
                assert device.failover is not None
                out.append(device.failover.hello_ms * device.failover.misses if dead or s.election.split_brain else 0)
        return max(out) if out else None

    def _sessions(self, found: tuple[Standing, ...]) -> Sessions:
        """Sessions live on where they had been told to the unit that takes over: with `sync_sessions`, over a heartbeat that worked before."""
        kept: list[bool] = []
        for device in pairs_of(self.design):
            told = device.name in self._telling
            for s in (s for s in found if s.pair == device.name and s.moved):
                kept.append(told and bool(s.election.active) and not s.election.split_brain)
        return "unaffected" if not kept else "kept" if all(kept) else "lost"


def _settled(found: tuple[Standing, ...]) -> list[tuple[tuple[str, int, str], ...]]:
    """Return who is active in the end: one way, or in a split brain one a unit, of which hosts meet now the one, now the other."""
    ways: list[tuple[tuple[str, int, str], ...]] = [()]
    for s in found:
        units = s.election.active or (("",) if s.before else ())
        ways = (
            [(*w, (s.pair, s.group, u)) for w in ways for u in units]
            if s.election.split_brain
            else [(*w, *((s.pair, s.group, u) for u in units)) for w in ways]
        )
    return ways


def _moot(judged: Judged) -> bool:
    """Tell whether what must stay closed names a place that a failure took away: nothing passes there."""
    return judged.expect == "closed" and judged.verdict == "unknown"
