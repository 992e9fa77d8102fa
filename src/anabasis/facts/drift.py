"""What differs between a design and what a site said of itself, as facts."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Any


class Differs(StrEnum):
    """How one thing of the site is otherwise than in the design."""

    OTHERWISE = "otherwise"
    """Both have it, with another value."""
    DESIGN_ONLY = "design-only"
    """The design has it, and the box did not speak of it."""
    SITE_ONLY = "site-only"
    """The box has it, and the design does not."""
    DOWN = "down"
    """The box says it is down, and by the design it is up: nothing to write down, something to look at."""
    STUB = "stub"
    """A box that its neighbours speak of, that was not asked, and that the design has not."""


@dataclass(frozen=True)
class Drift:
    """One difference, and where it lies."""

    what: Differs
    device: str
    """Empty = of the site as a whole: a cable, a VLAN of the plan, a box."""
    path: tuple[str, ...]
    """From the box down: a list and the name of an entry in turn, then a setting; as `ports`, `24`, `pvid`."""
    design: Any = None
    site: Any = None
    """The values, as the document writes them; None = it has none."""
    after: str | None = None
    """Of an entry that the site alone has, in a list whose order decides: the one before it there; empty = it is the first."""

    @property
    def key(self) -> str:
        """Return what tells it from the others of a survey."""
        return "/".join((self.what, self.device, *self.path))
