"""Why a unit of a pair is active, as facts (docs/semantics.md, "Failover pairs")."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Refuses = Literal["traits-unlike", "no-heartbeat", "heartbeat-astray", "ports-apart"]
"""Why units refuse each other: unlike traits, no heartbeat cabled, one that leads elsewhere, ports in different segments."""

DecidedBy = Literal[
    "nobody-alive",
    "other-failed",
    "only-unit",
    "not-heard",
    "watch",
    "targets",
    "stays-untold",
    "stays",
    "rank",
    "refused",
    "refused-failed",
]
"""`not-heard`: each takes the other for dead; `stays-untold`: the other has the better priority, and without preempt nobody moves.

Each has one sentence in `wording/elections.py`.
"""


@dataclass(frozen=True)
class Refusal:
    """One reason why the units of a pair refuse each other."""

    why: Refuses
    names: tuple[str, ...] = ()
    """The traits, or the ports."""


@dataclass(frozen=True)
class Decision:
    """What decided an election."""

    by: DecidedBy
    unit: str = ""
    """Whom it is about: who is active, or, of `refused-failed`, who failed and is not replaced."""
    others: tuple[str, ...] = ()
    """The other unit; of units that are dead, all of them."""
    lost: tuple[str, ...] = ()
    """Of `watch` and `targets`: what the other has lost."""
    refusals: tuple[Refusal, ...] = ()


MomentKind = Literal["fault", "taken over", "settled"]
"""When something is lost: at once, after others took over, or in the end where nobody does."""

Sessions = Literal["kept", "lost", "unaffected"]

DrillKind = Literal["plug", "return", "turn-back", "watch", "heartbeat", "all-heartbeats"]
"""The steps of a drill. Each has one sentence in `wording/elections.py`."""
