"""One case judged by harm: expectations broken open, broken closed, reach lost for good and meanwhile."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass
from hashlib import sha256
from time import perf_counter
from typing import Any

from anabasis.campaign.cases import Case, fault_named
from anabasis.climb import Climb
from anabasis.design import Tree, parse_design
from anabasis.design.together import together
from anabasis.errors import InputRefused
from anabasis.fabric import Conditions, conditions_of
from anabasis.failover import WhatIf
from anabasis.verdicts import Judged, lost_pairs


@dataclass(frozen=True)
class Row:
    """A case, and what it does."""

    design: str
    digest: str
    """Of the document: a row of another state of it is not taken for this one's."""
    failed: tuple[str, ...]
    faults: tuple[str, ...]
    opened: tuple[str, ...]
    """Expectations that something must stay closed, and is open."""
    closed: tuple[str, ...]
    """Expectations that something must be open, and is not."""
    lost: int
    """Ordered pairs of segments that lose flows for good."""
    meanwhile: int
    """Those that lose flows until another unit has taken over."""
    split_brain: bool
    refused: bool
    """The document does not allow such a mistake, or not these two together."""
    seconds: float

    @property
    def harm(self) -> tuple[int, int, int, int]:
        """Return what rows are sorted by, the worst highest: broken open, broken closed, lost for good, lost meanwhile."""
        return len(self.opened), len(self.closed), self.lost, self.meanwhile

    @property
    def key(self) -> str:
        """Return the key of its case."""
        return Case(self.design, self.failed, self.faults).key

    def as_dict(self) -> dict[str, Any]:
        """Return it for JSON."""
        return asdict(self)


def digest_of(tree: Tree) -> str:
    """Return what tells one state of a document from another."""
    return sha256(json.dumps(tree, sort_keys=True).encode()).hexdigest()[:16]


class Judge:
    """Judges cases of one design. Keeps the sound state, and takes over from it what a case does not touch."""

    def __init__(self, tree: Tree) -> None:
        """Raises InputRefused where the document is none."""
        self.tree, self.digest = tree, digest_of(tree)
        self.sound = Climb(parse_design(tree))
        self.held = {j.name: j for j in self.sound.expectations if j.holds}
        self._what_if: WhatIf | None = None

    def judge(self, case: Case) -> Row:
        """Return what a case does. Raises UnknownPlace where it names what the design has not."""
        begun = perf_counter()
        edits = [fault_named(self.tree, f).edit for f in case.faults]
        opened: dict[str, None] = {}
        closed: dict[str, None] = {}
        lost: set[tuple[str, str]] = set()
        meanwhile: set[tuple[str, str]] = set()
        split = refused = False
        try:
            state = self._with(edits) if edits else self.sound
            if edits:
                _broken(state.expectations, self.held, opened, closed)
                lost = {(a, b) for a, b, _ in lost_pairs(self.sound.sweep, state.sweep)}
            if case.failed:
                conditions = conditions_of(state.design, case.failed)
                event = self._what_if_of(state, bool(edits)).event(conditions)
                lost |= {(x.source, x.target) for x in event.settled.lost}
                meanwhile = {(x.source, x.target) for m in event.moments[:-1] for x in m.lost} - lost
                split = event.split_brain
                self._failed(state, conditions, event.settled.broken, opened, closed)
        except InputRefused:
            refused = True
        return Row(
            case.design,
            self.digest,
            case.failed,
            case.faults,
            tuple(opened),
            tuple(closed),
            len(lost),
            len(meanwhile),
            split,
            refused,
            round(perf_counter() - begun, 4),
        )

    def _with(self, edits: list[Any]) -> Climb:
        tree = together(self.tree, edits)
        return self.sound.edited(parse_design(tree, known=(self.tree, self.sound.design)))

    def _what_if_of(self, state: Climb, edited: bool) -> WhatIf:
        if edited:
            return WhatIf(state.design, well=state.sweep)
        if self._what_if is None:
            self._what_if = WhatIf(self.sound.design, well=self.sound.sweep)
        return self._what_if

    def _failed(
        self,
        state: Climb,
        conditions: Conditions,
        broken: tuple[str, ...],
        opened: dict[str, None],
        closed: dict[str, None],
    ) -> None:
        """Sort the expectations that a failure breaks by how: those that say `closed` or `only` are looked at anew, since one end of them may be gone."""
        looked = {n for n in broken if n in self.held and self.held[n].expect != "open"}
        if looked:
            _broken(Climb(state.design, conditions).judged(looked), self.held, opened, closed)
        closed |= dict.fromkeys(n for n in broken if n in self.held and n not in looked)


def _broken(judged: list[Judged], held: dict[str, Judged], opened: dict[str, None], closed: dict[str, None]) -> None:
    for j in judged:
        if j.holds or j.name not in held:
            continue
        (opened if j.opened else closed)[j.name] = None
