"""One question of a design at a time, and none waits for another's design: what was computed for a design is shared by those who ask of it."""

from __future__ import annotations

import inspect
from collections.abc import Callable
from functools import wraps
from threading import Lock, RLock
from typing import Any

from fastapi.routing import APIRoute

THREADS = 160
"""How many requests may stand in a thread at once, waiting ones among them (anyio's own limit is 40): a crowd at one slow design leaves room for others."""


class Turns:
    """One lock a design, made when it is first asked for."""

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
        super().__init__(path, _taking_turns(endpoint) if turned else endpoint, **more)


def _taking_turns(endpoint: Callable[..., Any]) -> Callable[..., Any]:
    @wraps(endpoint)
    def turned(*args: Any, **asked: Any) -> Any:
        with asked["state"].turns.of(asked["design_id"]):
            return endpoint(*args, **asked)

    return turned
