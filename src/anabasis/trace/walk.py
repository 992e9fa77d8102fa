"""Walk: one concrete packet, step by step, and its reply. The explanation of every verdict, and the referee of all pairs.

Plain on purpose: it follows frames port by port, scans tables and rules from the top, and shares no arithmetic with `allpairs`.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from anabasis.design.notation import FAMILY_OF, PROTOCOLS, WITH_PORTS, WITH_TYPES
from anabasis.errors import Problem, UnknownPlace
from anabasis.facts import Arrives, Cause, FollowsRoute, Layer, Outcome, Stops, TraceStep, Wrong, because
from anabasis.policy import Service
from anabasis.site import Candidate, Place, Site
from anabasis.trace.journey import reply, request
from anabasis.trace.packet import Header
from anabasis.trace.trip import Trip, every_way
from anabasis.wording import became

PROTOCOL_NAMES = {number: name for name, number in PROTOCOLS.items()}


@dataclass(frozen=True)
class Walk:
    """What became of one packet."""

    outcome: Outcome
    cause: Cause | None
    """What stopped it, or its reply."""
    arrival: Arrives | None
    """How it arrived."""
    decided_by: tuple[str, ...]
    steps: tuple[TraceStep, ...]
    way_back: Walk | None = None
    receiver: Place | None = None
    """Who received it, in the end."""

    @property
    def layer(self) -> Layer | None:
        """Return the layer that stops it."""
        return self.cause.layer if self.cause is not None else None

    @property
    def became(self) -> Cause | Arrives | None:
        """Return what became of it: what stopped it, or its reply; else how it arrived."""
        return self.cause or self.arrival

    @property
    def reason(self) -> str:
        """Return what became of it, for a person."""
        return became(self.became)


def walk(site: Site, source: Place, target: Place, service: Service) -> Walk:
    """Send one packet, and its reply if it arrives, over every combination of equal-cost routes; the first that fails counts.

    A packet that arrives and whose reply does not is `stopped` at layer `return`: such a flow does not work (docs/semantics.md, "Policy").
    """
    header = Header(source.address, target.address, service)
    first: Walk | None = None
    for there in every_way(lambda choices: request(site, source, target, header, choices)):
        outcome = _as_walk(there) if there.outcome == "stopped" else _there_and_back(site, there)
        if outcome.outcome == "stopped":
            return outcome
        first = first or outcome
    assert first is not None
    return first


def _there_and_back(site: Site, there: Trip) -> Walk:
    forward, first = _as_walk(there), None
    for back in every_way(lambda choices: reply(site, there, there.target, choices)):
        crossed = {s.device for s in back.crossed}
        missing = [s.device for s in there.crossed if s.device not in crossed]
        if back.outcome != "stopped" and missing:
            around = [s.pointer for s in back.steps if isinstance(s, FollowsRoute)]
            back.stop(because(Layer.RETURN, Wrong.ASYMMETRIC, *around, *back.decided_by, device=missing[0]))
        way_back = _as_walk(back)
        if way_back.cause is not None:
            lost = replace(because(Layer.RETURN, Wrong.REPLY_LOST, under=way_back.cause), layer=Layer.RETURN)
            return replace(forward, outcome="stopped", cause=lost, decided_by=way_back.decided_by, way_back=way_back)
        first = first or way_back
    return replace(forward, way_back=first)


def _as_walk(trip: Trip) -> Walk:
    arrived = trip.target if trip.outcome != "stopped" else None
    return Walk(trip.outcome, trip.cause, trip.arrival, tuple(trip.decided_by), tuple(trip.steps), receiver=arrived)


def stopped_at(cause: Cause, place: str) -> Walk:
    """Return the walk of a packet that nobody could send: one end has no address."""
    first = next(iter(cause.pointers), "")
    return Walk("stopped", cause, None, cause.pointers, (Stops("stops", place, first, "host", cause),))


def choose_ends(source: Candidate, target: Candidate, service: Service) -> tuple[Place, Place]:
    """Return both ends in one family: that of the service where it has one, else IPv4 first. Raises UnknownPlace where there is none."""
    order = [v for v in (4, 6) if FAMILY_OF.get(service[0], v) == v]
    for version in order:
        one, two = source.of(version), target.of(version)
        if one and two:
            return one, two
    families = {c.text: sorted({f"IPv{p.address.version}" for p in c.places}) for c in (source, target)}
    said = "; ".join(f"{text} has {' and '.join(f) or 'no addresses'}" for text, f in families.items())
    raise UnknownPlace(
        [Problem("", f"the two ends have no address family in common that carries {service_text(service)}", said)]
    )


def service_text(service: Service) -> str:
    """Write a concrete service as the document does."""
    protocol, value = service
    name = PROTOCOL_NAMES.get(protocol, f"proto/{protocol}")
    return f"{name}/{value}" if protocol in WITH_PORTS | WITH_TYPES else name
