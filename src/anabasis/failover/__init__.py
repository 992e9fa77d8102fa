"""Failover: who takes over when parts fail, how fast, and what is lost (docs/semantics.md, "Failover pairs")."""

from anabasis.failover.drill import DrillSheet, drill_sheet
from anabasis.failover.heartbeat import heartbeats
from anabasis.failover.parts import breakable
from anabasis.failover.refusing import elsewhere, unlike_traits
from anabasis.failover.standing import Standing, at_rest, elected, pairs_of, stand
from anabasis.failover.sweep import Progress, Swept, sweep_failures
from anabasis.failover.what_if import Event, Loss, Moment, WhatIf

__all__ = [
    "DrillSheet",
    "Event",
    "Loss",
    "Moment",
    "Progress",
    "Standing",
    "Swept",
    "WhatIf",
    "at_rest",
    "breakable",
    "drill_sheet",
    "elected",
    "elsewhere",
    "heartbeats",
    "pairs_of",
    "stand",
    "sweep_failures",
    "unlike_traits",
]
