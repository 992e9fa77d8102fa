"""What became of asking a site about itself, as facts."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Silence(StrEnum):
    """Why a box that was asked is not known afterwards."""

    NO_ANSWER = "no-answer"
    """Nothing came back in time, by either protocol."""
    REFUSED = "refused"
    """Nobody listens there."""
    NOT_ALLOWED = "not-allowed"
    """It answers, and does not take the credentials."""
    UNKNOWN_NAME = "unknown-name"
    NOTHING_SAID = "nothing-said"
    """It answers, and says nothing that is read here."""
    NONSENSE = "nonsense"
    """What it says is no data of the protocol."""
    TOO_MUCH = "too-much"
    STOPPED = "stopped"
    """The survey was stopped before it was asked, or before it had answered."""


@dataclass(frozen=True)
class Answer:
    """What one box that was asked did."""

    target: str
    box: str
    """What it calls itself; empty where it did not say."""
    by: tuple[str, ...]
    """The protocols it answered by: `restconf`, `snmp`."""
    why: Silence | None
    seconds: float
