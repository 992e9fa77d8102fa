"""What a packet is and what is written down on its way: headers, sessions, hops, and the ways it could have taken."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field

from anabasis.causes import Cause
from anabasis.design.notation import Address
from anabasis.outcomes import Outcome, StepStage
from anabasis.policy import Service, Translation
from anabasis.routing import L3Interface, TableRoute
from anabasis.site import Place
from anabasis.wording import say

MOST_WAYS = 64
"""How many combinations of equal routes one packet is sent over before the rest is left untried."""


@dataclass(frozen=True)
class Hop:
    """One step: on which device, at which stage, what happened, and the item of the design behind it."""

    device: str
    stage: StepStage
    layer: str
    """How high the step is on the climb: `link`, `vlan`, `gateway`, `route`, `zone`, `rule`, `nat` or `answers`."""
    text: str
    pointer: str
    label: str = ""
    """The text in a word or two."""
    stopped: bool = False
    zones: tuple[str, str] | None = None
    """At a rule, or a default: the zones it decided between."""


@dataclass(frozen=True)
class Lookup3:
    """One lookup a packet met: where, for which destination, and what it found."""

    device: str
    vrf: str
    ingress: L3Interface | None
    destination: Address
    route: TableRoute | None


@dataclass(frozen=True)
class Exit:
    """How a packet left a box by a route: for a translation of its source that should have been."""

    device: str
    ingress: L3Interface
    egress: L3Interface
    header: Header


@dataclass(frozen=True)
class Header:
    """What translations change and routes and rules look at. Of a reply, `service` stays that of the request."""

    source: Address
    destination: Address
    service: Service


@dataclass(frozen=True)
class Session:
    """What a firewall remembers of a flow it let pass: the packet as it came in, and as it went out."""

    device: str
    asked: Header
    sent: Header

    def answered_by(self, header: Header) -> bool:
        """Tell whether a packet is a reply to what went out."""
        return (header.source, header.destination) == (self.sent.destination, self.sent.source)

    @property
    def reply(self) -> Header:
        """Return the reply as whoever asked expects it."""
        return Header(self.asked.destination, self.asked.source, self.asked.service)


@dataclass
class Forks:
    """Which of several equal routes one journey takes, and where it had a choice."""

    taken: tuple[int, ...] = ()
    choices: list[int] = field(default_factory=list)

    def pick(self, count: int) -> int:
        """Return which of `count` ways to go here."""
        at = len(self.choices)
        self.choices.append(count)
        return self.taken[at] if at < len(self.taken) else 0

    def others(self) -> Iterator[tuple[int, ...]]:
        """Yield what to take to go every way that was passed by and is not on the list yet."""
        gone = [*self.taken, *([0] * (len(self.choices) - len(self.taken)))]
        for at in range(len(self.taken), len(self.choices)):
            for other in range(1, self.choices[at]):
                yield (*gone[:at], other)


def every_way(travel: Callable[[Forks], Trip]) -> Iterator[Trip]:
    """Yield a journey for every combination of equal routes, the first as written first."""
    todo: list[tuple[int, ...]] = [()]
    for _ in range(MOST_WAYS):
        if not todo:
            return
        forks = Forks(todo.pop(0))
        yield travel(forks)
        todo += forks.others()


@dataclass
class Trip:
    """A journey while it is made."""

    source: Place
    target: Place
    """Who is to receive the packet, as its header stands."""
    header: Header
    sessions: tuple[Session, ...] | None
    """What firewalls remember that this packet may answer; None = the packet opens a session of its own."""
    home: Place | None
    """Who asked, where this is a reply."""
    forks: Forks
    hops: list[Hop] = field(default_factory=list)
    crossed: list[Session] = field(default_factory=list)
    outcome: Outcome = "stopped"
    cause: Cause | None = None
    """What stopped it."""
    decided_by: list[str] = field(default_factory=list)
    lookups: list[Lookup3] = field(default_factory=list)
    exits: list[Exit] = field(default_factory=list)
    text: str = ""
    """How it arrived."""
    missed: TableRoute | None = None
    """The first longer route passed over because it was inactive."""
    asked: Header | None = None
    """The header as it came into the firewall the packet is in."""
    entry: Translation | None = None
    """The translation that changed its destination there."""
    known: Session | None = None
    """The session it belongs to there."""

    def note(
        self,
        device: str,
        stage: StepStage,
        layer: str,
        text: str,
        pointer: str,
        label: str = "",
        zones: tuple[str, str] | None = None,
    ) -> None:
        """Add a step."""
        self.hops.append(Hop(device, stage, layer, text, pointer, label, zones=zones))

    def stop(
        self, cause: Cause, device: str = "", stage: StepStage = "frame", zones: tuple[str, str] | None = None
    ) -> None:
        """End the journey short of its goal."""
        self.outcome, self.cause = "stopped", cause
        self.decided_by = list(cause.pointers)
        where = device or (self.hops[-1].device if self.hops else self.source.label)
        first = self.decided_by[0] if self.decided_by else ""
        self.hops.append(Hop(where, stage, cause.layer, say(cause), first, "stops", True, zones))

    def arrive(self, outcome: Outcome, device: str, text: str, pointer: str, *decided_by: str) -> None:
        """End the journey at its goal."""
        self.outcome, self.cause, self.text = outcome, None, text
        self.decided_by += [p for p in decided_by if p not in self.decided_by]
        if outcome == "delivered":
            self.note(device, "delivered", "link", text, pointer, outcome)
        else:
            self.note(device, "answers", "answers", text, pointer, outcome)

    def session_at(self, device: str) -> Session | None:
        """Return the session of a firewall that the packet answers."""
        return next((s for s in self.sessions or () if s.device == device and s.answered_by(self.header)), None)


@dataclass(frozen=True)
class At:
    """Where the packet is: inside a device, come in by an interface (None = sent by the box itself), looked up in a VRF."""

    device: str
    vrf: str
    ingress: L3Interface | None
    header: Header
