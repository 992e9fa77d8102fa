"""The climb: everything derived from one checked design, each step computed when it is first asked for.

The one value that the command line and the server hold; they compute nothing themselves.
"""

from __future__ import annotations

from functools import cached_property

from anabasis.design import Design
from anabasis.fabric import ALL_WELL, Conditions
from anabasis.findings import Finding, find_all
from anabasis.reach import Question, Site, Sweep, Verdicts, Walk, build_site, choose_ends, find_place, one_service, walk


class Climb:
    """A design and all that follows from it under given conditions."""

    def __init__(self, design: Design, conditions: Conditions = ALL_WELL) -> None:
        self.design, self.conditions = design, conditions
        self._verdicts: dict[Question, Verdicts] = {}

    @cached_property
    def site(self) -> Site:
        """Return layers 1 to 3 and the policies."""
        return build_site(self.design, self.conditions)

    @cached_property
    def sweep(self) -> Sweep:
        """Return the exact flows of all pairs."""
        return Sweep(self.site)

    def verdicts(self, question: Question | None = None) -> Verdicts:
        """Return the verdicts for a question, kept for the next time it is asked."""
        asked = question or Question()
        if asked not in self._verdicts:
            self._verdicts[asked] = Verdicts(self.sweep, asked)
        return self._verdicts[asked]

    def walk(self, source: str, target: str, service: str) -> Walk:
        """Send one packet between two places in words, and its reply. Raises UnknownPlace where a word names nothing."""
        ends = find_place(self.site, source), find_place(self.site, target)
        shared = ends[0].families & ends[1].families
        concrete = one_service(self.site, service, shared)
        return walk(self.site, *choose_ends(*ends, concrete), concrete)

    @cached_property
    def findings(self) -> list[Finding]:
        """Return what to mend."""
        return find_all(self.verdicts())
