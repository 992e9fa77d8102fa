"""A design as its rules stand at a time: those out of their hours are not in force (docs/semantics.md, "Schedules")."""

from __future__ import annotations

from anabasis.design.devices import Firewall
from anabasis.design.document import Design
from anabasis.design.rules import Rule
from anabasis.design.schedules import AsOf


def has_schedules(design: Design) -> bool:
    """Tell whether any rule has hours."""
    return any(r.when is not None for d in design.devices if isinstance(d, Firewall) for r in d.rules)


def as_of(design: Design, at: AsOf) -> Design:
    """Return the design as it stands at a time; `always`: what permits by the hour is not there, and what drops by the hour is.

    Things stay where they are, so every pointer leads to the same. Devices without such rules are the same objects.
    """
    devices = [
        d.model_copy(update={"rules": [_rule(r, at) for r in d.rules]})
        if isinstance(d, Firewall) and any(r.when is not None for r in d.rules)
        else d
        for d in design.devices
    ]
    return design.model_copy(update={"devices": devices})


def _rule(rule: Rule, at: AsOf) -> Rule:
    if rule.when is None:
        return rule
    here = rule.action != "permit" if at == "always" else rule.when.covers(at)
    return rule.model_copy(update={"when": None} if here else {"enabled": False})
