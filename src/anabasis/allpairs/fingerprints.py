"""Fingerprints: numbers of 64 bits that are the same for the same flows, however they are cut into classes.

What a class weighs is the sum over its intervals of the difference of a random function at their ends, so cutting a class in two changes
nothing; a set of flows weighs the sum over its classes of source x destination x service. Two different sets have one fingerprint with odds of
some 1 in 2^60.
"""

from __future__ import annotations

from hashlib import blake2b

import numpy as np
import numpy.typing as npt

from anabasis.allpairs.family import Family
from anabasis.classes import Bits, Numbers, ServiceAtoms, unpacked

Fingerprints = npt.NDArray[np.uint64]


class Weights:
    """What classes and atoms weigh in a fingerprint."""

    def __init__(self, sources: Fingerprints, destinations: Fingerprints, services: ServiceAtoms) -> None:
        self.sources, self.destinations = sources, destinations
        """uint64[address_class]"""
        atoms = [[(p << 20 | low, p << 20 | high) for p, low, high in atom] for atom in services.atoms]
        self._atoms = _weights("service", atoms)

    @classmethod
    def of(cls, family: Family) -> Weights:
        """Return the weights of the classes of a family."""
        spans, version = family.classes.intervals, family.version
        return cls(_weights(f"from{version}", spans), _weights(f"to{version}", spans), family.services)

    def refined(self, family: Family, within: Numbers) -> Weights:
        """Return the weights of other classes; only those that are no whole class here are weighed. `within`: int[class], the class here that each is a part of."""
        parts = np.bincount(within[within >= 0], minlength=len(self.sources))
        cut = np.flatnonzero((within < 0) | (parts[within] > 1))
        spans, version = [family.classes.intervals[c] for c in cut], family.version
        sources, destinations = self.sources[within], self.destinations[within]
        if len(cut):
            sources[cut], destinations[cut] = _weights(f"from{version}", spans), _weights(f"to{version}", spans)
        return Weights(sources, destinations, family.services)

    def services_of(self, sets: Bits) -> Fingerprints:
        """Return uint64[...]: what sets of services weigh."""
        bits = unpacked(sets, len(self._atoms))
        found: Fingerprints = bits.astype(np.uint64) @ self._atoms
        return found


def _weights(salt: str, classes: object) -> Fingerprints:
    def at(x: int) -> int:
        return int.from_bytes(blake2b(f"{salt} {x}".encode(), digest_size=8).digest(), "little")

    sums = [sum(at(high + 1) - at(low) for low, high in spans) % 2**64 for spans in classes]  # type: ignore[attr-defined]
    return np.array(sums, dtype=np.uint64)
