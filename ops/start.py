"""Start Anabasis: the private cluster, migrations, the demo on first start, the server. Ctrl-C stops all of it.

Nothing is done while this file is imported: processes that work beside the server import it again.
"""

from __future__ import annotations

import fcntl
import os
import pwd
import signal
import sys
import threading
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime
from pathlib import Path
from types import FrameType
from typing import IO
from uuid import uuid4

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from ops.cluster import USER, Cluster, state_folder  # noqa: E402

DEMOS = ("tidewrack", "tidewrack-first-day", "tidewrack-bay", "tidewrack-exhibition")
LOOK_S = 1.0
"""How often it is looked whether the database still runs."""


def last_user(users: IO[str]) -> bool:
    """Tell whether no other server of this checkout uses the cluster."""
    try:
        fcntl.flock(users, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return False
    return True


def supervise(cluster: Cluster, ended: threading.Event) -> None:
    """Start the database again, on the port it had, whenever it has died."""
    while not ended.wait(LOOK_S):
        if not cluster.alive():
            print("The database has died; it is started again.", file=sys.stderr, flush=True)
            try:
                cluster.start(same_port=True)
            except SystemExit as error:
                print(error, file=sys.stderr, flush=True)


def drop_to_service_user() -> None:
    """As root, go on as the service user that the database runs as; where it cannot read the program or Python, go on as root and say so."""
    if os.geteuid() != 0:
        return
    user = pwd.getpwnam(USER)
    needed = (ROOT, Path(sys.prefix), Path(sys.base_prefix), Path(os.__file__).parent)
    closed = [p for n in needed for p in (n, *n.parents) if p.stat().st_mode & 0o005 != 0o005]
    if closed:
        print(f"{closed[-1]} is closed to the user {USER}: the server goes on as root.", file=sys.stderr, flush=True)
        return
    os.initgroups(USER, user.pw_gid)
    os.setgid(user.pw_gid)
    os.setuid(user.pw_uid)
    os.environ |= {"HOME": user.pw_dir, "USER": USER, "LOGNAME": USER}


def run(cluster: Cluster, waking: object) -> None:
    """Serve until a signal ends it."""
    from anabasis.design import load_file
    from anabasis.server.run import Serving, listen, opened, serve

    waking.result()  # type: ignore[attr-defined]
    ended = threading.Event()
    try:
        names = [n for n in os.environ.get("ANABASIS_HOSTS", "").split(",") if n]
        wanted = Serving(cluster.url, names=names, log=os.environ.get("ANABASIS_LOG", "plain"))
        listener = listen(wanted.host, wanted.port)
        owner = os.environ.get("SUDO_USER") or pwd.getpwuid(os.getuid()).pw_name
        drop_to_service_user()
        os.environ["LOGNAME"] = owner  # whose link is printed
        threading.Thread(target=supervise, args=(cluster, ended), daemon=True).start()
        store = opened(wanted.database)
        if store.untouched:
            for name in DEMOS:
                store.create(uuid4().hex, load_file(ROOT / "demo" / f"{name}.yaml").raw, datetime.now(UTC))
        serve(wanted, store, listener)
        store.engine.dispose()
    finally:
        ended.set()


def _interrupted(signum: int, frame: FrameType | None) -> None:
    raise KeyboardInterrupt


def main() -> None:
    """Start, serve, stop."""
    state = state_folder(ROOT)
    state.mkdir(parents=True, exist_ok=True)
    users = (state / "users.lock").open("w")
    fcntl.flock(users, fcntl.LOCK_SH)
    cluster = Cluster(state)
    for number in (signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, _interrupted)
    waking = ThreadPoolExecutor(1).submit(cluster.start)  # while the rest is imported, which takes as long
    try:
        run(cluster, waking)
    except KeyboardInterrupt:
        pass
    finally:
        for number in (signal.SIGTERM, signal.SIGHUP, signal.SIGINT):
            signal.signal(number, signal.SIG_IGN)
        if last_user(users):
            cluster.stop()
        print("Stopped.", flush=True)


if __name__ == "__main__":
    main()
