"""The words results are told in: closed sets, so that whoever reads them knows that there are no others."""

from __future__ import annotations

from typing import Literal

Passes = Literal["all", "some", "none"]
"""How much of what is asked of passes."""
Judgement = Literal["all", "some", "none", "unknown"]
"""The same of an expectation; `unknown` = an end of it names nothing."""
Tone = Literal["open", "closed", "apart", "broken"]
"""`open` (all or some), `closed` by policy, `apart` (nothing was meant to lead there), or `broken`."""
Outcome = Literal["delivered", "answered", "stopped"]
"""`delivered` to a host, `answered` by a box itself, or `stopped`."""
StepStage = Literal["host", "cable", "frame", "interface", "translation", "route", "rule", "answers", "delivered"]
"""What a step of a packet is at."""
Decides = Literal["something", "nothing", "redundant", "unmet", "off"]
"""What a rule decides: `nothing` (others above take all it speaks of), `redundant`, `unmet` (no route brings it traffic), `off`."""
ChangeKind = Literal["opened", "closed", "changed"]
"""`opened` (nothing is lost), `closed` (nothing is gained), `changed` (both)."""
