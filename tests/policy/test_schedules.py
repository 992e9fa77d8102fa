"""Rules with hours: what is so at some time, at any time, and at one (RFC 5545)."""

from __future__ import annotations

from datetime import datetime
from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.design import Loaded, apply, as_of, has_schedules
from anabasis.design.schedules import Schedule, parse_as_of
from anabasis.errors import InputRefused
from anabasis.verdicts import ask
from anabasis.views import matrix

GATE = "/devices/4"
WORKING = {"start": "2026-01-05T08:00", "duration": "PT10H", "repeat": "FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR"}


@pytest.mark.parametrize(
    ("schedule", "at", "wanted"),
    [
        (WORKING, "2026-11-30T08:00", True),  # a Monday; section 3.8.5.3: the start is the first time
        (WORKING, "2026-11-30T17:59", True),
        (WORKING, "2026-11-30T18:00", False),  # section 3.6.1: the end is not part of it
        (WORKING, "2026-11-29T09:00", False),
        (WORKING, "2025-12-01T09:00", False),  # before it begins
        ({"start": "2026-03-01T22:00", "duration": "PT8H"}, "2026-03-02T05:59", True),
        ({"start": "2026-03-01T22:00", "duration": "PT8H"}, "2026-03-03T05:59", False),
        ({"start": "2026-03-01T22:00", "duration": "PT8H", "repeat": "FREQ=DAILY"}, "2026-07-09T03:00", True),
        (
            {"start": "2026-03-01T00:00", "duration": "P1D", "repeat": "FREQ=MONTHLY;BYMONTHDAY=1"},
            "2026-12-01T23:59",
            True,
        ),
        (
            {"start": "2026-03-01T00:00", "duration": "P1D", "repeat": "FREQ=DAILY;UNTIL=20260303T000000"},
            "2026-03-04T00:00",
            False,
        ),
    ],
)
def test_when_a_schedule_is_in_force(schedule: dict[str, Any], at: str, wanted: bool) -> None:
    """Since a start that is not over yet."""
    assert Schedule(**schedule).covers(datetime.fromisoformat(at)) == wanted


def test_one_that_never_comes_is_soon_told() -> None:
    """The 30th of February, asked about at the end of the century."""
    never = Schedule(start="2000-01-01T00:00", duration="P1D", repeat="FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30")
    assert not never.covers(datetime.fromisoformat("2099-12-31T00:00"))


@pytest.mark.parametrize(
    "wrong",
    [
        {"start": "monday"},
        {"start": "2026-01-05"},
        {"duration": "ten hours"},
        {"duration": "PT0H"},
        {"repeat": "FREQ=SECONDLY"},
        {"repeat": "FREQ=WEEKLY;BYDAY=XX"},
        {"repeat": "every day"},
        {"repeat": "FREQ=DAILY;COUNT=3"},
        {"repeat": "FREQ=DAILY;INTERVAL=0"},
        {"repeat": "FREQ=WEEKLY;UNTIL=20300101T000000Z"},
        {"repeat": "FREQ=DAILY\nEXDATE:20260105T080000"},
        {"repeat": "FREQ=DAILY;BYHOUR=1,2,3"},
    ],
)
def test_what_is_no_schedule_is_refused(demo: Loaded, wrong: dict[str, str]) -> None:
    """With the place, and what would be one."""
    with pytest.raises(InputRefused) as refused:
        apply(demo.raw, [{"op": "add", "path": f"{GATE}/rules/0/when", "value": WORKING | wrong}])
    assert refused.value.problems[0].pointer == f"{GATE}/rules/0/when/{next(iter(wrong))}"


def scheduled(demo: Loaded, action: str) -> Climb:
    """Return the demo with a rule from the visitors to the tills in working hours, above all others; below one that drops, one that permits at any time."""
    rule = {
        "name": "by day",
        "from": ["guests"],
        "to": ["tills"],
        "services": ["tcp/443"],
        "action": action,
        "when": WORKING,
    }
    every = {"name": "at any time", "from": ["guests"], "to": ["tills"], "services": ["tcp/443"], "action": "permit"}
    first = [rule, *([every] if action != "permit" else [])]
    patch = [{"op": "add", "path": f"{GATE}/rules/{k}", "value": entry} for k, entry in enumerate(first)]
    return Climb(apply(demo.raw, patch)[1])


@pytest.mark.parametrize("action", ["permit", "drop"])
def test_the_hours_of_a_rule_decide(demo: Loaded, action: str) -> None:
    """Open at some time; at a time by its hours; always open only where it drops never."""
    climb = scheduled(demo, action)
    assert has_schedules(climb.design)

    def passes(at: str | None) -> bool:
        of = climb if at is None else climb.edited(as_of(climb.design, parse_as_of(at)))
        went = of.walk("visitors", "till-1", "tcp/443").outcome != "stopped"
        cell = of.sweep.flows(of.segment("visitors"), of.segment("box-office"))
        assert bool(cell.boxes) == went  # both engines, and what is kept of another time
        return went

    day, night = "2026-11-30T12:00", "2026-11-30T23:00"
    by_day = action == "permit"
    assert {at: passes(at) for at in (None, day, night, "always")} == {
        None: True,
        day: by_day,
        night: not by_day,
        "always": False,
    }
    assert passes(None)


def test_the_matrix_says_what_is_open_by_the_hour(demo: Loaded) -> None:
    """One cell, and no other; and nothing where no rule has hours."""
    climb = scheduled(demo, "permit")
    always = climb.edited(as_of(climb.design, "always"))
    question = ask(climb.site, None, None)
    shown = matrix(climb.verdicts(question), False, always.verdicts(ask(always.site, None, None)))
    names = [s.name for s in shown.segments]
    hourly = {
        (names[a], names[b])
        for a, row in enumerate(shown.cells)
        for b, cell in enumerate(row)
        if cell and cell.sometimes
    }
    assert shown.scheduled
    assert hourly == {("visitors", "box-office")}
    plain = Climb(demo.design)
    assert not matrix(plain.verdicts(ask(plain.site, None, None))).scheduled


def test_a_rule_below_one_with_hours_is_not_idle(demo: Loaded) -> None:
    """Out of the hours of the one above it decides."""
    by_day = {
        "name": "by day",
        "from": ["guests"],
        "to": ["tills"],
        "services": ["tcp/443"],
        "action": "permit",
        "when": WORKING,
    }
    also = {k: v for k, v in by_day.items() if k != "when"} | {"name": "also"}
    patch = [{"op": "add", "path": f"{GATE}/rules/0", "value": rule} for rule in (also, by_day)]
    found = [f for f in Climb(apply(demo.raw, patch)[1]).findings if f.code in ("rule-shadowed", "rule-redundant")]
    assert [f.pointers[0] for f in found] == [
        f"{GATE}/rules/0"
    ]  # the one with hours could go: the one below does the same at any time
