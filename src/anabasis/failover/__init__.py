"""Failover: who takes over when parts fail, how fast, and what is lost (docs/semantics.md, "Failover pairs")."""

from anabasis.failover.drill import DrillSheet, drill_sheet
from anabasis.failover.election import Claim, Election, elect
from anabasis.failover.heartbeat import Heartbeat, heartbeats
from anabasis.failover.parts import breakable
from anabasis.failover.side_by_side import PairStand, PortStand, UnitStand, pair_stands
from anabasis.failover.standing import Standing, elected, pairs_of, stand, standings
from anabasis.failover.sweep import Progress, Swept, sweep_failures
from anabasis.failover.what_if import Event, Loss, Moment, WhatIf

__all__ = [
    "Claim",
    "DrillSheet",
    "Election",
    "Event",
    "Heartbeat",
    "Loss",
    "Moment",
    "PairStand",
    "PortStand",
    "Progress",
    "Standing",
    "Swept",
    "UnitStand",
    "WhatIf",
    "breakable",
    "drill_sheet",
    "elect",
    "elected",
    "heartbeats",
    "pair_stands",
    "pairs_of",
    "stand",
    "standings",
    "sweep_failures",
]
