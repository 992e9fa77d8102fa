"""A list of VLANs as people have it: a line each, with a number, a name and subnets between blanks, tabs, commas or semicolons."""

from __future__ import annotations

import copy
import re
from dataclasses import dataclass

from anabasis.design.edits import Patch, Tree, difference
from anabasis.errors import InputRefused, Problem


@dataclass(frozen=True)
class VlanList:
    """What was pasted."""

    text: str


def vlan_list(raw: Tree, wanted: VlanList) -> Patch:
    """Return the edit that adds the VLANs of a list; those that stand there already are left alone. Raises InputRefused with the line."""
    tree: Tree = copy.deepcopy(raw)
    known = {v["id"]: v for v in tree.get("vlans", [])}
    pasted = wanted.text
    for number, line in enumerate(pasted.splitlines(), 1):
        words = [w for w in re.split(r"[\s,;|]+", line.strip()) if w]
        if not words or words[0].startswith("#"):
            continue
        vlan = _read(words, number)
        if vlan is None or vlan["id"] in known:
            continue
        known[vlan["id"]] = vlan
        tree.setdefault("vlans", []).append(vlan)
    return difference(raw, tree)


def _read(words: list[str], line: int) -> Tree | None:
    """Return the VLAN of a line; None for a line of headings."""
    numbers = [w for w in words if w.isascii() and w.isdigit()]
    subnets = [w for w in words if "/" in w]
    names = [w for w in words if w not in numbers[:1] and w not in subnets]
    if not numbers:
        if line == 1:
            return None
        raise InputRefused([Problem(f"/text line {line}", "this line names no VLAN", repr(" ".join(words)), "10 staff 10.20.10.0/24")])  # fmt: skip
    name = " ".join(names) or f"vlan{numbers[0]}"
    return {"id": int(numbers[0]), "name": name} | ({"subnets": subnets} if subnets else {})
