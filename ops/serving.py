"""A server in a thread, over a store, on a free port: for the browser tests and the pictures."""

from __future__ import annotations

import socket
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

import uvicorn

from anabasis.server import create_app
from anabasis.store import People, Store

WEB = Path(__file__).resolve().parent.parent / "web" / "dist"
DOCS = Path(__file__).resolve().parent.parent / "docs"
STARTS = Path(__file__).resolve().parent.parent / "demo" / "starts"


def enter(store: Store, address: str, name: str = "Oda") -> str:
    """Return a link that signs somebody in, once; made an owner if there is no such account."""
    people, now = People(store.engine), datetime.now(UTC)
    return f"{address}/enter/{people.link(people.ensure(name, now).id, now)}"


@contextmanager
def serving(store: Store) -> Iterator[str]:
    """Serve until the block ends; yields the address."""
    listener = socket.socket()
    listener.bind(("127.0.0.1", 0))
    server = uvicorn.Server(
        uvicorn.Config(
            create_app(store, web=WEB, starts=STARTS, docs=DOCS), log_level="error", timeout_graceful_shutdown=1
        )
    )
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]}, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    try:
        yield f"http://127.0.0.1:{listener.getsockname()[1]}"
    finally:
        server.should_exit = True
        thread.join(timeout=10)
