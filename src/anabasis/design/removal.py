"""Take a thing out, and with it what cannot be without it: cables of a port, names in rules, routes into a VRF, as one edit.

What goes and what loses a name follows from the models (`Ref.loss`), and is the same as what `uses` tells.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any

import jsonpointer

from anabasis.design.edits import Patch, Tree
from anabasis.design.items import link, thing_at
from anabasis.design.mentions import Mention, mentions
from anabasis.design.notation import pointer as pointer_of
from anabasis.design.targets import Targets
from anabasis.errors import Problem, UnknownPlace


@dataclass(frozen=True)
class Removal:
    """The edit, and in words what else it takes or changes."""

    patch: Patch
    drops: list[str]
    touches: list[str] = field(default_factory=list)
    """The same as pointers."""


def remove(raw: Tree, pointer: str) -> Removal:
    """Return the edit that takes a thing out. Raises UnknownPlace where nothing is that can be taken out by itself."""
    return remove_all(raw, [pointer])


def remove_all(raw: Tree, pointers: Sequence[str]) -> Removal:
    """Return the one edit that takes several things out. Raises UnknownPlace as `remove` does."""
    for pointer in pointers:
        found: Any = jsonpointer.resolve_pointer(raw, pointer, None) if pointer.startswith("/") else None
        if found is None or not pointer.rpartition("/")[2].isdigit() or thing_at(raw, pointer) != pointer:
            raise UnknownPlace([Problem(pointer, "nothing is there that could be taken out")])
    gone, lost = _fall(raw, pointers)
    fallen = (*gone[len(pointers) :], *(m.owner for m in lost))
    touched = [p for p in dict.fromkeys(fallen) if not _inside(p, pointers)]
    return Removal(_taken_out(gone, lost), list(dict.fromkeys(_said(raw, p) for p in touched)), touched)


def remove_zone(raw: Tree, device: int, zone: int) -> Patch:
    """Return the edit that takes a zone out that its own device alone names, and no end of a question. Cost: that device, not the document."""
    here, there = pointer_of("devices", 0), pointer_of("devices", device)
    patch = remove({"devices": [raw["devices"][device]]}, f"{here}/zones/{zone}").patch
    return [{**step, "path": there + str(step["path"]).removeprefix(here)} for step in patch]


def remove_vlan(raw: Tree, vlan: int) -> Patch:
    """Return the one edit that takes a VLAN out of the plan and out of all that names it; nothing where the plan has it not."""
    at = next((i for i, v in enumerate(raw.get("vlans", [])) if v["id"] == vlan), None)
    return [] if at is None else remove(raw, f"/vlans/{at}").patch


def _said(raw: Tree, pointer: str) -> str:
    named = link(raw, pointer)
    return f"{named.kind} {named.title}".strip()


def _inside(pointer: str, things: Iterable[str]) -> bool:
    return any((pointer + "/").startswith(thing + "/") for thing in things)


def _fall(tree: Tree, pointers: Sequence[str]) -> tuple[list[str], list[Mention]]:
    """Return the pointers of all that goes, the things themselves first, and the mentions that are taken out of what stays."""
    targets = Targets(tree)
    leaning = [(m, found) for m in mentions(tree) if (found := targets.of(m))]
    gone, lost, more = list(pointers), list[Mention](), True
    while more:
        left = [(m, found) for m, found in leaning if not _inside(m.owner, gone)]
        lost = [m for m, found in left if _doomed(m, found, gone)]
        fallen = dict.fromkeys(m.owner for m in lost if m.ref.loss == "owner" or _is_last(m, lost))
        more = [f for f in fallen if not _inside(f, gone)] != []
        gone += fallen
    return gone, lost


def _doomed(mention: Mention, found: list[str], gone: list[str]) -> bool:
    """A cable's end leans on its port and on its unit; any other name is gone with the last thing it may mean."""
    several = any if mention.kind == "cable-end" else all
    return several(_inside(f, gone) for f in found)


def _is_last(mention: Mention, lost: list[Mention]) -> bool:
    """Tell whether a list that has to say something is left empty."""
    return mention.ref.loss == "last" and sum(m.holder is mention.holder for m in lost) == len(mention.holder)


def _taken_out(gone: list[str], lost: list[Mention]) -> Patch:
    """Return the edit, the last in the document first, so that places stay what they are; notes and whatever else stands beside have no say in it."""
    names = [m for m in lost if not _inside(m.pointer, gone)]
    places = {p for p in gone if not _inside(p.rpartition("/")[0], gone)} | {m.pointer for m in names}
    off: Patch = [
        {"op": "add", "path": f"{m.pointer.rpartition('/')[0]}/mode", "value": "off"} for m in names if m.kind == "lag"
    ]
    last_first = sorted(places, key=_place, reverse=True)
    return [*off, *({"op": "remove", "path": p} for p in last_first)]


def _place(pointer: str) -> list[tuple[int, str]]:
    return [(int(p), "") if p.isdigit() else (-1, p) for p in pointer.split("/")]
