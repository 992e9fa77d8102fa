"""What one address reaches, and who reaches it: exact, from the flows of its segment."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anabasis.allpairs import Sweep
from anabasis.classes import Mask, readable_services
from anabasis.site import find_place
from anabasis.verdicts import Verdicts


@dataclass(frozen=True)
class Exposed:
    """One segment at the other end."""

    segment: str
    services: str
    whole: bool
    """Whether every host there is meant, not some of them only."""


@dataclass(frozen=True)
class Exposure:
    """Everything one address has to do with."""

    address: str
    segment: str
    reaches: list[Exposed]
    reached_by: list[Exposed]


def exposure(verdicts: Verdicts, text: str) -> list[Exposure]:
    """Return what the addresses of a host, segment or port reach and who reaches them, one entry an address family.

    Of a segment the first host stands for the others. Raises UnknownPlace where the text names nothing.
    """
    sweep = verdicts.sweep
    out = []
    for place in find_place(sweep.site, text).places:
        if place.segment is None or place.interface is not None:
            continue
        family = place.address.version
        number = _class_of(sweep, family, int(place.address))
        name = sweep.site.segments.all[place.segment].name
        others = [k for k, s in enumerate(sweep.site.segments.all) if k != place.segment and s.kind != "transit"]
        reaches = [e for k in others if (e := _end(sweep, family, place.segment, k, number, outward=True))]
        reached = [e for k in others if (e := _end(sweep, family, k, place.segment, number, outward=False))]
        out.append(Exposure(str(place.address), name, reaches, reached))
    return out


def _class_of(sweep: Sweep, family: int, address: int) -> int:
    intervals = sweep.families[family].classes.intervals
    return next(k for k, spans in enumerate(intervals) if any(low <= address <= high for low, high in spans))


def _end(sweep: Sweep, family: int, a: int, b: int, number: int, outward: bool) -> Exposed | None:
    """Return the far end of a pair as one class of the near end sees it; None where nothing passes."""
    space = next((s for s in sweep.pair(a, b) if s.family == family), None)
    if space is None:
        return None
    near, axis = (space.sources, 0) if outward else (space.destinations, 1)
    index = np.flatnonzero(near == number)
    if not len(index):
        return None
    allowed: Mask = np.asarray(np.take(space.allowed, index, axis=axis).any(axis=axis))
    if not allowed.any():
        return None
    whole = np.zeros(len(sweep.services.atoms), dtype=bool)
    whole |= allowed.any(axis=0)
    names = sweep.site.policies.terms.service_names
    words = readable_services(sweep.services.spans(whole), family, names)
    far = sweep.site.segments.all[b if outward else a].name
    return Exposed(far, words, bool(allowed.any(axis=1).all()))
