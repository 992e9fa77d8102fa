"""Sweeps of failures that go on in the background: one a design, few at once, each belonging to who began it."""

from __future__ import annotations

import logging
from dataclasses import dataclass, field
from threading import BoundedSemaphore, Lock, Thread
from time import monotonic
from typing import Literal

from anabasis.design import Design
from anabasis.errors import NoSuchThing, NotAllowed
from anabasis.failover import Progress, sweep_failures
from anabasis.views import SweptRow, swept_rows

LOG = logging.getLogger("anabasis.sweeps")
AT_ONCE = 2
"""Sweeps that are worked on at a time; others wait their turn."""
KEPT_S = 3600.0
"""How long the outcome of one is kept after it was last asked for."""


SweepState = Literal["running", "ended", "stopped", "failed"]


@dataclass
class Sweep:
    """One sweep that goes on, or has ended."""

    version: int
    depth: int
    by: str
    """Who began it; nobody else stops it while the design is as it was."""
    done: int = 0
    total: int = 0
    state: SweepState = "running"
    """`running`, `ended`, `stopped`, or `failed`: a worker died; it can be begun again."""
    failures: list[SweptRow] = field(default_factory=list)
    wanted: bool = True


@dataclass
class _Kept:
    sweep: Sweep
    stamp: str
    """Of the document that it is about."""
    seen: float


class Sweeps:
    """The sweeps of an application: one a design."""

    def __init__(self) -> None:
        self._of: dict[str, _Kept] = {}
        self._lock = Lock()
        self._room = BoundedSemaphore(AT_ONCE)

    def start(self, id_: str, version: int, stamp: str, design: Design, depth: int, by: str) -> Sweep:
        """Begin a sweep, or return the one that is about this document already; one of another document is stopped.

        Raises NotAllowed where somebody else's sweep of this document goes on.
        """
        with self._lock:
            self._tidy()
            known = self._of.get(id_)
            if known is not None and known.stamp == stamp:
                goes_on = known.sweep.state == "running"
                if known.sweep.depth == depth and known.sweep.state in ("running", "ended") and known.sweep.wanted:
                    return known.sweep
                if goes_on and known.sweep.wanted and known.sweep.by != by:
                    raise NotAllowed(f"A sweep that {known.sweep.by} began goes on; it is {known.sweep.by}'s to stop.")
            if known is not None:
                known.sweep.wanted = False
            sweep = Sweep(version, depth, by)
            self._of[id_] = _Kept(sweep, stamp, monotonic())
        Thread(target=self._run, args=(sweep, design), daemon=True, name="sweep").start()
        return sweep

    def get(self, id_: str) -> Sweep:
        """Return the sweep of a design. Raises NoSuchThing."""
        with self._lock:
            known = self._of.get(id_)
            if known is None:
                raise NoSuchThing("No sweep of this design has been started.")
            known.seen = monotonic()
            return known.sweep

    def stop(self, id_: str, by: str) -> Sweep:
        """Let one's own sweep end as soon as it can. Raises NoSuchThing, or NotAllowed where it is somebody else's."""
        sweep = self.get(id_)
        if sweep.by != by:
            raise NotAllowed(f"{sweep.by} began this sweep; it is theirs to stop.")
        sweep.wanted = False
        return sweep

    def forget(self, id_: str) -> None:
        """Stop and drop the sweep of a design that is no more."""
        with self._lock:
            if (known := self._of.pop(id_, None)) is not None:
                known.sweep.wanted = False

    def end(self) -> None:
        """Stop all of them: the server ends."""
        for id_ in list(self._of):
            self.forget(id_)

    def _tidy(self) -> None:
        late = monotonic() - KEPT_S
        for id_ in [i for i, k in self._of.items() if k.seen < late and k.sweep.state != "running"]:
            del self._of[id_]

    def _run(self, sweep: Sweep, design: Design) -> None:
        def told(progress: Progress) -> bool:
            sweep.done, sweep.total = progress.done, progress.total
            return sweep.wanted

        with self._room:
            if not sweep.wanted:
                sweep.state = "stopped"
                return
            try:
                sweep.failures = swept_rows(sweep_failures(design, sweep.depth, told))
                sweep.state = "ended" if sweep.wanted else "stopped"
            except Exception:  # a worker was killed, or found a fault of ours: it is over, and says so
                LOG.exception("a sweep failed")
                sweep.state = "failed"
