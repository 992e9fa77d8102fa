"""What every fault of a design would show, worked out in the background: one a design, for the draft as it is."""

from __future__ import annotations

import logging
from collections.abc import Callable
from dataclasses import dataclass, field
from threading import BoundedSemaphore, Lock, Thread
from time import monotonic
from typing import Literal

from anabasis.design import Tree
from anabasis.errors import Stopped
from anabasis.patience import Watch, watched
from anabasis.testing import Scene, TestSheet, scene_of, sheet_for

LOG = logging.getLogger("anabasis.knowing")
AT_ONCE, KEPT_S = 1, 3600.0
SECONDS = 10.0
"""How long a smaller sheet is looked for."""
KnownState = Literal["running", "ended", "stopped", "failed"]


@dataclass
class Known:
    """What is known of a draft, or is being worked out."""

    stamp: str
    state: KnownState = "running"
    watch: Watch = field(default_factory=Watch)
    sheet: TestSheet | None = None
    scene: Scene | None = None
    seen: float = field(default_factory=monotonic)


class Knowing:
    """What faults show, of the designs that somebody tests."""

    def __init__(self, workers: int = 2) -> None:
        self._of: dict[str, Known] = {}
        self._lock = Lock()
        self._room = BoundedSemaphore(AT_ONCE)
        self._workers = workers

    def of(self, id_: str, stamp: str, tree: Callable[[], Tree]) -> Known:
        """Return what is known of a draft; where nothing is, it is begun. What was worked out for another state of it is stopped."""
        with self._lock:
            late = monotonic() - KEPT_S
            for name in [n for n, k in self._of.items() if k.seen < late and k.state != "running"]:
                del self._of[name]
            known = self._of.get(id_)
            if known is not None and known.stamp == stamp and known.state in ("running", "ended"):
                known.seen = monotonic()
                return known
            if known is not None:
                known.watch.stop()
            known = self._of[id_] = Known(stamp)
        Thread(target=self._run, args=(known, tree()), daemon=True, name="knowing").start()
        return known

    def stop(self, id_: str) -> None:
        """Have the work on a design end."""
        if (known := self._of.get(id_)) is not None:
            known.watch.stop()

    def forget(self, id_: str) -> None:
        """Stop and drop what is known of a design that is no more."""
        with self._lock:
            known = self._of.pop(id_, None)
        if known is not None:
            known.watch.stop()

    def end(self) -> None:
        """Stop all work: the server ends."""
        for id_ in list(self._of):
            self.forget(id_)

    def _run(self, known: Known, tree: Tree) -> None:
        with self._room:
            try:
                with watched(known.watch):
                    known.scene = scene_of(tree)
                    known.sheet = sheet_for(tree, self._workers, SECONDS, scene=known.scene)
                known.state = "ended"
            except Stopped:
                known.state = "stopped"
            except Exception:  # a worker was killed, or found a fault of ours: it is over, and says so
                LOG.exception("what faults show could not be worked out")
                known.state = "failed"
