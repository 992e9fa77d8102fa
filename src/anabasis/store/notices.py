"""Notices: what one server tells the others, and itself, by PostgreSQL's NOTIFY. A notice sent in a transaction is given out when it is stored."""

from __future__ import annotations

import json
from collections.abc import Callable
from threading import Event, Thread
from typing import Any

import psycopg
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

CHANNEL = "anabasis"
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
        self._thread = Thread(target=self._run, name="listener", daemon=True)

    def start(self) -> None:
        """Begin to listen."""
        self._thread.start()

    def stop(self) -> None:
        """Stop within a second or so."""
        self._stop.set()
        self._thread.join(timeout=3)

    def _run(self) -> None:
        while not self._stop.is_set():
            try:
                with psycopg.connect(self._url, autocommit=True, connect_timeout=5) as connection:
                    connection.execute(f"listen {CHANNEL}")
                    self._alive(True)
                    while not self._stop.is_set():
                        for notice in connection.notifies(timeout=0.5):
                            self._hear(json.loads(notice.payload))
                        connection.execute("select 1")
            except psycopg.Error:
                self._alive(False)
                self._stop.wait(0.5)
