"""Differences put into a site on purpose, so that a survey has something to find: faults of the catalogue, one after the other."""

from __future__ import annotations

import copy
from random import Random

from anabasis.design import Tree, parse_design
from anabasis.design.edits import patched
from anabasis.design.pointers import in_list, upper
from anabasis.errors import InputRefused
from anabasis.faults import KINDS, Fault, faults_of

UNHEARD = ("isolated", "lease-holds-host")
"""Kinds whose edit no box could speak of."""
TRIES = 40


def spoil(tree: Tree, count: int, seed: int = 1) -> tuple[Tree, list[Fault]]:
    """Return a site with some faults in it, and which; each about another thing, as far as there are enough."""
    rng, out = Random(seed), copy.deepcopy(tree)
    done: list[Fault] = []
    about: set[str] = set()
    kinds = [k for k in KINDS if k not in UNHEARD]
    tries = 0
    while len(done) < count and tries < TRIES * count:
        tries += 1
        found = [f for f in faults_of(out, rng.choice(kinds)) if not {_thing(p) for p in f.guilty[:1]} & about]
        if not found:
            continue
        fault = rng.choice(found)
        if any(op["op"] in ("remove", "move") and _in_a_list(op["path"]) for op in fault.edit):
            continue  # what stands behind it would be called otherwise
        try:
            spoiled = patched(copy.deepcopy(out), fault.edit)
            parse_design(spoiled)
        except InputRefused:
            continue
        out, about = spoiled, about | {_thing(p) for p in fault.guilty[:1]}
        done.append(fault)
    return out, done


def _thing(pointer: str) -> str:
    return upper(pointer, 4)


def _in_a_list(pointer: str) -> bool:
    try:
        in_list(pointer)
    except ValueError:
        return False
    return True
