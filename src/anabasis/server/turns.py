"""One question of a design at a time, and none waits for another's design: what was computed for a design is shared by those who ask of it."""

from __future__ import annotations

import inspect
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field
from functools import wraps
from threading import Lock, RLock
from time import monotonic
from typing import Any

from fastapi.routing import APIRoute

from anabasis.patience import Watch, look, watched

THREADS = 160
"""How many requests may stand in a thread at once, waiting ones among them (anyio's own limit is 40): a crowd at one slow design leaves room for others."""


PATIENCE_S = 0.25
"""How often one who waits for a turn looks whether it is still wanted."""
asking: ContextVar[str] = ContextVar("asking", default="")
"""The page that the request at hand comes from; "" = none that said so."""


@dataclass(eq=False)
class Running:
    """A question that is being worked out, or waits for its turn."""

    page: str
    design: str
    watch: Watch = field(default_factory=Watch)
    began: float = field(default_factory=monotonic)


class Works:
    """All questions that are being worked out now."""

    def __init__(self) -> None:
        self._running: list[Running] = []
        self._lock = Lock()

    @contextmanager
    def one(self, design_id: str) -> Iterator[None]:
        """Have the work inside known, and watched, while it lasts."""
        mine = Running(asking.get(), design_id)
        with self._lock:
            self._running.append(mine)
        try:
            with watched(mine.watch):
                yield
        finally:
            with self._lock:
                self._running.remove(mine)

    def of(self, page: str, design_id: str) -> list[Running]:
        """Return what a page waits for, the oldest first."""
        with self._lock:
            return [r for r in self._running if page and (r.page, r.design) == (page, design_id)]


class Turns:
    """One lock a design, its what-ifs included, made when it is first asked for."""

    def __init__(self) -> None:
        self._of: dict[str, Any] = {}
        self._lock = Lock()

    def of(self, design_id: str) -> Any:
        """Return the lock of a design; whoever has it may take it again."""
        with self._lock:
            return self._of.setdefault(design_id, RLock())

    def forget(self, design_id: str) -> None:
        """Drop the lock of a design that is no more; those who wait for it go on."""
        with self._lock:
            self._of.pop(design_id, None)


class InTurn(APIRoute):
    """A route of one design: its work is done while no other work of that design is."""

    def __init__(self, path: str, endpoint: Callable[..., Any], **more: Any) -> None:
        """`endpoint`: what is asked for both `design_id` and `state` takes turns; anything else is left as it is."""
        asked = inspect.signature(endpoint).parameters
        turned = {"design_id", "state"} <= asked.keys() and not inspect.iscoroutinefunction(endpoint)
        asks = set(more.get("methods") or ()) == {"GET"}
        super().__init__(path, _taking_turns(endpoint, asks) if turned else endpoint, **more)


def _taking_turns(endpoint: Callable[..., Any], asks: bool) -> Callable[..., Any]:
    """`asks`: it only asks, and may be stopped; an edit is made or refused, never stopped half-way."""

    @wraps(endpoint)
    def turned(*args: Any, **asked: Any) -> Any:
        lock = asked["state"].turns.of(asked["state"].family(asked["design_id"]))
        if not asks:
            with lock:
                return endpoint(*args, **asked)
        with asked["state"].works.one(asked["design_id"]):
            while not lock.acquire(timeout=PATIENCE_S):
                look()
            try:
                return endpoint(*args, **asked)
            finally:
                lock.release()

    return turned
