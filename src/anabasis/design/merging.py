"""Put two people's edits of one document together: what only one of them touched is taken, what both touched is a clash.

A merge of three (the document both started from, mine, theirs), thing by thing: items of lists are told by `keys.py`, so that an edit of
the seventh rule stays an edit of that rule where somebody else added one above it.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import jsonpointer

from anabasis.design.compare import plain, renames, written
from anabasis.design.edits import Patch, Tree, difference
from anabasis.design.items import link, thing_at
from anabasis.design.keys import keyed

GONE = object()
"""Stands for what is not there."""


@dataclass(frozen=True)
class Clash:
    """One setting that both changed, each in another way."""

    thing: str
    """What it is about, in words."""
    what: str
    """The setting; empty = the thing as a whole."""
    was: str
    mine: str
    theirs: str
    pointer: str | None
    """Where it is in their document; None = they took it out."""


@dataclass(frozen=True)
class Merged:
    """Both edits in one document."""

    mine: Tree
    """Where both changed a setting, mine stands."""
    theirs: Tree
    """Where both changed a setting, theirs stands."""
    clashes: tuple[Clash, ...]


@dataclass(frozen=True)
class Meeting:
    """An edit, written for a document that others edited meanwhile."""

    clashes: tuple[Clash, ...]
    """What both changed. None: the edit can be made on top of the others, and nothing of theirs is lost."""
    on_top: Patch
    """The edit; where both changed something, mine stands."""
    beside: Patch
    """The same; where both changed something, theirs stands."""


@dataclass
class _Merge:
    base: Tree
    their_tree: Tree
    my_tree: Tree
    wins: str
    clashes: list[Clash] = field(default_factory=list)

    def value(self, at: str, to: str, my: str, base: Any, mine: Any, theirs: Any) -> Any:
        """Merge one value. `at`, `to`, `my`: its pointers in the base, in theirs and in mine."""
        if _same(mine, base):
            return theirs
        if _same(theirs, base) or _same(mine, theirs):
            return mine
        if isinstance(mine, dict) and isinstance(theirs, dict) and (isinstance(base, dict) or base is GONE):
            return self._mapping(at, to, my, base if isinstance(base, dict) else {}, mine, theirs)
        if (
            isinstance(mine, list)
            and isinstance(theirs, list)
            and (isinstance(base, list) or base is GONE)
            and not at.startswith("/cables/")
        ):
            return self._list(at, to, my, base if isinstance(base, list) else [], mine, theirs)
        self._clash(at, to, my, base, mine, theirs)
        return mine if self.wins == "mine" else theirs

    def _mapping(self, at: str, to: str, my: str, base: Tree, mine: Tree, theirs: Tree) -> Tree:
        out: Tree = {}
        for key in dict.fromkeys([*theirs, *mine]):
            step = "/" + key.replace("~", "~0").replace("/", "~1")
            sides = (x.get(key, GONE) for x in (base, mine, theirs))
            found = self.value(at + step, to + step, my + step, *sides)
            if found is not GONE:
                out[key] = found
        return out

    def _list(self, at: str, to: str, my: str, base: list[Any], mine: list[Any], theirs: list[Any]) -> list[Any]:
        was = keyed(base)
        me, them = _aligned(base, was, mine), _aligned(base, was, theirs)
        found: dict[str, Any] = {}
        for key in dict.fromkeys([*them, *me, *was]):
            sides = (items[k[key]] if key in k else GONE for items, k in ((base, was), (mine, me), (theirs, them)))
            places = (f"{p}/{k.get(key, '-')}" for p, k in ((at, was), (to, them), (my, me)))
            merged = self.value(*places, *sides)
            if merged is not GONE:
                found[key] = merged
        return [found[k] for k in self._order(at, to, list(was), list(me), list(them)) if k in found]

    def _order(self, at: str, to: str, was: list[str], me: list[str], them: list[str]) -> list[str]:
        """Return all keys in the order of whoever changed it; what the other added goes behind what stood before it."""
        everywhere = set(was) & set(me) & set(them)
        turned = [[k for k in x if k in everywhere] for x in (was, me, them)]
        if turned[0] != turned[1] != turned[2] != turned[0]:
            thing = link(self.their_tree, thing_at(self.their_tree, to))
            what = f"order of {plain(to.rsplit('/', 1)[-1])}"
            self.clashes.append(
                Clash(
                    f"{thing.kind} {thing.title}",
                    what,
                    ", ".join(turned[0]),
                    ", ".join(turned[1]),
                    ", ".join(turned[2]),
                    to,
                )
            )
        mine_first = turned[1] != turned[0] and (turned[2] == turned[0] or self.wins == "mine")
        out, other = (list(me), them) if mine_first else (list(them), me)
        for i, key in enumerate(other):
            if key not in out:
                before = next((k for k in reversed(other[:i]) if k in out), None)
                out.insert(out.index(before) + 1 if before is not None else 0, key)
        return out

    def _clash(self, at: str, to: str, my: str, base: Any, mine: Any, theirs: Any) -> None:
        tree, here = (self.their_tree, to) if theirs is not GONE else (self.my_tree, my)
        if theirs is GONE and mine is GONE:
            tree, here = self.base, at
        whole = thing_at(tree, here)
        known = link(tree, whole)
        what = " ".join(plain(s) for s in here[len(whole) + 1 :].split("/") if not s.isdigit())
        lives = jsonpointer.resolve_pointer(self.their_tree, whole, None) is not None and theirs is not GONE
        self.clashes.append(
            Clash(
                f"{known.kind} {known.title}".strip(),
                what,
                _said(base),
                _said(mine),
                _said(theirs),
                whole if lives else None,
            )
        )


def _aligned(base: list[Any], was: dict[str, int], side: list[Any]) -> dict[str, int]:
    """Return key -> index; a thing that has another name on this side goes by the name it had."""
    now = keyed(side)
    gone, come = [was[k] for k in was if k not in now], [now[k] for k in now if k not in was]
    old, new = list(was), {i: k for k, i in now.items()}
    called = {new[j]: old[i] for i, j in renames(base, side, gone, come)}
    return {called.get(key, key): i for key, i in now.items()}


def merge(base: Tree, mine: Tree, theirs: Tree) -> Merged:
    """Merge two documents that both come from a third. Trees are not changed; the results share their parts."""
    sides = []
    for wins in ("mine", "theirs"):
        work = _Merge(base, theirs, mine, wins)
        sides.append((work.value("", "", "", base, mine, theirs), work.clashes))
    return Merged(sides[0][0], sides[1][0], tuple(sides[0][1]))


def meet(base: Tree, mine: Tree, theirs: Tree) -> Meeting:
    """Return what leads from their document to one that holds both edits. All three share the start `base`."""
    merged = merge(base, mine, theirs)
    return Meeting(merged.clashes, difference(theirs, merged.mine), difference(theirs, merged.theirs))


def _said(value: Any) -> str:
    if value is GONE:
        return "not there"
    return (
        written(value)
        if not isinstance(value, dict)
        else ", ".join(f"{plain(k)} {written(v)}" for k, v in value.items())
    )


def _same(one: Any, two: Any) -> bool:
    return one is two or (type(one) is type(two) and one == two)
