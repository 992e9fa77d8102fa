"""Notices: what one server tells the others, and itself, by PostgreSQL's NOTIFY. A notice sent in a transaction is given out when it is stored."""

from __future__ import annotations

import json
from collections.abc import Callable
from threading import Event, Thread
from time import monotonic
from typing import Any

import psycopg
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from anabasis.store.engine import KEEPALIVE
from anabasis.store.held import cut, held_of

CHANNEL = "anabasis"
LOOK_S, SILENT_S, LONGEST_S = 0.5, 3.0, 30.0
"""How often it is looked; after how long a database that says nothing is taken for gone; how long anybody may use a connection at all."""
LONGEST = 7000
"""Bytes; PostgreSQL takes less than 8000."""
Notice = dict[str, Any]


def tell(session: Session, notice: Notice) -> None:
    """Tell every listener once the transaction is stored; what is too long to tell is left out but for its kind."""
    said = json.dumps(notice)
    if len(said) > LONGEST:
        said = json.dumps({k: notice[k] for k in ("design", "kind") if k in notice})
    session.execute(text("select pg_notify(:channel, :said)"), {"channel": CHANNEL, "said": said})


class Listener:
    """A thread that hears notices for as long as the application lives, and comes back when the database does."""

    def __init__(self, engine: Engine, hear: Callable[[Notice], None], alive: Callable[[bool], None]) -> None:
        """`hear` is called for every notice; `alive` with whether the database can be heard, whenever that changes."""
        self._url = engine.url.set(drivername="postgresql").render_as_string(hide_password=False)
        self._hear, self._alive = hear, alive
        self._stop = Event()
        self._held = held_of(engine)
        self._line: psycopg.Connection | None = None
        self._beat = monotonic()
        self._threads = [Thread(target=t, name="listener", daemon=True) for t in (self._run, self._watch)]

    def start(self) -> None:
        """Begin to listen."""
        for thread in self._threads:
            thread.start()

    def stop(self) -> None:
        """Stop within a second or so."""
        self._stop.set()
        for thread in self._threads:
            thread.join(timeout=3)

    def _watch(self) -> None:
        """Say when the database has not been heard for some seconds, and have nobody wait for it for ever."""
        while not self._stop.wait(LOOK_S):
            silent = monotonic() - self._beat
            if silent > SILENT_S:
                self._alive(False)
                if self._line is not None:
                    cut(self._line)
                self._held.cut(SILENT_S)
            else:
                self._held.cut(LONGEST_S)

    def _run(self) -> None:
        while not self._stop.is_set():
            try:
                with psycopg.connect(self._url, autocommit=True, connect_timeout=3, **KEEPALIVE) as connection:
                    self._line = connection
                    connection.execute(f"listen {CHANNEL}")
                    self._beat = monotonic()
                    self._alive(True)
                    while not self._stop.is_set():
                        for notice in connection.notifies(timeout=0.5):
                            self._hear(json.loads(notice.payload))
                        connection.execute("select 1")
                        self._beat = monotonic()
            except (psycopg.Error, OSError, ValueError):  # ValueError: the line was cut while it was waited on
                self._line = None
                self._alive(False)
                self._stop.wait(0.5)
