"""Failures as a person reads them: what happens when, each step of a drill, and every failure of a sweep."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from anabasis.facts import DrillKind, MomentKind, Sessions
from anabasis.failover import DrillSheet, Event, Loss, Moment, Standing, Swept
from anabasis.wording import drill_before, drill_do, drill_measure


@dataclass(frozen=True)
class MomentRow:
    """What flows from one time on."""

    at_ms: int
    what: MomentKind
    words: str
    lost: tuple[Loss, ...]
    broken: tuple[str, ...]
    """Expectations that do not hold then, and did before."""


@dataclass(frozen=True)
class EventRow:
    """What some failures do to a site with pairs."""

    failed: tuple[str, ...]
    standings: tuple[Standing, ...]
    detect_ms: int | None
    """Until every pair has noticed; 0 = at once; None = nothing has to be noticed, or nobody notices."""
    sessions: Sessions
    moments: tuple[MomentRow, ...]
    why: str


@dataclass(frozen=True)
class SweptRow:
    """Failures that come out alike."""

    failed: tuple[str, ...]
    """The first of them."""
    alike: tuple[tuple[str, ...], ...]
    """The others."""
    event: EventRow
    single_point: bool
    """A single failure that breaks an expectation, or stops pairs, for good."""


@dataclass(frozen=True)
class DrillRow:
    """One step of a drill."""

    name: str
    """What the result is kept under."""
    kind: DrillKind
    do: str
    fail: tuple[str, ...]
    """What is failed during the step."""
    active: tuple[str, ...]
    within_ms: int
    sessions: Sessions
    measure: str
    lost: tuple[str, ...]
    """Pairs of segments that lose flows, in words."""
    why: str


@dataclass(frozen=True)
class DrillView:
    """All steps of one pair."""

    pair: str
    before: tuple[str, ...]
    """What is to be so before it begins."""
    steps: tuple[DrillRow, ...]


def event_row(event: Event) -> EventRow:
    """Return an event with its sentences."""
    moments = tuple(map(_moment_row, event.moments))
    return EventRow(event.failed, event.standings, event.detect_ms, event.sessions, moments, event.why)


def swept_rows(found: Iterable[Swept]) -> list[SweptRow]:
    """Return the failures of a sweep with their sentences."""
    return [SweptRow(s.failed, s.alike, event_row(s.event), s.single_point) for s in found]


def drill_view(sheet: DrillSheet) -> DrillView:
    """Return a drill as one reads it, step by step."""
    rows = tuple(
        DrillRow(
            step.name,
            step.kind,
            drill_do(step.kind, sheet.active, sheet.standby, step.port, step.event.failed),
            step.event.failed,
            step.event.active,
            step.event.detect_ms or 0,
            step.event.sessions,
            drill_measure(step.event.detect_ms is not None),
            tuple(f"{x.source} to {x.target}" for x in step.event.settled.lost),
            step.event.why,
        )
        for step in sheet.steps
    )
    return DrillView(sheet.pair, drill_before(sheet.active, sheet.standby), rows)


def _moment_row(moment: Moment) -> MomentRow:
    return MomentRow(moment.at_ms, moment.what, moment.words, moment.lost, moment.broken)
