"""What a proof by packets is about, and what became of each probe."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum


class Covers(StrEnum):
    """What of a design a probe meets."""

    RULE = "rule"
    ROUTE = "route"
    TRANSLATION = "translation"
    ANSWERS = "answers"


class NotProved(StrEnum):
    """What packets here say nothing of: no kernel here can do it, or what happens is luck."""

    TUNNELS = "tunnels"
    OVERLAY = "overlay"
    REDUNDANT_GATEWAYS = "redundant-gateways"
    SHARED_PAIRS = "shared-pairs"
    EQUAL_ROUTES = "equal-routes"
    LUCK = "luck"


class TakenAs(StrEnum):
    """What was taken as it was computed, so that the rest could be proved."""

    ACTIVE = "active"
    BLOCKED = "blocked"
    LEASES = "leases"
    LEARNT = "learnt"
    BUNDLES = "bundles"


@dataclass(frozen=True)
class Met:
    """One thing a probe meets: it decides over it (inside), or just not (beside its border)."""

    kind: Covers
    item: str
    """The rule, route or translation, as a pointer; of answers the interface."""
    inside: bool


@dataclass(frozen=True)
class ProofProbe:
    """One packet, and what was computed of it."""

    sender: str
    """The endpoint, laptop or outside that sends it."""
    at: str
    """Where that stands."""
    from_: str
    """The segment it is sent from."""
    to: str
    """The segment, or the box, it is for."""
    source: str
    target: str
    service: str
    computed: bool
    """Whether an answer comes back."""
    cause: object = None
    """Why none does: a Cause."""
    meets: tuple[Met, ...] = ()


@dataclass(frozen=True)
class Proved:
    """A probe, and what was seen of it: answered, silent, refused, unsent."""

    probe: ProofProbe
    seen: str

    @property
    def differs(self) -> bool:
        """Tell whether packets say otherwise than the engine."""
        return self.probe.computed != (self.seen == "answered")


@dataclass(frozen=True)
class Proof:
    """All of it."""

    results: tuple[Proved, ...]
    covered: dict[Covers, tuple[int, int, int]]
    """Kind -> (met on both sides, met on one, there are)."""
    left_out: dict[NotProved, int] = field(default_factory=dict)
    """How many probes were left out, and why."""
    taken: tuple[TakenAs, ...] = ()
    failed: tuple[str, ...] = ()
    kernel: str = ""
    seconds: float = 0.0

    @property
    def differ(self) -> tuple[Proved, ...]:
        """Return where packets say otherwise."""
        return tuple(r for r in self.results if r.differs)
