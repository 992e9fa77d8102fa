"""Those that work beside a server are killed at any moment: a backup, and the workers of a sweep of failures."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path
from random import Random

import pytest

from anabasis.design import Loaded
from anabasis.server.sweeps import Sweep, Sweeps
from anabasis.store import Store, connect, migrate
from ops.cluster import Cluster
from tests.conftest import NOON, ROOT
from tests.counts import count
from tests.processes import multiprocessing_children

KILLS = count(50, 5)
BACK_UP = "import sys; from pathlib import Path; from ops.cluster import Cluster; Cluster(Path(sys.argv[1])).back_up(Path(sys.argv[2]))"


def test_a_backup_is_killed_at_any_moment(demo: Loaded, tmp_path: Path) -> None:
    """Under its name stands the one before or the new one, whole; what it leaves is nobody else's to read."""
    rng = Random(1)
    with Cluster.for_a_while() as cluster:
        store = Store(connect(cluster.url))
        migrate(store.engine)
        store.create("d", demo.raw, NOON)
        file = tmp_path / "kept.backup"
        line = [sys.executable, "-c", BACK_UP, str(cluster.home), str(file)]
        began = time.monotonic()
        subprocess.run(line, cwd=ROOT, check=True)
        lasts = time.monotonic() - began
        cut = 0
        for n in range(KILLS):
            store.edit("d", n + 1, [{"op": "add", "path": "/note", "value": f"kept {n}"}], "Oda", NOON)
            process = subprocess.Popen(line, cwd=ROOT, start_new_session=True)
            time.sleep(rng.uniform(0.2, 1.05) * lasts)
            os.killpg(process.pid, signal.SIGKILL)
            cut += process.wait() != 0
            assert not cluster._tool("pg_restore", "--list", stdin=file).returncode
            assert all(p.stat().st_mode & 0o077 == 0 for p in tmp_path.iterdir())
        assert cut
        cluster.back_up(file)
        store.edit("d", KILLS + 1, [{"op": "remove", "path": "/note"}], "Oda", NOON)
        cluster.restore(file)
        assert store.draft("d").tree["note"] == f"kept {KILLS - 1}"


def waited(sweep: Sweep, state: str) -> bool:
    """Wait until a sweep is in a state."""
    late = time.monotonic() + 120
    while sweep.state != state and time.monotonic() < late:
        time.sleep(0.02)
    return sweep.state == state


@pytest.mark.slow
def test_workers_are_killed_at_any_moment(demo: Loaded) -> None:
    """The sweep says that it failed, none goes on for ever, and the next one works."""
    rng, sweeps = Random(2), Sweeps()
    for n in range(KILLS):
        sweep = sweeps.start(f"d{n}", 1, f"s{n}", demo.design, 2, "Oda")
        late = time.monotonic() + 60
        while not (workers := multiprocessing_children()) and time.monotonic() < late:
            time.sleep(0.02)
        time.sleep(rng.uniform(0, 4))
        os.kill(rng.choice(workers), signal.SIGKILL)
        assert waited(sweep, "failed")
    last = sweeps.start("last", 1, "last", demo.design, 2, "Oda")
    late = time.monotonic() + 60
    while not last.done and time.monotonic() < late:
        time.sleep(0.02)
    assert last.done
    sweeps.stop("last", "Oda")
    assert waited(last, "stopped")
