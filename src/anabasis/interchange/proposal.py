"""What a reader answers: an edit, what it could not place, what it assumed, and what it has no place for."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.design import Patch
from anabasis.errors import Problem
from anabasis.facts import Assumption


@dataclass(frozen=True)
class Unplaced:
    """A row that has no place, with its line and why."""

    line: int
    text: str
    """The row as it was given, for mending."""
    problem: Problem


@dataclass(frozen=True)
class Proposal:
    """What reading a table would do."""

    kind: str
    patch: Patch
    placed: int
    """Rows that say something the design can hold, changed or not."""
    unplaced: tuple[Unplaced, ...]
    assumed: tuple[Assumption, ...]
    columns: tuple[str | None, ...]
    """By column of the table what it is read as; None = nothing."""
    headings: tuple[str, ...]
    """The headings as given; empty where there are none."""
    kept: int
    """Things of the kind that no row speaks of; they stay as they are."""
