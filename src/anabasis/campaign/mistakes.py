"""The mistakes that rows name, as a person knows them: of which kind, and where."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.campaign.cases import numbered
from anabasis.design import Patch, Tree, all_links
from anabasis.faults import KINDS, OPENING


@dataclass(frozen=True)
class Mistake:
    """One mistake of the catalogue that a design can have."""

    kind: str
    meaning: str
    """What the catalogue calls its kind."""
    place: str
    """The title of the item to blame first."""
    pointer: str
    value: str
    """What stands there in the place of what should, where that is a word or a number, or a list of one; else empty."""


def mistakes_of(tree: Tree) -> dict[str, Mistake]:
    """Return every mistake by what rows call it."""
    titles = {link.pointer: link.title for link in all_links(tree)}
    out: dict[str, Mistake] = {}
    for fault, number in numbered(tree):
        at = fault.guilty[0] if fault.guilty else ""
        nearest = max((p for p in titles if at == p or at.startswith(f"{p}/")), key=len, default="")
        meaning = (KINDS | OPENING)[fault.kind].meaning
        place = titles.get(nearest, "")
        out[f"{fault.kind}#{number}"] = Mistake(fault.kind, meaning, place, nearest, _value(fault.edit))
    return out


def _value(edit: Patch) -> str:
    value = edit[0].get("value") if len(edit) == 1 else None
    if isinstance(value, list) and len(value) == 1:
        value = value[0]
    return str(value) if isinstance(value, str | int) and not isinstance(value, bool) else ""
