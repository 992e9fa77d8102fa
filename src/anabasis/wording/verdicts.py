"""Why a pair is open, or not, in a sentence."""

from __future__ import annotations

from anabasis.facts import Cause, Elsewhere, Why
from anabasis.wording.causes import say
from anabasis.wording.steps import arrival

_WHOLE = {
    "every-flow-passes": "every flow passes, and so does its reply",
    "nobody-can-stand-there": "nobody can stand there",
    "nothing-asked": "",
}


def because_of(why: Why) -> str:
    """Return what decides about a pair as a sentence without its full stop."""
    if isinstance(why, Cause):
        return say(why)
    if isinstance(why, Elsewhere):
        return f"{why.address} is translated away: {arrival(why.arrival)}"
    return _WHOLE[why]
