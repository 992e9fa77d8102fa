"""Sweeps of failures that go on in the background, one a design."""

from __future__ import annotations

from dataclasses import dataclass, field
from threading import Lock, Thread

from anabasis.design import Design
from anabasis.errors import NoSuchThing
from anabasis.failover import Progress, Swept, sweep_failures


@dataclass
class Sweep:
    """One sweep that goes on, or has ended."""

    version: int
    depth: int
    done: int = 0
    total: int = 0
    state: str = "running"
    """`running`, `ended` or `stopped`."""
    failures: list[Swept] = field(default_factory=list)
    wanted: bool = True


class Sweeps:
    """The sweeps of an application: one a design."""

    def __init__(self) -> None:
        self._of: dict[str, Sweep] = {}
        self._stamps: dict[str, str] = {}
        """What each of them is about."""
        self._lock = Lock()

    def start(self, id_: str, version: int, stamp: str, design: Design, depth: int) -> Sweep:
        """Begin a sweep, or return the one that is about this document already. One of another is stopped."""
        with self._lock:
            known = self._of.get(id_)
            if (
                known is not None
                and (self._stamps.get(id_), known.depth) == (stamp, depth)
                and known.state != "stopped"
            ):
                return known
            if known is not None:
                known.wanted = False
            sweep = self._of[id_] = Sweep(version, depth)
            self._stamps[id_] = stamp
        Thread(target=_run, args=(sweep, design), daemon=True).start()
        return sweep

    def get(self, id_: str) -> Sweep:
        """Return the sweep of a design. Raises NoSuchThing."""
        if id_ not in self._of:
            raise NoSuchThing("No sweep of this design has been started.")
        return self._of[id_]

    def stop(self, id_: str) -> Sweep:
        """Let a sweep end as soon as it can. Raises NoSuchThing."""
        sweep = self.get(id_)
        sweep.wanted = False
        return sweep


def _run(sweep: Sweep, design: Design) -> None:
    def told(progress: Progress) -> bool:
        sweep.done, sweep.total = progress.done, progress.total
        return sweep.wanted

    sweep.failures = sweep_failures(design, sweep.depth, told)
    sweep.state = "ended" if sweep.wanted else "stopped"
