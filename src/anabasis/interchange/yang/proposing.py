"""What reading YANG data into a document would do."""

from __future__ import annotations

import copy
from typing import Any

from anabasis.design import Tree, parse_design
from anabasis.design.edits import difference
from anabasis.design.pointers import upper
from anabasis.errors import InputRefused
from anabasis.facts import Assumed, Assumption, Differs
from anabasis.interchange.drift import compare, names_of, take_over
from anabasis.interchange.proposal import Proposal, Unplaced
from anabasis.interchange.seen import Seen
from anabasis.interchange.yang.files import boxes_of, load, site_of
from anabasis.interchange.yang.names import OWN, UNDERSTOOD

SHARED = ("vlans", "addresses", "services", "expectations")
"""Lists of a whole site whose entries go beside those that are there."""


def read_yang(given: str, tree: Tree, replace: bool = False) -> Proposal:
    """Return what reading data of one box, or of a whole site, into a document would do. Raises InputRefused for what is none.

    A box that our own module speaks of becomes what it says. Of any other what the standards' modules say is taken over, and the rest stays;
    what they lack is taken out only where `replace` is said. A box that the document would refuse is taken out and told.
    """
    data = load(given)
    site, boxes = site_of(data), boxes_of(data)
    for k, box in enumerate(boxes, 1):
        box.name = box.name or f"box-{k}"
        box.device["name"] = box.name
    lost: list[Unplaced] = []
    while True:
        out = _placed(tree, site, boxes, replace)
        try:
            parse_design(out)
            break
        except InputRefused as error:
            guilty = _guilty(out, boxes, error)
            if not guilty:
                raise
            lost += [Unplaced(k, box.name, error.problems[0]) for k, box in enumerate(guilty, len(lost) + 1)]
            boxes = [b for b in boxes if b not in guilty]
    known = {d["name"] for d in tree.get("devices", [])}
    assumed = [
        Assumption(Assumed.DEVICE, b.name, b.device["kind"]) for b in boxes if not b.whole and b.name not in known
    ]
    assumed += [Assumption(Assumed.FOREIGN, name, str(n)) for name, n in _foreign(data).items()]
    assumed += [Assumption(Assumed.FOREIGN, f"{b.name} {name}", "1") for b in boxes if not b.whole for name in b.lost]
    kept = len(known - {b.name for b in boxes})
    return Proposal("yang", difference(tree, out), len(boxes), tuple(lost), tuple(assumed), (), (), kept)


def _placed(tree: Tree, site: Tree | None, boxes: list[Seen], replace: bool) -> Tree:
    out: Tree = copy.deepcopy(tree)
    if site is not None and not out.get("devices"):
        return out | site | {"devices": [copy.deepcopy(b.device) for b in boxes]}
    for key in SHARED if site is not None else ():
        there = names_of(out.get(key, []))
        fresh = [e for n, e in names_of((site or {}).get(key, [])).items() if n not in there]
        if fresh:
            out.setdefault(key, []).extend(fresh)
    drifts = [d for d in compare(out, boxes) if replace or d.what not in (Differs.DESIGN_ONLY, Differs.STUB)]
    drifts = [d for d in drifts if d.path[0] != "cables" or site is None]
    out = take_over(out, drifts)
    held = {end for cable in out.get("cables", []) for end in cable}
    for cable in (site or {}).get("cables", []):
        if not held & set(cable):
            out.setdefault("cables", []).append(cable)
            held |= set(cable)
    return out


def _guilty(out: Tree, boxes: list[Seen], error: InputRefused) -> list[Seen]:
    """Return the boxes that a refusal is about."""
    names = [d.get("name") for d in out.get("devices", [])]
    at = {f"/devices/{k}": name for k, name in enumerate(names)}
    told = {at.get(upper(p.pointer, 2)) for p in error.problems}
    return [b for b in boxes if b.name in told]


def _foreign(data: Tree) -> dict[str, int]:
    """Return the members of the standards' modules that nothing here reads, and how often they come."""
    out: dict[str, int] = {}
    todo: list[tuple[str, Any]] = [("", data)]
    while todo:
        inside, value = todo.pop()
        for entry in value if isinstance(value, list) else [value]:
            for key, held in entry.items() if isinstance(entry, dict) else ():
                if key.startswith(f"{OWN}:"):
                    todo += [("", d.get("content")) for d in (held.get("device", []) if key == f"{OWN}:site" else ())]
                elif inside in UNDERSTOOD and key not in UNDERSTOOD[inside]:
                    out[key] = out.get(key, 0) + 1
                else:
                    todo.append((key, held))
    return out
