"""Expectations as a table shows them: what is judged, whether it holds, and what shows it, as a fact and in words."""

from __future__ import annotations

from dataclasses import dataclass, fields

from anabasis.facts import Cause, Ground, Judgement
from anabasis.verdicts import Judged


@dataclass(frozen=True)
class ExpectationRow:
    """One expectation, and whether it holds."""

    name: str
    pointer: str
    source: str
    target: str
    services: list[str]
    expect: str
    through: str | None
    holds: bool
    verdict: Judgement
    reason: str
    """What shows it, in words."""
    ground: Ground
    """The same as a fact."""
    decided_by: list[str]
    note: str | None
    cause: Cause | None
    """What stops the flow that shows it, where one has to pass and does not."""


def expectation_rows(judged: list[Judged]) -> list[ExpectationRow]:
    """Return a row an expectation, in the order of the document."""
    return [ExpectationRow(**{f.name: getattr(j, f.name) for f in fields(ExpectationRow)}) for j in judged]
