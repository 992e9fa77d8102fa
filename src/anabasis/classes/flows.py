"""Sets of flows as disjoint boxes: sources x destinations x services (header space, Kazemian, Varghese and McKeown, NSDI 2012, cut to boxes)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from anabasis.classes.addresses import Mask, paint
from anabasis.classes.services import ServiceAtoms, merge_services
from anabasis.once import once
from anabasis.policy import ServiceSpan
from anabasis.routing import Interval, Intervals, merge


@dataclass(frozen=True)
class Box:
    """A product of sets: every source in it may send every service in it to every destination in it."""

    family: int
    sources: tuple[Interval, ...]
    destinations: tuple[Interval, ...]
    services: tuple[ServiceSpan, ...]


@dataclass(frozen=True)
class FlowSet:
    """A set of flows as disjoint boxes."""

    boxes: tuple[Box, ...]

    def __bool__(self) -> bool:
        """Tell whether any flow is in the set."""
        return bool(self.boxes)

    def minus(self, other: FlowSet) -> FlowSet:
        """Return the flows in this set and not in the other; exact."""
        if self.boxes == other.boxes or not self.boxes:
            return FlowSet(())
        out: list[Box] = []
        for family in {b.family for b in self.boxes}:
            raster = _Raster(family, [*self.boxes, *other.boxes])
            out += raster.boxes(raster.fill(self.boxes) & ~raster.fill(other.boxes))
        return FlowSet(tuple(out))

    @once
    def services(self) -> tuple[ServiceSpan, ...]:
        """Return every service that some flow of the set has."""
        return merge_services(s for b in self.boxes for s in b.services)


class _Raster:
    """The common refinement of some boxes of one family, as a boolean array [source_piece, destination_piece, service_piece]."""

    def __init__(self, family: int, boxes: Iterable[Box]) -> None:
        mine = [b for b in boxes if b.family == family]
        self.family = family
        self.sources = _edges(i for b in mine for i in b.sources)
        self.destinations = _edges(i for b in mine for i in b.destinations)
        self.services = ServiceAtoms([frozenset(s for b in mine for s in b.services)])

    def fill(self, boxes: Iterable[Box]) -> Mask:
        shape = (len(self.sources) - 1, len(self.destinations) - 1, len(self.services.atoms))
        filled = np.zeros(shape, dtype=bool)
        for box in boxes:
            if box.family == self.family:
                rows, columns = np.zeros(shape[0], dtype=bool), np.zeros(shape[1], dtype=bool)
                paint(rows, self.sources, box.sources)
                paint(columns, self.destinations, box.destinations)
                filled |= (
                    rows[:, None, None]
                    & columns[None, :, None]
                    & self.services.mask(frozenset(box.services))[None, None, :]
                )
        return filled

    def boxes(self, filled: Mask) -> list[Box]:
        return boxes_of(
            self.family,
            [[(a, b - 1)] for a, b in pairwise(self.sources)],
            [[(a, b - 1)] for a, b in pairwise(self.destinations)],
            self.services,
            filled,
        )


def _edges(spans: Iterable[Interval]) -> list[int]:
    return sorted({x for low, high in spans for x in (low, high + 1)})


def boxes_of(
    family: int,
    sources: Sequence[Intervals],
    destinations: Sequence[Intervals],
    services: ServiceAtoms,
    allowed: Mask,
    within: frozenset[ServiceSpan] | None = None,
) -> list[Box]:
    """Write allowed: bool[source, destination, service_atom] as disjoint boxes, fewest where sources or destinations agree."""
    out: list[Box] = []
    rows: dict[bytes, list[int]] = {}
    for s in range(allowed.shape[0]):
        if allowed[s].any():
            rows.setdefault(allowed[s].tobytes(), []).append(s)
    for alike in rows.values():
        slab = allowed[alike[0]]
        columns: dict[bytes, list[int]] = {}
        for d in range(slab.shape[0]):
            if slab[d].any():
                columns.setdefault(slab[d].tobytes(), []).append(d)
        for same in columns.values():
            spans = services.spans(slab[same[0]], within)
            if spans:
                froms = tuple(merge(i for s in alike for i in sources[s]))
                tos = tuple(merge(i for d in same for i in destinations[d]))
                out.append(Box(family, froms, tos, spans))
    return sorted(out, key=lambda b: (b.sources, b.destinations))
