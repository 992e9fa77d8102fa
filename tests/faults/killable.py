"""A server that may be killed at any moment: imported once, forked for every life. Lines on standard input begin a life; its id is printed."""

from __future__ import annotations

import os
import socket
import sys
import time
from threading import Thread

import uvicorn

from anabasis.server import create_app
from anabasis.store import Store, connect


def live(url: str, listener: socket.socket) -> None:
    """Serve until killed."""
    app = create_app(Store(connect(url)))
    uvicorn.Server(uvicorn.Config(app, log_level="critical")).run(sockets=[listener])


def _with(parent: int) -> None:
    """Go when whoever started this has gone."""
    while os.getppid() == parent:
        time.sleep(0.5)
    os._exit(0)


def main(url: str, port: int) -> None:
    """Fork a server for every line read, once the one before is gone."""
    child = 0
    for _ in sys.stdin:
        if child:
            os.waitpid(child, 0)
        listener = socket.socket()
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        listener.bind(("127.0.0.1", port))
        child = os.fork()
        if child == 0:
            os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
            Thread(target=_with, args=(os.getppid(),), daemon=True).start()
            live(url, listener)
            os._exit(0)
        listener.close()
        print(child, flush=True)


if __name__ == "__main__":
    main(sys.argv[1], int(sys.argv[2]))
