"""Why a pair is open, or not, and why an expectation holds, in a sentence."""

from __future__ import annotations

from anabasis.facts import Arrives, Cause, Elsewhere, Ground, Shows, Why
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


_SHOWN: dict[Shows, str] = {
    "names-nothing": "{name} is no segment, zone, address set or prefix with hosts",
    "nobody-stands-there": "no host stands at one of the ends",
    "one-segment": "both ends stand in {name}, where nothing filters",
    "nothing-passes": "nothing passes: {became}",
    "everything-passes": "everything it speaks of passes",
    "only-that-passes": "what it names passes, and nothing else does",
    "passes": "{flow} passes",
    "passes-as-well": "{flow} passes as well",
    "passes-around": "{flow} passes without meeting {name}",
    "stopped": "{flow} does not pass: {became}",
    "nothing-answered": "nothing is answered: {became}",
    "everything-answered": "everything it speaks of is answered",
    "answered": "{flow} is answered",
    "not-answered": "{flow} is not answered: {became}",
}


def became(what: Cause | Arrives | None) -> str:
    """Return what became of a packet as a sentence without its full stop."""
    return arrival(what) if isinstance(what, Arrives) else say(what)


def shown_by(ground: Ground) -> str:
    """Return what shows whether an expectation holds, as a sentence without its full stop."""
    if ground.shows == "everything-passes" and ground.name:
        return f"everything it speaks of passes, by {ground.name} alone"
    flow = f"{ground.flow.source} to {ground.flow.target} on {ground.flow.service}" if ground.flow else ""
    said = _SHOWN[ground.shows].format(name=ground.name, flow=flow, became=became(ground.became))
    return said + (f"; did you mean {ground.nearest}?" if ground.nearest else "")
