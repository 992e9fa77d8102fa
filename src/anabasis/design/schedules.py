"""When a rule is in force: a start, how long, and how it repeats (RFC 5545 sections 3.3.5, 3.3.6 and 3.3.10), in the local time of the site."""

from __future__ import annotations

import re
from datetime import datetime, timedelta
from functools import lru_cache
from typing import Annotated, Any, Literal

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
    if found is None or found.tzinfo is not None or "T" not in text or not 2000 <= found.year < 2100:
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
    allowed = f"a rule such as FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR; FREQ is {', '.join(OFTEN[:-1])} or {OFTEN[-1]}; UNTIL, not COUNT, says how long"
    if parts.get("FREQ") not in OFTEN or {"BYHOUR", "BYMINUTE", "BYSECOND", "COUNT"} & parts.keys():
        raise ValueError(allowed)
    if ":" in text or "\n" in text or not re.fullmatch(r"[1-9]\d{0,2}", parts.get("INTERVAL", "1")):
        raise ValueError(allowed)
    try:
        _last(text, datetime(2026, 1, 1), datetime(2026, 1, 8))
    except (ValueError, TypeError, KeyError, AttributeError):
        raise ValueError(allowed) from None
    return text


@lru_cache(maxsize=4096)
def _last(repeat: str, start: datetime, at: datetime) -> datetime | None:
    """Return when something that repeats began last; looked for no further than that time, since a rule may never be met."""
    rule: Any = rrulestr(repeat, dtstart=start)
    until = rule._until
    found: datetime | None = rule.replace(until=min(at, until) if until is not None else at).before(at, inc=True)
    return found


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
        """Tell whether it is in force at a time: since a start that is not over. Cost: the days between the first and that time."""
        start, length = parse_start(self.start), parse_duration(self.duration)
        last = start if self.repeat is None else _last(self.repeat, start, at)
        return last is not None and last <= at < last + length


AsOf = datetime | Literal["always"]
"""A time; or `always`: what is so at any time."""


def parse_as_of(text: str) -> AsOf:
    """Read `always`, or a local date and time."""
    return "always" if text == "always" else parse_start(text)
