"""Things of a network that work unless a cause says otherwise."""

from __future__ import annotations

from typing import TYPE_CHECKING

from anabasis.wording.causes import say

if TYPE_CHECKING:
    from anabasis.facts import Cause


class Reasoned:
    """A port, a bundle, an interface or a route: with a cause it does not work, without one it does."""

    cause: Cause | None
    """What keeps it from working; None while it works."""
    waits: bool = False
    """Nothing is plugged in that would hold it up; for reach it counts as working, since hosts may stand there."""

    @property
    def up(self) -> bool:
        """Tell whether it works, as far as reach goes."""
        return self.cause is None

    @property
    def reason(self) -> str:
        """Return why it does not work, or not yet, for a person; empty while it works."""
        return "comes up when something is plugged in" if self.waits else say(self.cause)
