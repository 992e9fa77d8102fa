"""Start Anabasis: the private cluster, migrations, the demo on first start, the server. Ctrl-C stops all of it."""

from __future__ import annotations

import fcntl
import getpass
import os
import socket
import sys
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime
from pathlib import Path
from uuid import uuid4

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from ops.cluster import Cluster, state_folder  # noqa: E402

STATE = state_folder(ROOT)
STATE.mkdir(parents=True, exist_ok=True)
USERS = (STATE / "users.lock").open("w")
fcntl.flock(USERS, fcntl.LOCK_SH)
CLUSTER = Cluster(STATE)
WAKING = ThreadPoolExecutor(1).submit(CLUSTER.start)  # while the rest is imported, which takes as long

import uvicorn  # noqa: E402

from anabasis.design import load_file  # noqa: E402
from anabasis.server import LOOPBACK, create_app  # noqa: E402
from anabasis.store import People, Store, connect, migrate  # noqa: E402

FIRST_PORT = 8460
DEMOS = ("tidewrack", "tidewrack-first-day")


def listen() -> socket.socket:
    """Return a socket on the first free port of loopback from 8460 on."""
    for port in range(FIRST_PORT, FIRST_PORT + 100):
        listener = socket.socket()
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listener.bind(("127.0.0.1", port))
            listener.listen(128)
        except OSError:
            listener.close()
            continue
        return listener
    raise SystemExit(f"No port from {FIRST_PORT} to {FIRST_PORT + 99} is free.")


def load_demos(store: Store) -> None:
    """Load the demo designs into an empty store."""
    if store.untouched:
        for name in DEMOS:
            store.create(uuid4().hex, load_file(ROOT / "demo" / f"{name}.yaml").raw, datetime.now(UTC))


class Server(uvicorn.Server):
    """Says where it is once it answers, with a link that lets the local user in, once."""

    secret = ""

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        """Print the address as soon as requests are taken."""
        await super().startup(sockets)
        if sockets and self.started:
            here = f"http://127.0.0.1:{sockets[0].getsockname()[1]}"
            print(f"Anabasis is at {here}  (Ctrl-C stops it)", flush=True)
            print(f"Open it signed in, once: {here}/enter/{self.secret}", flush=True)


def serve() -> None:
    """Serve until Ctrl-C."""
    engine = connect(CLUSTER.url)
    try:
        migrate(engine)
        store = Store(engine)
        load_demos(store)
        people = People(engine)
        owner = people.ensure(getpass.getuser(), datetime.now(UTC))
        hosts = [*LOOPBACK, *filter(None, os.environ.get("ANABASIS_HOSTS", "").split(","))]
        app = create_app(
            store,
            web=ROOT / "web" / "dist",
            accounts=people,
            hosts=hosts,
            starts=ROOT / "demo" / "starts",
            docs=ROOT / "docs",
        )
        config = uvicorn.Config(app, log_level="warning", timeout_graceful_shutdown=3, timeout_keep_alive=75)
        server = Server(config)
        server.secret = people.link(owner.id, datetime.now(UTC))
        server.run(sockets=[listen()])
    finally:
        engine.dispose()


def last_user() -> bool:
    """Tell whether no other server of this checkout uses the cluster."""
    try:
        fcntl.flock(USERS, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return False
    return True


def main() -> None:
    """Start, serve, stop."""
    try:
        WAKING.result()
        serve()
    except KeyboardInterrupt:
        pass
    finally:
        if last_user():
            CLUSTER.stop()
        print("Stopped.", flush=True)


if __name__ == "__main__":
    main()
