"""In which order the steps of a build sheet are made: what each needs comes before it, and nobody is cut off who need not be.

A step is tried on the document as it stands then: it must be one that the document allows, and the operator must reach every box that is still to be
changed. Steps that are made at once are those that the document does not allow one without the other.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass, replace
from ipaddress import ip_interface
from typing import Any, Literal

from anabasis.building.changes import Change, made
from anabasis.climb import Climb
from anabasis.design import Design, Tree, parse_design
from anabasis.errors import InputRefused
from anabasis.facts import ON_PAPER, ChangeSign, Subject
from anabasis.patience import look
from anabasis.probe import Managed

Order = Literal["boxes", "layers"]
"""`boxes` = all of a box at one go, far ones first; `layers` = each kind of step at all boxes before the next."""
RANK = {subject: k for k, subject in enumerate(Subject)}
MOST_TRIED = 40
"""How many steps are tried for one that cuts nobody off, before the least bad is taken."""


@dataclass(frozen=True)
class Batch:
    """Changes that are one step."""

    device: str
    subject: Subject
    sign: ChangeSign
    changes: tuple[Change, ...]


@dataclass(frozen=True)
class Placed:
    """A step in its place."""

    batch: Batch
    before: Tree
    after: Tree
    climb: Climb
    managed: Managed
    """Whom the operator reaches after it."""
    stood: bool
    """Whether the operator reached the box just before it."""
    cuts: tuple[str, ...]
    """Boxes still to be changed that the operator reaches no longer."""


def stages(one: Tree, two: Tree, changes: list[Change], order: Order) -> list[Batch]:
    """Return the changes in batches of one box and one subject, in the order that is wanted."""
    far = _distances(one if one.get("devices") else two, two.get("operator") or one.get("operator"))
    names = list(dict.fromkeys(d["name"] for tree in (two, one) for d in tree.get("devices", [])))
    place = {n: (-far.get(n, 0), k) for k, n in enumerate(names)} | {"": (-(10**6), -1)}
    # gone first where somebody else is to have the address
    early = {id(c) for c in _in_the_way(changes)}
    held: dict[tuple[Any, ...], list[Change]] = {}
    for change in changes:
        rank = RANK[change.subject]
        paper = change.subject in ON_PAPER
        removes = change.sign == "remove" and id(change) not in early
        if paper:
            stage = 0 if change.sign == "add" or change.subject == Subject.EXPECTATION else 9 if removes else 1
        elif change.subject in (Subject.BOX, Subject.CABLE) and change.sign != "change":
            stage = 7 if removes else 2
        elif change.subject in (Subject.ACTIVE, Subject.SAVE):
            stage = 8
        else:
            stage = 6 if removes else 3
        inner = -rank if removes else rank
        where = place.get(change.device, (0, 0))
        key = (stage, where, inner) if order == "boxes" or stage in (6, 8) else (stage, inner, where)
        held.setdefault(
            (*key, change.device, change.subject, change.sign if stage != 3 else "", id(change) in early), []
        ).append(change)
    out: list[Batch] = []
    for key in sorted(held, key=lambda k: (k[:3], not k[-1])):
        group = held[key]
        signs = {c.sign for c in group}
        out.append(
            Batch(group[0].device, group[0].subject, group[0].sign if len(signs) == 1 else "change", tuple(group))
        )
    return out


def _in_the_way(changes: list[Change]) -> Iterator[Change]:
    """Yield the changes that give up an address which another box, or interface, is to have."""
    gains = [(c, _addresses(c, "after") - _addresses(c, "before")) for c in changes]
    for change in changes:
        lost = _addresses(change, "before") - _addresses(change, "after")
        if lost and any(lost & g for c, g in gains if c is not change):
            yield change


def _addresses(change: Change, side: str) -> set[Any]:
    out: set[Any] = set()
    for line in change.lines:
        value = getattr(line, side)
        held = value.get("addresses") if isinstance(value, dict) and not isinstance(value.get("ports"), list) else None
        if line.kind in ("addresses", "expectations", "rules", "nat"):
            continue
        out |= {ip_interface(a).ip for a in held or () if isinstance(a, str)}
    return out


def _distances(tree: Tree, operator: str | None) -> dict[str, int]:
    """Return how many cables each box is away from where the operator sits; from whatever stands first, where nobody knows."""
    units = {u["name"]: d["name"] for d in tree.get("devices", []) for u in d.get("units", [])}
    near: dict[str, set[str]] = {}
    for cable in tree.get("cables", []):
        one, two = (units.get(e.partition(":")[0], e.partition(":")[0]) for e in cable)
        near.setdefault(one, set()).add(two)
        near.setdefault(two, set()).add(one)
    names = [d["name"] for d in tree.get("devices", [])]
    starts = [n for n in names if n == operator] or _seated(tree, operator) or names[:1]
    out = dict.fromkeys(starts, 0)
    todo = deque(starts)
    while todo:
        name = todo.popleft()
        for other in sorted(near.get(name, ())):
            if other not in out:
                out[other] = out[name] + 1
                todo.append(other)
    return out


def _seated(tree: Tree, operator: str | None) -> list[str]:
    """Return the boxes that have a port in the VLAN of this name without a tag."""
    vlan = next((v["id"] for v in tree.get("vlans", []) if v["name"] == operator), None)
    return [
        d["name"]
        for d in tree.get("devices", [])
        if vlan is not None and any(p.get("pvid") == vlan for p in d.get("ports", []))
    ]


class Ordering:
    """The steps from one document to another, placed one after the other."""

    def __init__(self, one: Tree, design: Design, changes: list[Change], batches: list[Batch], live: bool) -> None:
        """`live`: packets go through the site meanwhile; else nobody is asked whom the operator reaches."""
        self.tree, self.design, self.live = one, design, live
        self.left = list(batches)
        self._numbers = {id(c): k for k, c in enumerate(changes)}
        """In which order changes to one thing were told."""
        self.climb = Climb(design)
        self.managed = self._managed(self.climb)
        self.waiting: set[int] = set()
        """Batches that would cut somebody off, as long as others can be made."""

    def _managed(self, climb: Climb) -> Managed:
        return climb.managed if self.live and climb.design.operator else Managed(False, frozenset(), frozenset())

    def placed(self) -> Iterator[Placed]:
        """Yield the steps."""
        while self.left:
            look()
            yield self._next()

    def _next(self) -> Placed:
        worst: tuple[int, int] | None = None
        best: Placed | None = None
        tried = 0
        for patient in (True, False):
            for k, batch in enumerate(self.left):
                if patient and id(batch) in self.waiting:
                    continue
                if not self._free(k):
                    continue
                found = self._try(batch)
                if found is None:
                    continue
                if not found.cuts:
                    self.waiting.clear()
                    return self._take(found, [batch])
                tried += 1
                if len(batch.changes) > 1:
                    return self._apart(k)
                self.waiting.add(id(batch))
                cost = (len(found.cuts), k)
                if worst is None or cost < worst:
                    worst, best = cost, found
                if tried >= MOST_TRIED:
                    break
        if best is not None:
            return self._take(best, [best.batch])
        return self._together()

    def _apart(self, k: int) -> Placed:
        """Split a batch that cuts somebody off as a whole, and go on."""
        batch = self.left[k]
        self.left[k : k + 1] = [replace(batch, sign=c.sign, changes=(c,)) for c in batch.changes]
        return self._next()

    def _together(self) -> Placed:
        """Make as few at once as the document allows, the first among them."""
        first = self.left[0]
        device = [b for b in self.left if b.device == first.device]
        for group in (device, self.left):
            if len(group) == 1 and group is not self.left:
                continue
            merged = self._merged(group)
            for size in range(2, len(group)):  # the shortest run from the first on that is allowed
                smaller = self._merged(group[:size])
                found = self._try(smaller)
                if found is not None:
                    return self._take(found, group[:size])
            found = self._try(merged)
            if found is not None:
                return self._take(found, list(group))
        if len(first.changes) > 1:
            self.left[:1] = [replace(first, sign=c.sign, changes=(c,)) for c in first.changes]
            return self._next()
        found = self._try(self._merged(self.left))
        assert found is not None  # the document at the end is one that is allowed
        return self._take(found, list(self.left))

    def _merged(self, group: list[Batch]) -> Batch:
        changes = [c for b in group for c in b.changes]
        positions = {id(c): k for k, c in enumerate(changes)}
        changes.sort(key=lambda c: (max(len(o.path) for o in c.ops), positions[id(c)]))
        sign = group[0].sign if len({b.sign for b in group}) == 1 else "change"
        return Batch(group[0].device, group[0].subject, sign, tuple(changes))

    def _free(self, k: int) -> bool:
        """Tell whether nothing that is left has to come before a batch: what its things stand in, and earlier changes to the same."""
        mine = [o.path for c in self.left[k].changes for o in c.ops]
        roots = {p[:n] for p in mine for n in range(1, len(p) + 1)}
        own = {id(c) for c in self.left[k].changes}
        numbers = {id(c): self._numbers[id(c)] for c in self.left[k].changes}
        first = max(numbers.values())
        for other in self.left:
            for change in other.changes:
                if id(change) in own or self._numbers[id(change)] >= first:
                    continue
                if any(o.path in roots and not o.sorts for o in change.ops):
                    return False
        return True

    def _try(self, batch: Batch) -> Placed | None:
        """Return a step made now; None where the document does not allow it."""
        after = self.tree
        for change in batch.changes:
            after = made(after, change)
        try:
            design = parse_design(after, known=(self.tree, self.design))
        except InputRefused:
            return None
        climb = self.climb.edited(design)
        still = {b.device for b in self.left if b is not batch and b.subject not in (*ON_PAPER, Subject.SAVE)} - {""}
        now = self._managed(climb) if batch.subject not in ON_PAPER and self.managed.reached & still else self.managed
        cuts = tuple(sorted((self.managed.reached & still) - now.reached))
        stood = batch.device in self.managed.reached
        return Placed(batch, self.tree, after, climb, now, stood, cuts)

    def _take(self, found: Placed, used: list[Batch]) -> Placed:
        self.left = [b for b in self.left if all(b is not u for u in used)]
        self.tree, self.design, self.climb = found.after, found.climb.design, found.climb
        if found.managed is self.managed and self.live and found.batch.subject not in ON_PAPER:
            found = replace(found, managed=self._managed(found.climb))
        self.managed = found.managed
        return found
