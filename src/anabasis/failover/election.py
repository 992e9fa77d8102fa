"""Election: which unit of a pair is active, and why. A pure function of what is known of the two (docs/semantics.md, "Failover pairs")."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from anabasis.facts import DecidedBy, Decision, Refusal
from anabasis.wording import decided


@dataclass(frozen=True)
class Claim:
    """What one unit has to say for itself."""

    unit: str
    alive: bool
    watch_down: tuple[str, ...]
    """Watched ports and bundles that are down on it."""
    targets_lost: tuple[str, ...]
    """Targets it would not reach."""
    rank: int
    """0 comes first: the higher priority, then name (of group 2 the other way round)."""


@dataclass(frozen=True)
class Election:
    """How it went."""

    active: tuple[str, ...]
    """Nobody, one unit, or both: a split brain."""
    split_brain: bool
    decision: Decision

    @property
    def why(self) -> str:
        """Return why, as a sentence without its full stop."""
        return decided(self.decision)


ORDER = ("watch", "targets", "rank")


def elect(
    claims: tuple[Claim, ...], heard: bool, before: str | None, preempt: bool, order: Sequence[str] = ORDER
) -> Election:
    """Elect among the units of a pair. `heard`: some heartbeat works; `before`: the unit that is active now.

    Compared: alive; then in `order` fewer watched ports down, fewer targets lost, and rank: with preempt the higher priority, without it
    who is active now; then priority; then name. What `order` leaves out decides nothing. Units that do not hear each other take each other for dead, and both are active.
    """
    alive = [c for c in claims if c.alive]
    if len(alive) < 2:
        dead = tuple(c.unit for c in claims if not c.alive)
        if not alive:
            return Election((), False, Decision("nobody-alive", others=dead))
        only = alive[0].unit
        return Election((only,), False, Decision("other-failed" if dead else "only-unit", only, dead))
    if not heard:
        names = tuple(c.unit for c in alive)
        return Election(names, True, Decision("not-heard", names[0], names[1:]))
    found = _compared(alive, before, preempt, order)
    return Election((found.unit,), False, found)


def refused(claims: tuple[Claim, ...], before: str | None, reasons: Sequence[Refusal]) -> Election:
    """Return how it goes between units that refuse each other: whoever is active stays, and nobody takes over."""
    first = before or min(claims, key=lambda c: c.rank).unit
    others = tuple(c.unit for c in claims if c.unit != first)
    if next(c.alive for c in claims if c.unit == first):
        return Election((first,), False, Decision("refused", first, others, refusals=tuple(reasons)))
    return Election((), False, Decision("refused-failed", first, others, refusals=tuple(reasons)))


def _compared(alive: list[Claim], before: str | None, preempt: bool, order: Sequence[str]) -> Decision:
    first = min(alive, key=lambda c: c.rank)
    known: dict[str, tuple[DecidedBy, dict[str, tuple[str, ...]]]] = {
        "watch": ("watch", {c.unit: c.watch_down for c in alive}),
        "targets": ("targets", {c.unit: c.targets_lost for c in alive}),
    }
    for step in order:
        if step == "rank":
            ranked = before if not preempt and before in {c.unit for c in alive} else first.unit
            if ranked is not None and (preempt or before is not None):
                return _ranked(first, before, ranked, preempt)
            continue
        by, held = known[step]
        fewest = min(len(x) for x in held.values())
        best = [c.unit for c in alive if len(held[c.unit]) == fewest]
        if len(best) == 1:
            lost = next(c.unit for c in alive if c.unit != best[0])
            return Decision(by, best[0], (lost,), held[lost])
    return _ranked(first, before if "rank" in order else None, first.unit, preempt)


def _ranked(first: Claim, before: str | None, active: str, preempt: bool) -> Decision:
    """Say why the unit is active that comes first, or that stays."""
    if not preempt and before == active:
        return Decision("stays" if before == first.unit else "stays-untold", active)
    return Decision("rank", active)
