"""What shows whether an expectation holds, as a fact."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from anabasis.facts.causes import Cause
from anabasis.facts.steps import Arrives

Shows = Literal[
    "names-nothing",
    "nobody-stands-there",
    "one-segment",
    "nothing-passes",
    "everything-passes",
    "only-that-passes",
    "passes",
    "passes-as-well",
    "passes-around",
    "stopped",
    "nothing-answered",
    "everything-answered",
    "answered",
    "not-answered",
]
"""`one-segment`: both ends stand in it; `passes-around`: without meeting the firewall named. Each has one sentence in `wording/verdicts.py`."""


@dataclass(frozen=True)
class Flow:
    """One flow: addresses as written, and a service such as `tcp/443`."""

    source: str
    target: str
    service: str


@dataclass(frozen=True)
class Ground:
    """On what an expectation is judged."""

    shows: Shows
    flow: Flow | None = None
    """The flow that shows it."""
    became: Cause | Arrives | None = None
    """What became of that flow."""
    name: str | None = None
    """The end that names nothing, the segment both ends stand in, or the firewall that all must pass."""
    nearest: str | None = None
    """What a name that names nothing may have meant."""

    @property
    def what(self) -> object:
        """Return what tells it apart wherever in the document its items stand."""
        return replace(self, became=None), self.became.what if isinstance(self.became, Cause) else self.became
