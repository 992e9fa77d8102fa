"""Every error Anabasis raises on purpose, in one tree.

    AnabasisError               the root; nothing else is raised on purpose
    ├── InputRefused            the caller's document, edit or question is wrong; carries every problem found
    │   ├── UnreadableFile      the text is not YAML or JSON at all, or cannot be opened
    │   └── UnknownPlace        a question names an address, segment or port that the design does not have
    ├── NoSuchThing             the design asked for is not stored
    ├── Outdated                the draft moved on since the caller last saw it; carries what changed
    ├── MissingVersion          an edit came without the version its author saw
    ├── Stopped                 the caller wants the answer no more; nothing half-done is kept
    ├── NothingToUndo           undo or redo was asked for with nothing to take back or do again
    ├── NotHolding              publishing was refused: expectations fail, and no reason was given to publish all the same
    ├── NotSignedIn             nobody is signed in, or the session has ended
    │   └── NotLetIn            the name, the password or the link is not right
    ├── NotAllowed              the person may not do this, or the request did not come from our own page
    ├── TooManyTries            signing in failed too often; carries the seconds to wait
    ├── TooLarge                more was sent than is taken
    ├── StoreUnavailable        the database does not answer; nothing was changed
    └── WorkersLost             whoever should work is gone; what they had done is kept

Exit status of the command line and status of the HTTP interface are derived from these classes and nowhere else.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass

from rapidfuzz import fuzz, process
from rapidfuzz.distance import Prefix

MOST_TOLD = 200
"""How many problems of one input are told; somebody who mends these asks again."""


@dataclass(frozen=True)
class Problem:
    """One thing wrong with an input: where, what was given, what is allowed, and the nearest name that would do."""

    pointer: str
    """JSON Pointer (RFC 6901) into the document; empty = the whole document."""
    message: str
    given: str = ""
    allowed: str = ""
    nearest: str | None = None

    def sentence(self) -> str:
        """Return the problem as one line."""
        text = f"{self.pointer}: {self.message}" if self.pointer else self.message
        if self.given:
            text += f"; given {self.given}"
        if self.allowed:
            text += f"; allowed: {self.allowed}"
        if self.nearest:
            text += f"; did you mean {self.nearest!r}?"
        return text

    def as_dict(self) -> dict[str, str | None]:
        """Return the problem for JSON."""
        return asdict(self)


class AnabasisError(Exception):
    """The root: something the caller should be told in words."""

    title = "Anabasis could not do this"


class InputRefused(AnabasisError):
    """The input is wrong; nothing was changed."""

    title = "The input was refused"

    def __init__(self, problems: Sequence[Problem], source: str = "") -> None:
        rest = len(problems) - MOST_TOLD
        more = (Problem("", "and more of the kind"),) if rest > 0 else ()
        self.problems = (*problems[:MOST_TOLD], *more)
        self.source = source
        head = f"{source}: " if source else ""
        super().__init__("\n".join(head + p.sentence() for p in self.problems))


class UnreadableFile(InputRefused):
    """The text cannot be opened or is neither YAML nor JSON."""

    title = "The file cannot be read"


class UnknownPlace(InputRefused):
    """A question names something that the design does not have."""

    title = "The design has no such place"


class NoSuchThing(AnabasisError):
    """What was asked for is not stored."""

    title = "There is no such thing"


class Outdated(AnabasisError):
    """The draft moved on; `changes` holds the edits made since the version the caller saw."""

    title = "The draft has changed since you last saw it"

    def __init__(self, seen: int, now: int, changes: Sequence[dict[str, object]]) -> None:
        self.seen, self.now, self.changes = seen, now, tuple(changes)
        self.clash: object = None
        """What the edit and those made meanwhile both changed, once somebody has worked it out."""
        super().__init__(f"You saw version {seen}; the draft is at version {now}. Look at what changed and try again.")


class MissingVersion(AnabasisError):
    """An edit came without the version its author saw."""

    title = "The version you saw is missing"


class NothingToUndo(AnabasisError):
    """No edit is left to take back, or to do again."""

    title = "There is nothing to take back"


class NotHolding(AnabasisError):
    """Expectations fail; nothing was published. `failing` holds their names."""

    title = "Not published: expectations fail"

    def __init__(self, failing: Sequence[str]) -> None:
        self.failing = tuple(failing)
        super().__init__(f"{', '.join(failing)}: mend that, or say why it is to be published all the same.")


class Stopped(AnabasisError):
    """Work that takes long was stopped by the one who asked for it."""

    title = "Stopped"

    def __init__(self) -> None:
        super().__init__("You stopped this. Ask again to have it worked out.")


class NotSignedIn(AnabasisError):
    """Nobody is signed in."""

    title = "Please sign in"


class NotLetIn(NotSignedIn):
    """The name, the password or the link is not right."""

    title = "Not signed in"


class NotAllowed(AnabasisError):
    """The person may not do this, or the request did not come from our own page."""

    title = "This is not allowed"


class TooManyTries(AnabasisError):
    """Signing in failed too often."""

    title = "Too many tries"

    def __init__(self, wait_s: int) -> None:
        self.wait_s = wait_s
        wait = f"{wait_s // 60} minutes" if wait_s >= 60 else f"{wait_s} seconds"
        super().__init__(f"Signing in was tried too often. Try again in {wait}.")


class TooLarge(AnabasisError):
    """More was sent than is taken."""

    title = "Too large"


class StoreUnavailable(AnabasisError):
    """The database does not answer; nothing was changed."""

    title = "The store does not answer"


class WorkersLost(AnabasisError):
    """Whoever should work is gone; what they had done is kept."""

    title = "The workers are gone"

    def __init__(self, how: str) -> None:
        super().__init__(f"The scheduler or its workers are gone ({how}); what they had done is kept.")


def nearest(given: str, known: Sequence[str]) -> str | None:
    """Return the known name closest to `given`, of equals the one that begins alike longest, or None where none is close."""
    given = given[:LOOKED_AT]
    close = process.extract(given, known, scorer=fuzz.ratio, score_cutoff=CLOSE)
    return max(close, key=lambda c: (c[1], Prefix.similarity(given, c[0])), default=(None,))[0]


LOOKED_AT, CLOSE = 80, 60
"""Letters of a name that are compared in search of the nearest, and the percentage of them that must agree."""
