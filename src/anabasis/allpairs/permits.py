"""What a firewall lets pass between two zones, over classes: its rules as arrays, read first match first."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from anabasis.allpairs.path_table import Zones
from anabasis.classes import AddressClasses, Bits, Mask, Numbers, ServiceAtoms, kinds, packed, unpacked
from anabasis.policy import Policies, RuleLine, Span

Classes = npt.NDArray[np.intp]


@dataclass(frozen=True)
class Lines:
    """The rules between two zones, in order."""

    sources: Mask
    """sources: bool[rule, address_class]"""
    destinations: Mask
    """destinations: bool[rule, address_class]"""
    services: Mask
    """services: bool[rule, service_atom]"""
    permit: tuple[bool, ...]
    default: bool
    rules: tuple[RuleLine, ...] = ()

    def only(self, said: Numbers, sources: Mask, destinations: Mask) -> Lines:
        """Return some of the rules, about some classes: bool[rule, n] of what all rules hold of them."""
        permit = tuple(self.permit[k] for k in said)
        return Lines(sources[said], destinations[said], self.services[said], permit, self.default)


@dataclass(frozen=True)
class Crossed:
    """What one crossing lets pass, by kinds of its own."""

    sources: Numbers
    """int[n], sorted: the address classes it is about"""
    source_kind: Numbers
    """int[n]"""
    destinations: Numbers
    destination_kind: Numbers
    passed: Bits
    """uint64[source kind, destination kind, word]"""


class Permits:
    """The rules of all firewalls for one family."""

    def __init__(
        self,
        policies: Policies,
        classes: AddressClasses,
        spans_at: dict[frozenset[Span], int],
        services: ServiceAtoms,
        version: int,
    ) -> None:
        """`spans_at`: which predicate of the classes stands for a rule's addresses."""
        self._policies, self._classes, self._spans_at, self._services = policies, classes, spans_at, services
        self._possible = packed(services.of_family(version))
        self._known: dict[Zones, Lines] = {}
        self._rows: dict[tuple[Zones, bytes], tuple[Mask, Mask, dict[bytes, Mask]]] = {}
        """By crossing and sources: bool[rule, source], bool[rule], and by the rules that speak of a destination what passes."""

    def between(self, crossing: Zones, sources: Classes, destinations: Classes) -> Mask:
        """Return bool[source, destination, service_atom] for some classes, in any order. Cost: the rules that speak of any of them."""
        lines = self._lines(crossing)
        rows, columns = lines.sources[:, sources], lines.destinations[:, destinations]
        said = np.flatnonzero(rows.any(axis=1) & columns.any(axis=1))
        few = lines.only(said, rows, columns)
        one, two, passed = self._first_match(few)
        return unpacked(passed[one[:, None], two], lines.services.shape[1])

    def onto(self, crossing: Zones, sources: Classes, destination: int) -> Mask:
        """Return bool[source, service_atom] for one destination: the same for all of which the same rules speak, so it is kept."""
        lines, key = self._lines(crossing), (crossing, sources.tobytes())
        if key not in self._rows:
            rows = lines.sources[:, sources]
            self._rows[key] = rows, np.asarray(rows.any(axis=1)), {}
        rows, spoken, known = self._rows[key]
        said = np.flatnonzero(spoken & lines.destinations[:, destination])
        if said.tobytes() not in known:
            few = lines.only(said, rows, np.ones((len(rows), 1), dtype=bool))
            one, two, passed = self._first_match(few)
            known[said.tobytes()] = unpacked(passed[one, two[0]], lines.services.shape[1])
        return known[said.tobytes()]

    def forget(self) -> None:
        """Let go of what is kept for `onto`."""
        self._rows.clear()

    def crossed(self, crossing: Zones, sources: Numbers, destinations: Numbers) -> Crossed:
        """Return what one crossing lets pass, by kinds, for sorted classes."""
        one, two, passed = self._first_match(self.speaking(crossing, sources, destinations))
        return Crossed(sources, one, destinations, two, passed)

    def _first_match(self, lines: Lines) -> tuple[Numbers, Numbers, Bits]:
        """Read rules from the top, kind by kind: the first that matches decides. Cost: rules x kinds of sources x kinds of destinations.

        Return int[source] and int[destination], the kinds, and uint64[source kind, destination kind, word].
        """
        source_kind, rows = kinds(lines.sources)
        destination_kind, columns = kinds(lines.destinations)
        shape = (rows.shape[1], columns.shape[1], len(self._possible))
        passed = np.zeros(shape, dtype=np.uint64)
        left = np.broadcast_to(self._possible, shape).copy()
        for k, services in enumerate(packed(lines.services)):
            here = np.ix_(np.flatnonzero(rows[k]), np.flatnonzero(columns[k]))
            if lines.permit[k]:
                passed[here] |= left[here] & services
            left[here] &= ~services
        if lines.default:
            passed |= left
        return source_kind, destination_kind, passed

    def edited(self, other: Permits) -> Callable[[Zones], bool]:
        """Return what tells whether a crossing may let pass something else than in another state: some rule in the edited run speaks of it."""
        runs: dict[str, list[RuleLine]] = {}
        for device, mine in self._policies.filtering.items():
            theirs = other._policies.filtering[device]
            if (mine.same_zone, mine.between_zones) != (theirs.same_zone, theirs.between_zones):
                return lambda crossing: True
            runs[device] = [] if mine is theirs else _edited_run(mine.rules, theirs.rules)
        # numbers of filter sets outlive the boxes they speak of: one that is gone filters nothing
        return lambda crossing: any(r.meets(crossing[1], crossing[2]) for r in runs.get(crossing[0], ()))

    def speaking(self, crossing: Zones, sources: Classes, destinations: Classes) -> Lines:
        """Return the rules that speak of any of some classes, over those alone. Cost: the classes the rules hold."""
        policy = self._policies.filtering[crossing[0]]
        rules = policy.lines(crossing[1], crossing[2])
        at, to = (
            self.held(sources, [r.sources for r in rules]),
            self.held(destinations, [r.destinations for r in rules]),
        )
        said = np.flatnonzero(at.any(axis=1) & to.any(axis=1))
        masks = [self._services.mask(rules[k].services) for k in said]
        return Lines(
            at[said],
            to[said],
            np.array(masks, dtype=bool).reshape(len(said), len(self._services.atoms)),
            tuple(rules[k].action == "permit" for k in said),
            policy.default(crossing[1], crossing[2])[0] == "permit",
            tuple(rules[k] for k in said),
        )

    def held(self, classes: Classes, spans: list[frozenset[Span]]) -> Mask:
        """Return bool[rule, n]: which of some sorted classes each rule holds."""
        out = np.zeros((len(spans), len(classes)), dtype=bool)
        for row, one in zip(out, spans, strict=True):
            held = self._classes.inside(self._spans_at[one])
            if len(held) < len(classes):
                at = np.searchsorted(classes, held)
                at[at == len(classes)] = 0
                row[at[classes[at] == held]] = True
            else:
                at = np.searchsorted(held, classes)
                at[at == len(held)] = 0
                row[:] = held[at] == classes if len(held) else False
        return out

    def _lines(self, crossing: Zones) -> Lines:
        if crossing not in self._known:
            policy = self._policies.filtering[crossing[0]]
            rules = policy.lines(crossing[1], crossing[2])
            sources = [self._classes.holds(self._spans_at[r.sources]) for r in rules]
            destinations = [self._classes.holds(self._spans_at[r.destinations]) for r in rules]
            shape = len(rules), self._classes.count
            masks = [self._services.mask(r.services) for r in rules]
            width = len(self._services.atoms)
            self._known[crossing] = Lines(
                np.array(sources, dtype=bool).reshape(shape),
                np.array(destinations, dtype=bool).reshape(shape),
                np.array(masks, dtype=bool).reshape(len(rules), width),
                tuple(r.action == "permit" for r in rules),
                policy.default(crossing[1], crossing[2])[0] == "permit",
            )
        return self._known[crossing]


def _edited_run(one: tuple[RuleLine, ...], two: tuple[RuleLine, ...]) -> list[RuleLine]:
    """Return the rules of both between the first and the last place at which they differ, names aside."""
    a, b = (
        [(r.from_zones, r.to_zones, r.sources, r.destinations, r.services, r.action) for r in x] for x in (one, two)
    )
    first = next((k for k, (x, y) in enumerate(zip(a, b, strict=False)) if x != y), min(len(a), len(b)))
    rest = min(len(a), len(b)) - first
    last = next((k for k in range(rest) if a[-1 - k] != b[-1 - k]), rest)
    return [*one[first : len(one) - last], *two[first : len(two) - last]]
