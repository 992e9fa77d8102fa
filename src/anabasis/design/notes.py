"""Edits that change words alone: notes say why a thing is there, and nothing that is computed follows from them."""

from __future__ import annotations

from pydantic import BaseModel

from anabasis.design.document import Design
from anabasis.design.ports import Lag, Port, Ssid

COUNTS = (Port, Lag, Ssid)
"""Whose notes count: a port that carries nothing and has a note is spare on purpose."""


def same_but_for_notes(one: Design, two: Design) -> bool:
    """Tell whether two designs differ in notes alone, or not at all; notes of ports count. Cost: what differs, where models are shared."""
    return one.name == two.name and _same(one, two)


def _same(one: object, two: object) -> bool:
    if one is two:
        return True
    if type(one) is not type(two):
        return False
    if isinstance(one, BaseModel) and isinstance(two, BaseModel):
        skipped = set() if isinstance(one, COUNTS) else {"note"}
        if (one.model_fields_set ^ two.model_fields_set) - skipped:
            return False
        return all(_same(getattr(one, f), getattr(two, f)) for f in type(one).model_fields if f not in skipped)
    if isinstance(one, list) and isinstance(two, list):
        return len(one) == len(two) and all(map(_same, one, two))
    if isinstance(one, dict) and isinstance(two, dict):
        return one.keys() == two.keys() and all(_same(v, two[k]) for k, v in one.items())
    return bool(one == two)
