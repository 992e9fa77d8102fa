"""Long work that tells how far it is and can be stopped: whoever asks for it lays a watch on it, the core looks at the watch now and then.

Stopped work raises `Stopped` out of wherever it was. What it had finished stays kept by its objects, the rest is worked out at the next
asking: nothing is ever kept half-done, since a value is stored only when it is whole (`once.py`).
"""

from __future__ import annotations

from collections.abc import Collection, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from enum import StrEnum
from typing import TypeVar

from anabasis.errors import Stopped

T = TypeVar("T")


class Work(StrEnum):
    """What takes long."""

    RULES = "rules"
    """What rules permit between groups of hosts."""
    TRANSLATIONS = "translations"
    """What translations may touch, strand by strand."""
    PAIRS = "pairs"
    """Why a pair is not heard."""
    FINDINGS = "findings"
    """Checks."""
    FAULTS = "faults"
    """What each single fault would show."""


@dataclass
class Watch:
    """How far some work is. `stop` may be called from any thread."""

    work: Work | None = None
    done: int = 0
    total: int = 0
    stopped: bool = False

    def stop(self) -> None:
        """Have the work end at the next place where it looks."""
        self.stopped = True


_watch: ContextVar[Watch | None] = ContextVar("watch", default=None)


@contextmanager
def watched(watch: Watch) -> Iterator[None]:
    """Lay a watch on the work that is done inside, in this thread."""
    token = _watch.set(watch)
    try:
        yield
    finally:
        _watch.reset(token)


def look() -> None:
    """Raise Stopped where somebody has stopped this work."""
    watch = _watch.get()
    if watch is not None and watch.stopped:
        raise Stopped


def through(things: Collection[T], work: Work) -> Iterator[T]:
    """Yield the things, telling how many are done; raise Stopped where somebody has stopped this work."""
    watch = _watch.get()
    if watch is None:
        yield from things
        return
    for done, thing in enumerate(things):
        if watch.stopped:
            raise Stopped
        watch.work, watch.done, watch.total = work, done, len(things)
        yield thing
