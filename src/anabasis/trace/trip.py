"""A journey while it is made: the header as it stands, what was written down on the way, and how it ended."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field

from anabasis.facts import Arrives, Cause, Outcome, StepStage, Stops, TraceStep
from anabasis.routing import TableRoute
from anabasis.site import Place
from anabasis.trace.packet import Exit, Header, RouteLookup, Session

MOST_WAYS = 64
"""How many combinations of equal-cost routes one packet is sent over before the rest is left untried."""


@dataclass
class Choices:
    """Which of several equal-cost routes one journey takes, and where it had a choice."""

    taken: tuple[int, ...] = ()
    counts: list[int] = field(default_factory=list)

    def pick(self, count: int) -> int:
        """Return which of `count` routes to follow here."""
        at = len(self.counts)
        self.counts.append(count)
        return self.taken[at] if at < len(self.taken) else 0

    def others(self) -> Iterator[tuple[int, ...]]:
        """Yield what to take to go every way that was passed by and is not on the list yet."""
        gone = [*self.taken, *([0] * (len(self.counts) - len(self.taken)))]
        for at in range(len(self.taken), len(self.counts)):
            for other in range(1, self.counts[at]):
                yield (*gone[:at], other)


def every_way(travel: Callable[[Choices], Trip]) -> Iterator[Trip]:
    """Yield a journey for every combination of equal-cost routes, the first as written first."""
    todo: list[tuple[int, ...]] = [()]
    for _ in range(MOST_WAYS):
        if not todo:
            return
        choices = Choices(todo.pop(0))
        yield travel(choices)
        todo += choices.others()


@dataclass
class Trip:
    """One packet in one direction."""

    source: Place
    target: Place
    """Who is to receive the packet, as its header stands."""
    header: Header
    sessions: tuple[Session, ...] | None
    """What firewalls remember that this packet may answer; None = the packet opens a session of its own."""
    home: Place | None
    """Who asked, where this is a reply."""
    choices: Choices
    steps: list[TraceStep] = field(default_factory=list)
    crossed: list[Session] = field(default_factory=list)
    outcome: Outcome = "stopped"
    cause: Cause | None = None
    """What stopped it."""
    arrival: Arrives | None = None
    """How it arrived."""
    decided_by: list[str] = field(default_factory=list)
    lookups: list[RouteLookup] = field(default_factory=list)
    exits: list[Exit] = field(default_factory=list)
    missed: TableRoute | None = None
    """The first longer route passed over because it was inactive."""
    meant: int | None = field(init=False)
    """The segment the packet is sent to, where the address it is given on the way may stand in several."""

    def __post_init__(self) -> None:
        """Take the segment from the target it begins with."""
        self.meant = self.target.segment if self.target.prefers is None else self.target.prefers

    @property
    def is_reply(self) -> bool:
        """Tell whether it answers a packet that arrived."""
        return self.sessions is not None

    def note(self, step: TraceStep) -> None:
        """Add a step."""
        self.steps.append(step)

    def decided(self, pointer: str) -> None:
        """Remember an item that decided what became of the packet."""
        if pointer not in self.decided_by:
            self.decided_by.append(pointer)

    def stop(
        self,
        cause: Cause,
        device: str = "",
        stage: StepStage = "frame",
        zones: tuple[str, str] | None = None,
        crossing: tuple[str, str, str] | None = None,
    ) -> None:
        """End the journey short of its goal."""
        self.outcome, self.cause, self.arrival = "stopped", cause, None
        self.decided_by = list(cause.pointers)
        where = device or (self.steps[-1].device if self.steps else self.source.label)
        self.note(Stops("stops", where, next(iter(self.decided_by), ""), stage, cause, zones, crossing))

    def stop_again(self, cause: Cause) -> None:
        """End where it ended, for a reason that lies deeper."""
        last = self.steps.pop()
        assert isinstance(last, Stops)
        self.stop(cause, last.device, last.stage, last.zones, last.crossing)

    def arrive(self, step: Arrives, *decided_by: str) -> None:
        """End the journey at its goal."""
        self.outcome, self.cause, self.arrival = step.outcome, None, step
        for pointer in decided_by:
            self.decided(pointer)
        self.note(step)

    def session_at(self, device: str) -> Session | None:
        """Return the session of a firewall that the packet answers."""
        return next((s for s in self.sessions or () if s.device == device and s.answered_by(self.header)), None)
