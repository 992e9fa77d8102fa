"""Connections in use: a database that is frozen, or whose host is cut off, answers nothing and refuses nothing, so we stop waiting ourselves."""

from __future__ import annotations

import socket
from threading import Lock
from time import monotonic
from typing import Any
from weakref import WeakKeyDictionary

from sqlalchemy import Engine, event
from sqlalchemy.exc import DisconnectionError


class Held:
    """The connections of an engine that somebody uses, and since when."""

    def __init__(self, engine: Engine) -> None:
        """Begin to take note."""
        self._ping = engine.dialect.do_ping
        self._since: dict[int, tuple[Any, float]] = {}
        self._lock = Lock()
        event.listen(engine, "checkout", self._taken)
        event.listen(engine, "checkin", self._given_back)

    def _taken(self, connection: Any, *_: Any) -> None:
        with self._lock:
            self._since[id(connection)] = connection, monotonic()
        try:
            self._ping(
                connection
            )  # one that died in the pool is left, and another taken; noted first, so that this too can be cut off
        except Exception:
            self._given_back(connection)
            raise DisconnectionError from None

    def _given_back(self, connection: Any, *_: Any) -> None:
        with self._lock:
            self._since.pop(id(connection), None)

    def cut(self, older_s: float) -> None:
        """Cut the lines of those in use for longer: who waits there is told that the store does not answer."""
        with self._lock:
            late = [c for c, since in self._since.values() if monotonic() - since > older_s]
        for connection in late:
            cut(connection)


_of: WeakKeyDictionary[Engine, Held] = WeakKeyDictionary()


def watch(engine: Engine) -> Engine:
    """Take note of the connections of an engine from now on; return it."""
    _of[engine] = Held(engine)
    return engine


def held_of(engine: Engine) -> Held:
    """Return what is held of an engine that is watched."""
    return _of[engine]


def cut(connection: Any) -> None:
    """Cut the line of one connection of psycopg, from another thread than the one that waits on it."""
    try:
        line = socket.socket(fileno=socket.dup(connection.fileno()))
    except Exception:  # it was closed meanwhile
        return
    try:
        line.shutdown(socket.SHUT_RDWR)
    except OSError:
        pass
    finally:
        line.close()
