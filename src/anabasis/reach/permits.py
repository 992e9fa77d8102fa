"""What a firewall lets pass between two zones, over classes: its rules as arrays, read first match first."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from anabasis.policy import Policies, Span
from anabasis.reach.paths import Zones
from anabasis.reach.spaces import Mask, ServiceAtoms

Classes = npt.NDArray[np.intp]


@dataclass(frozen=True)
class _Lines:
    """The rules between two zones, in order."""

    sources: Mask
    """sources: bool[rule, address_class]"""
    destinations: Mask
    """destinations: bool[rule, address_class]"""
    services: Mask
    """services: bool[rule, service_atom]"""
    permit: tuple[bool, ...]
    default: bool


class Permits:
    """The rules of all firewalls for one family."""

    def __init__(
        self, policies: Policies, member: Mask, spans_at: dict[frozenset[Span], int], services: ServiceAtoms
    ) -> None:
        """`member`: bool[predicate, address_class]; `spans_at`: which predicate stands for a rule's addresses."""
        self._policies, self._member, self._spans_at, self._services = policies, member, spans_at, services
        self._known: dict[Zones, _Lines] = {}

    def between(self, crossing: Zones, sources: Classes, destinations: Classes) -> Mask:
        """Return bool[source, destination, service_atom] for some classes. Cost: the rules that speak of any of them."""
        lines = self._lines(crossing)
        rows, columns = lines.sources[:, sources], lines.destinations[:, destinations]
        shape = (len(sources), len(destinations), lines.services.shape[1])
        passed = np.zeros(shape, dtype=bool)
        open_ = np.ones(shape, dtype=bool)
        for k in np.flatnonzero(rows.any(axis=1) & columns.any(axis=1)):
            meets = open_ & (rows[k][:, None] & columns[k][None, :])[:, :, None] & lines.services[k]
            if lines.permit[k]:
                passed |= meets
            open_ &= ~meets
        return passed | open_ if lines.default else passed

    def _lines(self, crossing: Zones) -> _Lines:
        if crossing not in self._known:
            policy = self._policies.of[crossing[0]]
            rules = policy.lines(crossing[1], crossing[2])
            at = [(self._spans_at[r.sources], self._spans_at[r.destinations]) for r in rules]
            masks = [self._services.mask(r.services) for r in rules]
            width = len(self._services.atoms)
            self._known[crossing] = _Lines(
                self._member[[s for s, _ in at]],
                self._member[[d for _, d in at]],
                np.array(masks, dtype=bool).reshape(len(rules), width),
                tuple(r.action == "permit" for r in rules),
                policy.default(crossing[1], crossing[2])[0] == "permit",
            )
        return self._known[crossing]
