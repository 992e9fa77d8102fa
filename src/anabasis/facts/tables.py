"""What a reader of tables, or of files of others, takes for granted, as facts."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Assumed(StrEnum):
    """What is taken for granted where a table does not say it."""

    DEVICE = "device"
    """A box that is not in the design: of a kind."""
    VLAN = "vlan"
    """A VLAN that is not in the plan: of a name."""
    HEADINGS = "headings"
    """The table has no line of headings: the columns are those of its kind, in their order."""
    HEADING = "heading"
    """A heading is another word for a column."""
    PORT = "port"
    """A port that is not on its box."""
    FOREIGN = "foreign"
    """Something said that the design has no place for, so often."""


@dataclass(frozen=True)
class Assumption:
    """One thing taken for granted."""

    what: Assumed
    name: str
    """What it is about: a box, a number, a heading, columns."""
    taken_for: str = ""
