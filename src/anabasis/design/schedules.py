"""When a rule is in force: a start, how long, and how it repeats (RFC 5545 sections 3.3.5, 3.3.6 and 3.3.10), in the local time of the site."""

from __future__ import annotations

import re
from datetime import datetime, timedelta
from typing import Annotated, Literal

from dateutil.rrule import rrulestr
from pydantic import AfterValidator, Field

from anabasis.design.base import Part

_DURATION = re.compile(r"^P(?:(\d{1,4})W|(?:(\d{1,4})D)?(?:T(?:(\d{1,4})H)?(?:(\d{1,4})M)?)?)$")
OFTEN = ("DAILY", "WEEKLY", "MONTHLY", "YEARLY")
"""How often a schedule may repeat: of days and longer."""


def parse_start(text: str) -> datetime:
    """Read a local date and time, to the minute."""
    try:
        found = datetime.fromisoformat(text)
    except ValueError:
        found = None
    if found is None or found.tzinfo is not None or "T" not in text or not 1970 <= found.year < 2200:
        raise ValueError("a local date and time such as 2026-12-01T08:00")
    return found


def parse_duration(text: str) -> timedelta:
    """Read a duration of RFC 5545 section 3.3.6: weeks, or days, hours and minutes."""
    match = _DURATION.match(text)
    weeks, days, hours, minutes = (int(n or 0) for n in match.groups()) if match else (0, 0, 0, 0)
    length = timedelta(weeks=weeks, days=days, hours=hours, minutes=minutes)
    if not length:
        raise ValueError("a duration such as PT10H, P1D or P1DT8H")
    return length


def _repeat(text: str) -> str:
    parts = dict(p.partition("=")[::2] for p in text.upper().split(";"))
    allowed = f"a rule such as FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR; FREQ is {', '.join(OFTEN[:-1])} or {OFTEN[-1]}"
    if parts.get("FREQ") not in OFTEN or {"BYHOUR", "BYMINUTE", "BYSECOND"} & parts.keys():
        raise ValueError(allowed)
    try:
        rrulestr(text, dtstart=datetime(2026, 1, 1))
    except (ValueError, TypeError, KeyError, AttributeError):
        raise ValueError(allowed) from None
    return text


def _checked_start(text: str) -> str:
    parse_start(text)
    return text


def _checked_duration(text: str) -> str:
    parse_duration(text)
    return text


class Schedule(Part):
    """When something is in force."""

    start: Annotated[str, AfterValidator(_checked_start)] = Field(description="Local date and time of the first time.")
    duration: Annotated[str, AfterValidator(_checked_duration)] = Field(description="PT10H = ten hours.")
    repeat: Annotated[str, AfterValidator(_repeat)] | None = Field(
        default=None, max_length=400, description="A recurrence rule; left out = once."
    )

    def covers(self, at: datetime) -> bool:
        """Tell whether it is in force at a time: since a start that is not over. Cost: the times it has begun."""
        start, length = parse_start(self.start), parse_duration(self.duration)
        if self.repeat is None:
            return start <= at < start + length
        last = rrulestr(self.repeat, dtstart=start).before(at, inc=True)
        return last is not None and at < last + length


AsOf = datetime | Literal["always"]
"""A time; or `always`: what is so at any time."""


def parse_as_of(text: str) -> AsOf:
    """Read `always`, or a local date and time."""
    return "always" if text == "always" else parse_start(text)
