"""Migrations: a firewall, a gateway or a subnet from one state to another as one edit, leftovers taken out, and what it had to assume said.

What cannot be known is asked for: addresses, the way on. The rest follows from what is there.
"""

from __future__ import annotations

import copy
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from anabasis.design.edits import Patch, Tree, difference, patched
from anabasis.design.files import parse_design
from anabasis.design.making.pairs import MakePair, make_pair
from anabasis.design.migrating.addresses import move_gateway, renumber
from anabasis.design.migrating.asked import Asked, asked
from anabasis.design.migrating.parts import Work
from anabasis.design.migrating.plans import KINDS, Plan, ToPair, read_plan
from anabasis.design.migrating.transparent import to_bridged, to_routed
from anabasis.facts import Noted

__all__ = ["KINDS", "Asked", "Migration", "Plan", "asked", "migrate", "read_plan"]


@dataclass(frozen=True)
class Migration:
    """The edit, what was taken for granted, and what it leaves to be decided."""

    patch: Patch
    assumed: list[Noted] = field(default_factory=list)
    open: list[Noted] = field(default_factory=list)


def migrate(raw: Tree, plans: list[Plan]) -> Migration:
    """Return the one edit of all plans in their order. Raises InputRefused where one cannot be, or leads to no design."""
    work = Work(copy.deepcopy(raw))
    for plan in plans:
        MAKERS[plan.kind](work, plan)
    parse_design(work.tree)
    return Migration(difference(raw, work.tree), work.assumed, work.open)


def _to_pair(work: Work, plan: ToPair) -> None:
    made = make_pair(work.tree, MakePair(plan.device, plan.first, plan.second))
    work.tree = copy.deepcopy(patched(work.tree, made.patch))
    work.open += made.missing


MAKERS: dict[str, Callable[[Work, Any], None]] = {
    "renumber": renumber,
    "move-gateway": move_gateway,
    "inline-to-routed": to_routed,
    "bridged-to-routed": to_routed,
    "routed-to-bridged": to_bridged,
    "single-to-pair": _to_pair,
}
