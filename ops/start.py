"""Start Anabasis: the private cluster, migrations, the demo on first start, the server. Ctrl-C stops all of it."""

from __future__ import annotations

import fcntl
import hashlib
import os
import socket
import sys
from datetime import UTC, datetime
from pathlib import Path
from uuid import uuid4

import uvicorn

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))


from anabasis.design import load_file  # noqa: E402
from anabasis.server import create_app  # noqa: E402
from anabasis.store import Store, connect, migrate  # noqa: E402
from ops.cluster import Cluster  # noqa: E402

FIRST_PORT = 8460
DEMOS = ("tidewrack",)


def state_folder() -> Path:
    """Return where this checkout keeps its cluster: beside it, or for root where the service user may go."""
    if os.geteuid() == 0:
        return Path("/var/lib/anabasis") / hashlib.sha256(str(ROOT).encode()).hexdigest()[:12]
    return ROOT / ".state"


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
    if not store.designs():
        for name in DEMOS:
            store.create(uuid4().hex, load_file(ROOT / "demo" / f"{name}.yaml").raw, datetime.now(UTC))


class Server(uvicorn.Server):
    """Says where it is once it answers."""

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        """Print the address as soon as requests are taken."""
        await super().startup(sockets)
        if sockets and self.started:
            print(f"Anabasis is at http://127.0.0.1:{sockets[0].getsockname()[1]}  (Ctrl-C stops it)", flush=True)


def main() -> None:
    """Start, serve, stop."""
    folder = state_folder()
    folder.mkdir(parents=True, exist_ok=True)
    with (folder / "users.lock").open("w") as users:
        fcntl.flock(users, fcntl.LOCK_SH)
        cluster = Cluster(folder)
        cluster.start()
        engine = connect(cluster.url)
        try:
            migrate(engine)
            store = Store(engine)
            load_demos(store)
            app = create_app(store, web=ROOT / "web" / "dist")
            listener = listen()
            config = uvicorn.Config(app, log_level="warning", timeout_graceful_shutdown=3)
            Server(config).run(sockets=[listener])
        except KeyboardInterrupt:
            pass
        finally:
            engine.dispose()
            if _last(users):
                cluster.stop()
            print("Stopped.", flush=True)


def _last(users: object) -> bool:
    """Tell whether no other server of this checkout uses the cluster."""
    try:
        fcntl.flock(users, fcntl.LOCK_EX | fcntl.LOCK_NB)  # type: ignore[arg-type]
    except OSError:
        return False
    return True


if __name__ == "__main__":
    main()
