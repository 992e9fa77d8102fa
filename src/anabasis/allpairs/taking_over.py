"""What matrices take over from another state: what tells the two apart, and values carried on by the numbers of now."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, TypeVar

import numpy as np
import numpy.typing as npt

from anabasis.allpairs.fingerprints import Fingerprints
from anabasis.allpairs.path_table import Zones
from anabasis.allpairs.permits import Crossed
from anabasis.classes import Bits, Mask, Numbers, packed, unpacked

if TYPE_CHECKING:
    from anabasis.allpairs.forwarding_classes import ForwardingClasses

Scalar = TypeVar("Scalar", bound=np.generic)


@dataclass(frozen=True)
class Arrived:
    """What of the flows of some fecs to one class of addresses gets to a host group through translations."""

    owner: Numbers
    """int[source]: the forwarding class of each source"""
    sources: Numbers
    """int[source]: its address class"""
    goal: int
    fec: int
    """The forwarding class that has the address itself; -1 = another address stands for it."""
    segment: int
    passed: Bits
    """uint64[source, word]"""


@dataclass(frozen=True)
class Followed:
    """What became of the flows of some senders to one class of addresses, and what that stands on."""

    arrived: tuple[Arrived, ...]
    met: frozenset[int]
    """The classes of the plane whose way was asked for: what translations make of destinations, and where replies go."""
    read: frozenset[Zones]
    """The crossings whose rules they met."""


Sent = tuple[tuple[int, ...], int]
"""The groups that send, and the class of addresses they send to."""


@dataclass(frozen=True)
class Change:
    """What tells one state from another."""

    classes: Numbers
    """int[address_class]: the class there that each is a part of"""
    atoms: Numbers
    """int[service_atom]: the atom there that each is a part of"""
    fecs: Numbers | None
    """int[fec]: its number there, -1 = there was none like it; None = the forwarding classes are the same, by the same numbers."""
    edited: frozenset[Zones]
    """The crossings of which some edited rule speaks."""
    edits: Callable[[Zones], bool]
    """Tells the same of any crossing."""


@dataclass(frozen=True)
class Carried:
    """What was known in the other state, to be corrected by what is fresh."""

    tallies: dict[bytes, tuple[Mask, Mask]]
    fingerprints: Fingerprints | None
    followed: dict[Sent, Followed]
    fecs: Numbers | None = None
    gone: Mask | None = None
    """bool[fec, fec]: pairs of which nothing is taken over; None = forwarding is the same."""

    def over(self, known: npt.NDArray[Scalar]) -> npt.NDArray[Scalar]:
        """Return what was said of every two forwarding classes, by their numbers now; zero where nothing is taken over."""
        out: npt.NDArray[Scalar] = known.copy() if self.fecs is None else known[np.ix_(self.fecs, self.fecs)]
        if self.gone is not None:
            out[self.gone] = 0
        return out


class Finer:
    """Values over classes and atoms of another state, over those of now."""

    def __init__(self, change: Change, classes: int, atoms: int) -> None:
        """`classes`, `atoms`: how many there were."""
        self._within, self._classes, self._atoms = change.classes, classes, atoms
        self._grows = len(change.classes) >= classes and np.array_equal(change.classes[:classes], np.arange(classes))
        """Classes keep their numbers, and parts cut out of them come behind."""
        self._born = np.arange(classes, len(change.classes))
        self._parents = change.classes[classes:]
        self._of_atom = change.atoms if len(change.atoms) > atoms else None

    def crossed(self, known: Crossed) -> Crossed:
        """Return what a crossing lets pass: a part of a class is of the kind of the whole."""
        sources, source_kind = self._over(known.sources, known.source_kind)
        destinations, destination_kind = self._over(known.destinations, known.destination_kind)
        return Crossed(sources, source_kind, destinations, destination_kind, self.services(known.passed))

    def _over(self, classes: Numbers, kind: Numbers) -> tuple[Numbers, Numbers]:
        if not len(classes):
            return classes, kind
        if not self._grows:
            kind_of = np.full(self._classes + 1, -1, dtype=np.intp)  # the last stands for -1
            kind_of[classes] = kind
            told = kind_of[self._within]
            held = np.flatnonzero(told >= 0)
            return held, told[held]
        at = np.minimum(np.searchsorted(classes, self._parents), len(classes) - 1)
        mine = classes[at] == self._parents
        if not mine.any():
            return classes, kind
        return np.append(classes, self._born[mine]), np.append(kind, kind[at[mine]])

    def services(self, sets: Bits) -> Bits:
        """Return sets of atoms over the finer atoms."""
        return sets if self._of_atom is None else packed(unpacked(sets, self._atoms)[..., self._of_atom])

    def key(self, key: bytes) -> bytes:
        """Return the key of a question, which is a set of atoms."""
        return self.services(np.frombuffer(key, dtype=np.uint64)).tobytes()

    def followed(self, sent: Sent, known: Followed) -> Iterator[tuple[Sent, Followed]]:
        """Yield what was followed, once for every part of the class it was sent to."""
        groups, goal = sent
        finer = [self._arrived(a) for a in known.arrived]
        for part in (goal, *self._born[self._parents == goal].tolist()):
            yield (groups, part), replace(known, arrived=tuple(replace(a, goal=part) for a in finer))

    def _arrived(self, known: Arrived) -> Arrived:
        """Return what arrived from finer sources, over finer services."""
        passed = self.services(known.passed)
        owner, sources = known.owner, known.sources
        for child, parent in zip(self._born.tolist(), self._parents.tolist(), strict=True):
            mine = np.flatnonzero(known.sources == parent)
            if len(mine):
                owner, sources = np.append(owner, known.owner[mine]), np.append(sources, np.full(len(mine), child))
                passed = np.concatenate([passed, self.services(known.passed[mine])])
        return replace(known, owner=owner, sources=sources, passed=passed)


class Renumbered:
    """What arrived in another state, by the numbers of now."""

    def __init__(self, fecs: Numbers, segments: dict[int, int]) -> None:
        """`fecs`: int[fec there]: its number now, -1 = gone; `segments`: those of then -> those of now."""
        self._fecs, self._segments = fecs, segments
        self._same = np.array_equal(fecs, np.arange(len(fecs))) and all(a == b for a, b in segments.items())

    @staticmethod
    def of(now: ForwardingClasses, then: ForwardingClasses, old: Numbers) -> Renumbered:
        """`old`: int[fec]: its number there, -1 = there was none like it."""
        fecs = np.full(len(then.place), -1, dtype=np.intp)
        stay = np.flatnonzero(old >= 0)
        fecs[old[stay]] = stay
        pairs = {*zip(then.segment[old[stay]].tolist(), now.segment[stay].tolist(), strict=True)}
        told = Counter(a for a, _ in pairs)
        return Renumbered(fecs, {a: b for a, b in pairs if told[a] == 1})

    def __call__(self, known: Arrived) -> Arrived | None:
        """Return the same by the numbers of now; None where something of it is gone."""
        if self._same:
            return known
        owner, fec = self._fecs[known.owner], int(self._fecs[known.fec]) if known.fec >= 0 else -1
        segment = self._segments.get(known.segment)
        if segment is None or (owner < 0).any() or (fec < 0 <= known.fec):
            return None
        return replace(known, owner=owner, fec=fec, segment=segment)
