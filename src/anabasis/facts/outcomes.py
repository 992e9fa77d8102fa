"""The words results are told in: closed sets, so that whoever reads them knows that there are no others."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from anabasis.facts.causes import Cause
from anabasis.facts.steps import Arrives

Passes = Literal["all", "some", "none"]
"""How much of what is asked of passes."""
Judgement = Literal["all", "some", "none", "unknown"]
"""The same of an expectation; `unknown` = an end of it names nothing."""
Tone = Literal["open", "closed", "apart", "broken"]
"""`open` (all or some), `closed` by policy, `apart` (nothing was meant to lead there), or `broken`."""
Decides = Literal["something", "nothing", "redundant", "unmet", "off"]
"""What a rule decides: `nothing` (others above take all it speaks of), `redundant`, `unmet` (no route brings it traffic), `off`."""
ChangeKind = Literal["opened", "closed", "changed"]
"""`opened` (nothing is lost), `closed` (nothing is gained), `changed` (both)."""


@dataclass(frozen=True)
class Elsewhere:
    """A packet arrives, but not at the address it was sent to: that is translated away."""

    address: str
    arrival: Arrives


Why = Cause | Elsewhere | Literal["every-flow-passes", "nobody-can-stand-there", "nothing-asked"]
"""What decides about a pair. Nobody can stand in a segment without an open edge port, an endpoint and an outside."""
